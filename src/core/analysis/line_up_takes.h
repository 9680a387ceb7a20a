// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>

#include "core/plan/sample_source.h"
#include "core/session/session.h"
#include "core/signal/line_up.h"

namespace yewdrift {

/// By how much a take is to be moved to lie over another of its track (see lineUp()), as they are heard in
/// [span), else wherever either is. Throws Error where there is nothing to compare. Reads both; any thread.
LineUp lineUpTakes(const Session& session, const Track& track, const Lane& take, const Lane& reference,
                   std::optional<Span> span, Frames within, SampleSource& source);
/// The same against the grid: its onsets against the nearest division of a beat.
LineUp lineUpToGrid(const Session& session, const Track& track, const Lane& take, std::optional<Span> span,
                    Frames within, SampleSource& source);

}  // namespace yewdrift
