// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <optional>

#include "core/plan/sample_source.h"
#include "core/session/session.h"
#include "core/signal/line_up.h"

namespace yewdrift {

/// By how much a take is to be moved to lie over another of its track (see lineUp()), as they are heard in
/// [span), else wherever either is. Throws Error where there is nothing to compare. Reads both; any thread.
/// Where it is cancelled it neither reads nor looks any further, and nothing is found.
LineUp lineUpTakes(const Session& session, const Track& track, const Lane& take, const Lane& reference,
                   std::optional<Span> span, Frames within, SampleSource& source,
                   const std::atomic<bool>* cancelled = nullptr);
/// The same against the grid: its onsets against the nearest division of a beat.
LineUp lineUpToGrid(const Session& session, const Track& track, const Lane& take, std::optional<Span> span,
                    Frames within, SampleSource& source, const std::atomic<bool>* cancelled = nullptr);

}  // namespace yewdrift
