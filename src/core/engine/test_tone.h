// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <atomic>
#include <cmath>
#include <numbers>

#include "core/time/frames.h"

namespace yewdrift {

/// A sine of 1 kHz at -20 dBFS, switched on and off without a click.
class TestTone {
 public:
  explicit TestTone(SampleRate rate) : step_(2.0 * std::numbers::pi * 1000.0 / rate.hertz) {}

  // -- any thread
  void set(bool on) noexcept { on_.store(on, std::memory_order_relaxed); }
  [[nodiscard]] bool on() const noexcept { return on_.load(std::memory_order_relaxed); }

  // -- audio thread
  void add(int frames, float* left, float* right) noexcept {
    const bool wanted = on();
    if (!wanted && gain_ == 0.0F) return;
    for (int i = 0; i < frames; ++i) {
      gain_ = std::clamp(gain_ + (wanted ? fade : -fade), 0.0F, level);
      const float sample = gain_ * static_cast<float>(std::sin(phase_));
      phase_ += step_;
      left[i] += sample;
      right[i] += sample;
    }
    phase_ = std::fmod(phase_, 2.0 * std::numbers::pi);
  }

 private:
  static constexpr float level = 0.1F;
  static constexpr float fade = level / 960.0F;
  double step_;
  double phase_ = 0.0;
  float gain_ = 0.0F;
  std::atomic<bool> on_{false};
};

}  // namespace yewdrift
