// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <span>

#include "core/session/resolved_phrases.h"

namespace yewdrift::app {

/// What a step from phrase to phrase leads to. Plain rules; indices into the phrases, none where there are
/// none.

/// How far one step goes.
enum class StepBy { Phrase, Bar, Beat, Selection };
/// The stretch of that kind next to `from`, which begins where it stands on the grid; a selection's neighbour
/// is as long as it is. None before the start.
std::optional<Span> steppedSpan(StepBy by, const Ruler& ruler, Span from, int direction);

/// From a phrase in hand to its neighbour, and no further than the last; from none to the one at `position`,
/// or the nearest in that direction.
std::optional<std::size_t> steppedPhrase(std::span<const Phrase> phrases, std::optional<Frames> inHand,
                                         Frames position, int direction);
/// The next one that nobody decided, from behind the one in hand on and round to it; none where all are.
std::optional<std::size_t> nextUndecided(const Track& track, std::span<const Phrase> phrases,
                                         std::optional<Frames> inHand, Frames position);
/// How many are decided.
std::size_t decidedCount(const Track& track, std::span<const Phrase> phrases);

}  // namespace yewdrift::app
