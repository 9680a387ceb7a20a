// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <cmath>
#include <span>

namespace yewdrift {

/// Of some samples the lowest, the highest, and the sum of their squares.
struct Extremes {
  float low = 0.0F;
  float high = 0.0F;
  double squares = 0.0;

  [[nodiscard]] float peak() const { return std::max(std::abs(low), std::abs(high)); }
};

/// Of at least one sample.
Extremes extremesOf(std::span<const float> samples);

}  // namespace yewdrift
