// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QString>
#include <random>
#include <vector>

#include "core/session/session.h"

namespace yewdrift::app {

/// Takes in an order that tells nothing, each called by a letter: what is compared without knowing which is
/// which.
class BlindOrder {
 public:
  /// Those of the track that are not set aside, shuffled.
  BlindOrder(const Track& track, std::mt19937& chance);

  [[nodiscard]] const std::vector<LaneNumber>& lanes() const { return lanes_; }
  /// A, B, ... Z, AA, AB ...; empty for a lane that is not among them.
  [[nodiscard]] QString letterOf(LaneNumber lane) const;
  /// The same takes are still there, and no others.
  [[nodiscard]] bool fits(const Track& track) const;

 private:
  std::vector<LaneNumber> lanes_;
};

}  // namespace yewdrift::app
