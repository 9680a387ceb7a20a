// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <cmath>

#include "core/time/frames.h"

namespace yewdrift::app {

/// Between frames and pixels of a view.
struct TimeScale {
  Frames origin;                 // at x = 0
  double framesPerPixel = 1000;  // > 0

  /// No view is closer: a sample is eight pixels wide.
  static constexpr double closest = 0.125;

  [[nodiscard]] double x(Frames at) const {
    return static_cast<double>((at - origin).count) / framesPerPixel;
  }
  [[nodiscard]] Frames at(double pixel) const {
    return origin + Frames{std::llround(pixel * framesPerPixel)};
  }
  /// Zoomed by `factor`, with what is under `pixel` staying there; no further out than `most` frames a pixel,
  /// or than it is already.
  [[nodiscard]] TimeScale zoomed(double factor, double pixel, double most = 4.0e6) const {
    const double fpp = std::clamp(framesPerPixel * factor, closest, std::max(most, framesPerPixel));
    return {origin + Frames{std::llround(pixel * (framesPerPixel - fpp))}, fpp};
  }
  bool operator==(const TimeScale&) const = default;
};

}  // namespace yewdrift::app
