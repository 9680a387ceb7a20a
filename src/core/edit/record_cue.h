// SPDX-License-Identifier: GPL-3.0-or-later
//
// What a player who works alone is told beforehand: how many beats are left until it records, stops
// recording, or goes round. The window shows it, the click counts it.
#pragma once

#include <optional>

#include "core/edit/recorded_roll.h"

namespace yewdrift {

/// What comes next in a roll.
struct ComingEvent {
  enum class Kind { PunchIn, PunchOut, Wrap };
  Kind kind = Kind::PunchIn;
  Frames away;  // frames of the roll until then, above 0
  bool operator==(const ComingEvent&) const = default;
};
/// The next such event within so many frames after a frame of the roll. Punches by hand are known only as
/// they happen, except for one that was planned before the roll. Neither allocates nor throws: the audio
/// thread asks it.
std::optional<ComingEvent> comingEvent(const RecordSetup& setup, Frames rollFrame, Frames within) noexcept;

/// How the way to an event is counted: so many beats of the tempo in which it lies, at most a bar and at most
/// four; without a grid three seconds.
struct CountDown {
  Frames beat;
  int beats = 0;
  [[nodiscard]] Frames length() const { return beat * beats; }
};
/// `at`: the session position of the event. Neither allocates nor throws.
CountDown countDownTo(Frames at, const TempoMap& tempo, SampleRate rate, bool grid) noexcept;

/// The longest way that is counted at a rate, in any tempo that there can be.
Frames longestCountDown(SampleRate rate) noexcept;

/// What is shown of it.
struct ShownCue {
  ComingEvent::Kind kind = ComingEvent::Kind::PunchIn;
  int toGo = 0;  // beats (or seconds), the one that has begun counted in
  bool operator==(const ShownCue&) const = default;
};
/// None while nothing comes soon.
std::optional<ShownCue> cueAt(const RecordSetup& setup, const Ruler& ruler, Frames rollFrame);

}  // namespace yewdrift
