// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the plan of a track and that of a session have in common. For core/plan only.
#pragma once

#include "core/plan/playback_plan.h"

namespace yewdrift {

/// Of each of the track's channels to the two sides of the mix; gain and pan of microphone and track.
std::vector<StereoGain> mixOf(const Track& track);
/// The track's plan of these segments, in any order.
TrackPlan finished(const Track& track, std::vector<Segment> segments);

}  // namespace yewdrift
