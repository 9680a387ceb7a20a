// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/blind_order.h"

#include <algorithm>

namespace yewdrift::app {
namespace {

std::vector<LaneNumber> shown(const Track& track) {
  std::vector<LaneNumber> lanes;
  for (const auto& lane : track.lanes)
    if (!lane->setAside) lanes.push_back(lane->number);
  return lanes;
}

}  // namespace

BlindOrder::BlindOrder(const Track& track, std::mt19937& chance) : lanes_(shown(track)) {
  std::shuffle(lanes_.begin(), lanes_.end(), chance);
}

QString BlindOrder::letterOf(LaneNumber lane) const {
  const auto found = std::find(lanes_.begin(), lanes_.end(), lane);
  if (found == lanes_.end()) return {};
  QString letters;
  for (auto place = found - lanes_.begin() + 1; place > 0; place = (place - 1) / 26)
    letters.prepend(QChar(static_cast<char16_t>(u'A' + (place - 1) % 26)));
  return letters;
}

bool BlindOrder::fits(const Track& track) const {
  const std::vector<LaneNumber> now = shown(track);
  return std::is_permutation(now.begin(), now.end(), lanes_.begin(), lanes_.end());
}

}  // namespace yewdrift::app
