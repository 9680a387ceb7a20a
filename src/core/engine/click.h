// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/session/recording_options.h"
#include "core/time/roll_timeline.h"
#include "core/time/tempo_map.h"

namespace yewdrift {

/// The click of the metronome: what sounds at a frame depends on its position alone. Allocates only when
/// made.
class Click {
 public:
  explicit Click(SampleRate rate);

  /// Adds the clicks that sound within [start, start + frames) to both sides.
  void add(const TempoMap& tempo, const ClickOptions& options, Frames start, int frames, float* left,
           float* right) const noexcept;
  /// The same in the count-in of a roll: beats of the tempo it starts in, counted back from its start.
  void addCountIn(const TempoMap& tempo, const ClickOptions& options, const RollTimeline& timeline,
                  Frames rollFrame, int frames, float* left, float* right) const noexcept;

 private:
  void addOne(bool accent, float gain, Frames beat, Frames start, int frames, float* left,
              float* right) const noexcept;

  SampleRate rate_;
  std::vector<float> accented_;
  std::vector<float> plain_;
};

}  // namespace yewdrift
