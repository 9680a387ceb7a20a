// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <vector>

#include "core/session/session.h"

namespace yewdrift::app {

/// What the material offers to snap to; asked for only where it counts.
struct SnapMaterial {
  std::function<std::vector<Span>()> phrases;
  std::function<Frames(Frames)> nearestZeroCrossing;
};

/// Where a gesture at that frame lands, by the session's way to snap.
Frames snapped(const Session& session, Frames at, const SnapMaterial& material);

/// The nearest of `places` where one is within `reach` of that frame; else the frame itself.
Frames drawnTo(Frames at, const std::vector<Frames>& places, Frames reach);

/// The way to snap that is finer (direction > 0) or coarser by one step; at the end the same.
Snap neighbourSnap(Snap now, int direction);

}  // namespace yewdrift::app
