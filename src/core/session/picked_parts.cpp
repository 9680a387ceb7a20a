// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/session/picked_parts.h"

#include <algorithm>

namespace yewdrift {

std::vector<Span> pickedParts(const Track& track, const Piece& piece) {
  const auto& picks = track.composite.picks;
  std::vector<Span> parts;
  auto pick = std::partition_point(picks.begin(), picks.end(),
                                   [&](const Piece& each) { return each.span.end <= piece.span.start; });
  for (; pick != picks.end() && pick->span.start < piece.span.end; ++pick) {
    if (!pick->picked) continue;
    const Span part = pick->span.intersect(piece.span);
    if (!parts.empty() && parts.back().end == part.start)
      parts.back().end = part.end;
    else
      parts.push_back(part);
  }
  return parts;
}

ChosenBy chosenBy(const Track& track, const Piece& piece) {
  if (piece.picked) return piece.rough ? ChosenBy::Ratings : ChosenBy::Person;
  return pickedParts(track, piece).empty() ? ChosenBy::Nobody : ChosenBy::InPart;
}

}  // namespace yewdrift
