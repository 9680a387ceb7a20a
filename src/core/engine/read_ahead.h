// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/plan/playback_plan.h"
#include "core/time/roll_timeline.h"

namespace yewdrift {

// What the reader reads before it is heard. Pure.

/// Frames of one file, as segments name it.
struct FilePart {
  int file = 0;
  Frames from;
  Frames to;  // the one behind the last
  bool operator==(const FilePart&) const = default;
};

/// All that is played of files in a span of the session, by segment and channel; in part behind a file's end
/// or before its start.
[[nodiscard]] std::vector<FilePart> partsPlayed(const TrackPlan& plan, Span span);

/// Where in the session something may be heard within `length` frames: from the playhead on, from where rolls
/// begin or will begin, and from where their loops begin again.
[[nodiscard]] std::vector<Span> spansAhead(Frames playhead, const std::vector<RollTimeline>& rolls,
                                           Frames length);

}  // namespace yewdrift
