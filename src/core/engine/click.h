// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <cstdint>
#include <limits>
#include <vector>

#include "core/edit/record_cue.h"
#include "core/session/recording_options.h"
#include "core/time/tempo_map.h"

namespace yewdrift {

/// The click of the metronome. Where the transport passes a beat it is struck, and rings out whatever the
/// transport does next. Audio thread; allocates only when made.
class Click {
 public:
  explicit Click(SampleRate rate);

  /// Strikes at the beats of the song within [start, start + frames), heard from `offset` of the block on.
  void strikeBeats(const TempoMap& tempo, const ClickOptions& options, Frames start, int frames,
                   int offset) noexcept;
  /// The same in the count-in of a roll: the beats of the song at its start, counted back in the tempo that
  /// it starts in.
  void strikeCountIn(const TempoMap& tempo, const ClickOptions& options, const RollTimeline& timeline,
                     Frames rollFrame, int frames, int offset) noexcept;
  /// A low tick at every beat that is left until the next punch or wrap of a recording
  /// (core/edit/record_cue.h) and lies within [rollFrame, rollFrame + frames).
  void strikeCue(const RecordSetup& setup, const TempoMap& tempo, const ClickOptions& options, bool grid,
                 Frames rollFrame, int frames, int offset) noexcept;
  /// Adds what rings in a block to both sides.
  void ring(int frames, float* left, float* right) noexcept;
  void hush() noexcept { ringing_.fill({}); }

 private:
  struct Knock {
    const std::vector<float>* sound = nullptr;
    float gain = 0.0F;
    std::int64_t begins = std::numeric_limits<std::int64_t>::min();  // from the block's start
  };
  void strike(const std::vector<float>& sound, float gain, std::int64_t at) noexcept;

  SampleRate rate_;
  std::vector<float> accented_;
  std::vector<float> plain_;
  std::vector<float> low_;  // of the cue
  std::array<Knock, 16> ringing_;
};

}  // namespace yewdrift
