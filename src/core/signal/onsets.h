// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>
#include <span>
#include <vector>

#include "core/time/frames.h"

namespace yewdrift {

/// Where sounds begin: strokes, plucks, syllables. Blocks of any length, in order; aubio's onset detection
/// (high-frequency content), moved to the steepest rise of level nearby, which is where a person would point.
/// Places in the signal, sorted, at least 30 ms apart. One thread at a time.
class OnsetFinder {
 public:
  explicit OnsetFinder(SampleRate rate);
  ~OnsetFinder();
  OnsetFinder(const OnsetFinder&) = delete;
  OnsetFinder& operator=(const OnsetFinder&) = delete;

  void add(std::span<const float> samples);
  /// All of them; nothing may be added afterwards.
  [[nodiscard]] std::vector<Frames> finish();

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace yewdrift
