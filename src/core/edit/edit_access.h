// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/session/session.h"

namespace yewdrift {

/// The track to change in place, made unique first. For edits only.
Track& editTrack(Session& session, TrackId id);
/// The same for a lane of it.
Lane& editLane(Track& track, LaneNumber number);
/// Drops the join settings inside `span`, and at its edges where no boundary is left.
void dropStaleJoins(Track& track, Span span);

}  // namespace yewdrift
