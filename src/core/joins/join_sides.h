// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/plan/derived_sources.h"
#include "core/plan/sample_source.h"
#include "core/session/resolved_composite.h"

namespace yewdrift {

/// One take of a join, as it is heard: one signal for each of the track's channels.
using SideSamples = std::vector<std::vector<float>>;

/// What `piece` would play all over `span`, handles included: through the renderer that plays it, with its
/// gains, lines, pitch and slip. Silence where it has no material. `derived` may be null.
SideSamples sideSamples(const Session& session, const Track& track, const Piece& piece, Span span,
                        SampleSource& source, DerivedSources* derived);

/// How far the material of `piece`, heard at `edge`, goes on both ways without a break, within `around`. All
/// of that where it plays silence.
Span materialAround(const Track& track, const Piece& piece, Frames edge, Span around);

}  // namespace yewdrift
