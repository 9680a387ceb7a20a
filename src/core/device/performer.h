// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <span>
#include <vector>

#include "core/device/audio_device.h"

namespace yewdrift {

/// What a player plays on one pass: planar channels of equal length.
struct Performance {
  std::vector<std::vector<float>> channels;
  [[nodiscard]] Frames length() const {
    return {channels.empty() ? 0 : static_cast<std::int64_t>(channels.front().size())};
  }
};

/// One player at a simulated interface. On pass k they play performance k, so that its first frame sounds
/// when the transport is at `at`; each to its end.
struct PerformerPart {
  int firstInput = 0;
  Frames at;
  std::vector<Performance> performances;
  bool startOver = false;               // after the last performance the first again; else the last again
  std::optional<Frames> ringAfterJump;  // at the loop's end the old pass dies away in that time
};

/// Plays the parts in time with the transport. Runs on the simulated device's audio thread.
class Performer {
 public:
  explicit Performer(std::vector<PerformerPart> parts) : parts_(std::move(parts)), states_(parts_.size()) {
    for (State& state : states_) state.voices.reserve(mostVoices);
  }

  /// Adds `frames` frames of what is played to `inputs`.
  void perform(std::span<const PlayedStretch> played, int frames, float* const* inputs,
               int inputCount) noexcept;

 private:
  static constexpr std::size_t mostVoices = 64;
  struct Voice {
    std::size_t performance = 0;
    Frames next;      // frame of the performance that sounds next
    Frames fadeLeft;  // counts down once the voice dies away
    bool dying = false;
  };
  struct State {
    std::vector<Voice> voices;
    std::size_t pass = 0;
    bool waiting = false;  // for `at` in this pass
  };
  void follow(const PerformerPart& part, State& state, const PlayedStretch& stretch, float* const* inputs,
              int inputCount) noexcept;
  static void startVoice(const PerformerPart& part, State& state, Frames from) noexcept;
  static void play(const PerformerPart& part, State& state, int offset, int frames, float* const* inputs,
                   int inputCount) noexcept;

  std::vector<PerformerPart> parts_;
  std::vector<State> states_;
};

}  // namespace yewdrift
