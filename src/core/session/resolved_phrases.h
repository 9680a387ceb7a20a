// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <vector>

#include "core/session/resolved_composite.h"

namespace yewdrift {

/// A phrase of a track: a column of its table of takes.
struct Phrase {
  Span span;
  bool set = false;  ///< by a person; else it was found
  /// What is picked and heard of it: into the rests on either side, half of each and a second at most, so
  /// that cells next to each other meet.
  Span cell = {};
  bool operator==(const Phrase&) const = default;
};

/// The phrases a person set, and those found (core/signal/phrases.h) that none of them touches; in order, not
/// overlapping. Where `grid` is true a found one of more than eight bars is cut at every bar: where nothing
/// rests, bars are the phrases.
std::vector<Phrase> resolvePhrases(const Track& track, std::span<const Span> found, const Ruler& ruler,
                                   bool grid);

/// The one whose cell holds `at`, or else the nearest; none where there are none.
const Phrase* phraseAt(std::span<const Phrase> phrases, Frames at);

/// What was noted of a take in that phrase: of several the one nearest to the middle. Null where nothing was.
const CellNote* cellOf(const Lane& lane, const Phrase& phrase);

/// Whether the composite plays what a person picked all through the phrase.
bool isDecided(const Track& track, const Phrase& phrase);
/// The lane that the composite plays in most of it; none where that is silence.
std::optional<LaneNumber> playedIn(const ResolvedComposite& composite, const Phrase& phrase);

}  // namespace yewdrift
