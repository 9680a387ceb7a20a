// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cmath>

namespace yewdrift {

/// A level ratio; 0 dB leaves a signal as it is.
struct Decibels {
  double value = 0.0;
  constexpr auto operator<=>(const Decibels&) const = default;
};

inline float factorOf(Decibels level) {
  return level.value == 0.0 ? 1.0F : static_cast<float>(std::pow(10.0, level.value / 20.0));
}
inline Decibels decibelsOf(double factor) {
  return {20.0 * std::log10(std::max(factor, 1e-10))};
}

/// A hundredth of an equally tempered semitone.
struct Cents {
  double value = 0.0;
  constexpr auto operator<=>(const Cents&) const = default;
};

/// Where a signal stands between left (-1) and right (+1).
struct Pan {
  double value = 0.0;
  constexpr auto operator<=>(const Pan&) const = default;
};

}  // namespace yewdrift
