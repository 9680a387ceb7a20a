// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <mutex>
#include <vector>

#include "core/engine/sample_ring.h"
#include "core/time/frames.h"

namespace yewdrift {

/// The last stretch of some device inputs, always running, so that something good that was played while
/// nothing was recorded can be claimed afterwards. Costs its length in memory: 11 MB an input for a minute at
/// 48 kHz.
class StandbyTape {
 public:
  StandbyTape(std::vector<int> inputs, SampleRate rate, double seconds);
  [[nodiscard]] const std::vector<int>& inputs() const { return inputs_; }

  // -- audio thread
  void push(const float* const* inputs, int inputCount, int frames) noexcept;
  // -- writer thread
  void drain();
  // -- any thread
  /// What it holds, oldest first, a channel for each input.
  [[nodiscard]] std::vector<std::vector<float>> take() const;
  [[nodiscard]] Frames held() const;
  /// Forgets what it holds: it has become a take.
  void clear();

 private:
  std::vector<int> inputs_;
  std::size_t capacity_;  // frames
  SampleRing ring_;
  std::vector<float> chunk_;
  mutable std::mutex mutex_;
  std::vector<std::vector<float>> channels_;  // circular, all alike
  std::size_t next_ = 0;
  std::size_t held_ = 0;
};

}  // namespace yewdrift
