// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "core/session/level.h"
#include "core/time/frames.h"

namespace yewdrift {

/// How loud a stretch is.
struct Loudness {
  std::optional<double>
      lufs;           ///< integrated, gated, after ITU-R BS.1770-4; none: all of it is below -70 LUFS
  float peak = 0.0F;  ///< the largest sample, of full scale 1
  int overs = 0;      ///< moments at full scale or above it
};

/// Measures it by libebur128. Of a stretch shorter than a gating block (400 ms) it is as if it were repeated.
/// One thread at a time.
class LoudnessMeter {
 public:
  LoudnessMeter(int channels, SampleRate rate);
  ~LoudnessMeter();
  LoudnessMeter(const LoudnessMeter&) = delete;
  LoudnessMeter& operator=(const LoudnessMeter&) = delete;

  /// `samples` by frames: one sample for each channel. What is not finite counts as silence.
  void add(std::span<const float> samples);
  /// Nothing may be added afterwards.
  [[nodiscard]] Loudness finish();

 private:
  struct State;
  std::unique_ptr<State> state_;
};

/// By how much each take is to be turned for all of them to be equally loud: as loud as the middle one, or
/// less where one of them would pass full scale. A take that is more than 20 dB quieter than the middle one
/// is turned up only as far as it does not clip; one without a loudness is left as it is.
std::vector<Decibels> levelMatch(std::span<const Loudness> takes);

}  // namespace yewdrift
