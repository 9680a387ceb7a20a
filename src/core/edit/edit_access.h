// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/session/session.h"

namespace yewdrift {

/// The track to change in place, made unique first. For edits only.
Track& editTrack(Session& session, TrackId id);

}  // namespace yewdrift
