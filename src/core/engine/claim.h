// SPDX-License-Identifier: GPL-3.0-or-later
//
// What was played while nothing was recorded becomes takes.
#pragma once

#include <optional>
#include <vector>

#include "core/edit/recorded_roll.h"
#include "core/engine/input_tape.h"
#include "core/store/session_disk.h"

namespace yewdrift {

/// From the first to the last sound in what was heard, with a tenth of a second of room on either side; none
/// where all of it is quieter than -50 dB.
std::optional<Span> claimedWindow(const std::vector<float>& heard, SampleRate rate);

/// How long what is heard goes on ringing: up to the first second in which all of it is quieter than that.
Frames ringingOf(const std::vector<float>& heard, SampleRate rate);

/// What can be claimed: the latest stretch of the tape that sounds and has not become a take. What still
/// rings when a roll has ended belongs to that roll. `asked`: of what had begun by then; `until`: and was
/// heard up to there.
struct Claim {
  InputTape::Segment segment;
  Span sound;  // on the tape
  Span file;   // of the tape, sound and what lies around it
};
std::optional<Claim> findClaim(const InputTape& tape, const std::vector<int>& inputs, SampleRate rate,
                               Frames asked = maximumPosition, Frames until = maximumPosition);

/// Writes what the armed tracks heard, a new pool file for each microphone. All of them, or, where one cannot
/// be written, none and throws Error.
std::vector<Capture> writeClaims(const SessionDisk& disk, const Session& session, const InputTape& tape,
                                 Span span);
/// Of files that are not needed after all: the tape has what is in them still.
void removeClaims(const SessionDisk& disk, const std::vector<Capture>& captures);

/// The session with what was claimed. What was played along with a roll lies where it was played, a lane for
/// each time round; what was played while the transport stood begins at `playhead`.
Recorded addClaim(Session session, const Claim& claim, const std::vector<Capture>& captures, Frames playhead);

}  // namespace yewdrift
