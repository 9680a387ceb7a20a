// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/edit/recorded_roll.h"

namespace yewdrift {

/// What the player asked for, besides what the session's recording options say.
struct RecordRequest {
  Frames playhead;
  Frames roundTrip;
};

/// The record command: round the loop, in the punch spans, or from the playhead on. Throws Error with a
/// sentence where nothing would be recorded.
RecordSetup planRecording(const Session& session, const RecordRequest& request);

/// Whether earlier takes are silent where it is recorded: as chosen, but what is added to them is played to
/// them.
bool hushes(const RecordingOptions& options);

/// Back up and pick up: goes back from the playhead (or to the start of the selection), plays what leads up
/// to that point and records on from there; what is recorded replaces what played.
RecordSetup planPickUp(const Session& session, const RecordRequest& request, std::optional<Span> selection);

/// Where that records on from.
Frames pickUpPoint(const Session& session, Frames playhead, std::optional<Span> selection);

/// What happens to a stretch of the session the first time round.
struct PlannedStretch {
  Span span;
  bool records = false;  // else it is only played
  bool operator==(const PlannedStretch&) const = default;
};
/// The first time round in order of time, post-roll included: what a ruler shows before record is pressed. An
/// open end lies at the end of positions.
std::vector<PlannedStretch> firstTimeRound(const RecordSetup& setup);

/// Playing with armed tracks: everything is captured, nothing is audible until it is punched by hand.
RecordSetup planStandby(const RollTimeline& timeline, const Session& session, Frames roundTrip);

}  // namespace yewdrift
