// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <string_view>

#include "core/time/tempo_map.h"

namespace yewdrift {

/// What turns position text into frames and back: the session's rate and its tempo map.
struct Ruler {
  SampleRate rate;
  TempoMap tempo;
  bool grid = true;  // people see bars; else minutes and seconds only
};

/// `123456f`, `2.5s` or `5|1` (bar|beat from 1|1, the beat may have a fraction). Throws Error for anything
/// else, for negative positions and for those beyond 2^53 frames.
Frames parsePosition(std::string_view text, const Ruler& ruler);

/// `FROM..TO`, half-open. Throws Error where it is empty or backwards.
Span parseSpan(std::string_view text, const Ruler& ruler);

/// `480f`, `10ms`, `0.5s`, or `2bars` (`1bar`): as long as that many bars of the tempo at `at`.
Frames parseDuration(std::string_view text, const Ruler& ruler, Frames at);

/// `-10ms` too.
Frames parseSignedDuration(std::string_view text, const Ruler& ruler, Frames at);

/// `3/4`. Throws Error for anything else.
Meter parseMeter(std::string_view text);

/// `5|1`, with a fraction of two digits where it is not on the beat.
std::string barBeatText(Frames at, const Ruler& ruler);
/// `1:02.345`: minutes, seconds, milliseconds.
std::string clockText(Frames at, SampleRate rate);
/// As people see positions in that session: in bars and beats, or by the clock where it shows no grid.
std::string positionText(Frames at, const Ruler& ruler);

}  // namespace yewdrift
