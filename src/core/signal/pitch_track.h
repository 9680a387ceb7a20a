// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cmath>
#include <memory>
#include <span>
#include <vector>

#include "core/session/level.h"
#include "core/time/frames.h"

namespace yewdrift {

/// Of a frequency above MIDI note 0, so that A4 = 440 Hz (ISO 16) is 6,900; and back.
inline Cents centsOf(double hertz) {
  return {6900.0 + 1200.0 * std::log2(hertz / 440.0)};
}
inline double hertzOf(Cents pitch) {
  return 440.0 * std::exp2((pitch.value - 6900.0) / 1200.0);
}

/// How high a signal is, step by step: one value for every `step` frames, of the stretch around the middle
/// of that step. NaN where it has no pitch: rests, noise, several notes at once.
struct PitchTrack {
  Frames step;
  std::vector<float> cents;

  /// The values of steps whose middle lies in [from, to), those without pitch left out.
  [[nodiscard]] std::vector<float> voicedIn(Frames from, Frames to) const;
};

/// Tracks it by aubio's YIN (de Cheveigné and Kawahara, JASA 111, 2002), 40 Hz to 4 kHz. Blocks of any
/// length, in order. One thread at a time.
class PitchTracker {
 public:
  explicit PitchTracker(SampleRate rate);
  ~PitchTracker();
  PitchTracker(const PitchTracker&) = delete;
  PitchTracker& operator=(const PitchTracker&) = delete;

  void add(std::span<const float> samples);
  /// Nothing may be added afterwards.
  [[nodiscard]] PitchTrack finish();

 private:
  struct State;
  std::unique_ptr<State> state_;
};

PitchTrack trackPitch(std::span<const float> samples, SampleRate rate);

/// The middle value (of an even number the mean of the two in the middle); NaN of none.
double medianOf(std::vector<float> values);

}  // namespace yewdrift
