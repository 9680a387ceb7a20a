// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <atomic>
#include <cmath>

namespace yewdrift {

/// Raises a peak that another thread takes and clears.
inline void raisePeak(std::atomic<float>& peak, float value) noexcept {
  if (value > peak.load(std::memory_order_relaxed)) peak.store(value, std::memory_order_relaxed);
}

inline float loudestOf(const float* samples, int count) noexcept {
  float peak = 0.0F;
  for (int i = 0; i < count; ++i) peak = std::max(peak, std::abs(samples[i]));
  return peak;
}

}  // namespace yewdrift
