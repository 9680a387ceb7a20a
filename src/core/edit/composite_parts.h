// SPDX-License-Identifier: GPL-3.0-or-later
//
// What edits of a composite are made of. For core/edit only.
#pragma once

#include "core/session/resolved_composite.h"

namespace yewdrift {

std::size_t firstPickEndingAfter(const SharedSequence<Piece>& picks, Frames at);
/// What plays at `at`, looked up locally.
Piece playingAt(const Track& track, Frames at);
/// The composite has a boundary there.
bool isBoundary(const Track& track, Frames at);
/// `span` of the composite becomes these pieces, which lie in it and in order; neighbours that play the same
/// become one, unless they were split. Joins that lose their boundary go.
void placePieces(Track& track, Span span, const std::vector<Piece>& pieces);
/// Throws Error where it is empty, or lies outside the session.
void requireSpan(Span span);
/// What is known of the boundary at `at`, or null.
const JoinSetting* joinSettingAt(const Track& track, Frames at);
/// Sets it; one that says nothing goes.
void placeJoinSetting(Track& track, const JoinSetting& setting);

}  // namespace yewdrift
