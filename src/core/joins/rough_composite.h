// SPDX-License-Identifier: GPL-3.0-or-later
//
// A composite from the ratings: for each phrase a take that is rated best, and of those rated alike the
// sequence whose joins are heard least, found exactly.
#pragma once

#include <functional>
#include <optional>
#include <span>
#include <vector>

#include "core/analysis/take_analysis.h"
#include "core/sentence.h"
#include "core/session/resolved_phrases.h"

namespace yewdrift {

/// What it chooses in a phrase, and why.
struct RoughChoice {
  Span span;                        // what of the composite it plays
  std::optional<LaneNumber> lane;   // none: silence that a person chose, or no take has anything there
  bool stays = false;               // a person chose it
  int rating = 0;                   // of that take in that phrase, or of the whole take; 0: none
  std::vector<LaneNumber> alike{};  // those rated as high, this one too
  double audibility = 0.0;          // of the join where it begins; 0: it plays on, or joins unheard
  Sentence why{};
};

struct RoughComposite {
  std::vector<RoughChoice> phrases;  // one for each
  std::vector<Piece> pieces;         // in order, for playRough()
  double audibility = 0.0;           // of all joins
};

/// `keepChosen`: phrases that a person decided stay as they are; else every phrase is chosen anew. Takes that
/// are set aside or hushed are not chosen, nor those that lack a good part of what others have of a phrase.
/// Unrated, a take counts as a little less than one rated 3. Throws Error where there are no phrases. Cost:
/// phrases times the square of the takes rated alike.
RoughComposite roughComposite(const Session& session, const Track& track, std::span<const Phrase> phrases,
                              const FindAnalysis& find, bool keepChosen = true);

/// Of a row of steps with so many choices each (none may be 0), the choices with the least sum of `cost(step,
/// choice, choice of the next step)`, found by dynamic programming (R. Bellman, "Dynamic Programming", 1957);
/// of equal ones the first.
std::vector<std::size_t> leastSequence(
    std::span<const std::size_t> choices,
    const std::function<double(std::size_t step, std::size_t from, std::size_t to)>& cost);

}  // namespace yewdrift
