// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <vector>

#include "core/time/frames.h"

namespace yewdrift {

/// A post-roll that goes on until somebody stops it: longer than any session.
inline constexpr Frames untilStopped = maximumPosition;

/// Where the transport is, for every frame since it started to roll ("roll frame"). The audio callback, the
/// cutting of passes and what the window says beforehand all ask this one description.
struct RollTimeline {
  Frames start;                  // session position from which it plays
  std::optional<Span> loop;      // from its end the roll goes on at its start; start < loop->end
  int passes = 0;                // with a loop: stop after that many times round; 0: until stopped
  std::optional<Frames> stopAt;  // without a loop: the position to stop at; none: until stopped
  Frames postRoll;               // goes on that long, past the loop's end too, before it stops
  Frames countIn{};              // before `start` nothing plays for that long; positions lead up to it

  /// The stretch from a roll frame on in which position runs without a jump.
  struct Run {
    Frames position;
    Frames length;
    int round = 1;          // times round, counted from 1
    bool jumped = false;    // the roll frame is the first after a start or a jump back
    bool counting = false;  // in the count-in
  };
  [[nodiscard]] Run runAt(Frames rollFrame) const;

  /// After so many roll frames the transport stops by itself.
  [[nodiscard]] std::optional<Frames> totalLength() const;

  /// With a loop: the roll frame at which that time round begins, counted from 1.
  [[nodiscard]] Frames roundStart(int round) const;

  /// One time round: what it covers of the session, and the roll frame at which it begins.
  struct Pass {
    int round = 1;
    Span session;
    Frames rollStart;
  };
  /// The times round begun within the first `rolled` roll frames; the last one may be cut short. Post-roll
  /// belongs to no pass.
  [[nodiscard]] std::vector<Pass> passesWithin(Frames rolled) const;
};

/// The same roll begun elsewhere, as while another one rolls. From behind its loop it goes back to the start.
RollTimeline goingOnFrom(RollTimeline timeline, Frames position) noexcept;

}  // namespace yewdrift
