// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <vector>

#include "core/plan/playback_plan.h"

namespace yewdrift {

/// A stretch over which a track plays one file as it is: all its channels in order, no gain, no fade, nothing
/// else with it.
struct Verbatim {
  Span span;
  int file = 0;   // of the pool
  Frames origin;  // session frame of the file's first
  bool operator==(const Verbatim&) const = default;
};

/// All of them within `span`, in order of time. `pool` is what the plan's sources name.
std::vector<Verbatim> verbatimStretches(const TrackPlan& plan, std::span<const PoolFile> pool, Span span);

}  // namespace yewdrift
