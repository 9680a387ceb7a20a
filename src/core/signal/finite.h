// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cmath>

namespace yewdrift {

/// A broken sample, which is no number or an endless one, counts as silence.
[[nodiscard]] inline float finite(float sample) {
  return std::isfinite(sample) ? sample : 0.0F;
}

}  // namespace yewdrift
