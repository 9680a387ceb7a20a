// SPDX-License-Identifier: GPL-3.0-or-later
//
// What edits do with the clips of a lane. For core/edit only.
#pragma once

#include <vector>

#include "core/session/session.h"

namespace yewdrift {

/// A part of a clip: what of it is audible.
Clip partOf(const Clip& clip, Span window);
void sortByTime(std::vector<Clip>& clips);
/// Puts them in order; those that meet and are one recording become one.
void mergeMeeting(std::vector<Clip>& clips);
/// What of `span` no window covers; the clips are in order.
std::vector<Span> silentIn(const std::vector<Clip>& clips, Span span);

/// Where the lane plays in `span`: audible, or cut away by a person, whose cut stays silent wherever the lane
/// is picked. In order, not touching.
std::vector<Span> audibleIn(const Lane& lane, Span span);
/// Where the lane has something in `span`: audible, in a handle, or cut away by a person, who may be listened
/// to. In order, not touching.
std::vector<Span> materialIn(const Lane& lane, Span span);
/// Makes what lies in a handle there, and only there, audible. What was cut away stays so; a lane that has no
/// such thing is left as it is.
void makeAudible(Track& track, LaneNumber lane, Span span);

}  // namespace yewdrift
