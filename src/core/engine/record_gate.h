// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>

#include "core/edit/recorded_roll.h"

namespace yewdrift {

/// Follows a roll and says for every frame whether it is being recorded: 0 closed, 1 open, in between where
/// it has just opened or closed, so that what hangs on it never clicks. Edges lie on the frame. Audio thread;
/// does not allocate.
class RecordGate {
 public:
  /// `setup` must outlive the roll.
  void begin(const RecordSetup& setup) noexcept;
  void end() noexcept { setup_ = nullptr; }
  /// Punches in or out at a roll frame; true where it is in from now on. Only for rolls punched by hand.
  bool toggle(Frames rollFrame) noexcept;
  /// The next `frames` frames of a roll, from `rollFrame` on; `run` is where the transport is there and
  /// reaches at least that far.
  void follow(RollTimeline::Run run, Frames rollFrame, int frames, float* gate) noexcept;
  /// Frames outside a roll: the gate closes.
  void rest(int frames, float* gate) noexcept;
  /// Whether anything of this roll was audible.
  [[nodiscard]] bool opened() const noexcept { return opened_; }
  [[nodiscard]] bool open() const noexcept { return open_; }
  /// Of the last frame.
  [[nodiscard]] float level() const noexcept { return static_cast<float>(level_) / fadeFrames; }

  static constexpr int fadeFrames = 240;

 private:
  void ramp(bool open, int frames, float* gate) noexcept;

  const RecordSetup* setup_ = nullptr;
  std::optional<Frames> punchInAt_;  // set before the roll
  bool handIn_ = false;
  bool open_ = false;
  bool opened_ = false;
  int level_ = 0;  // of fadeFrames
};

}  // namespace yewdrift
