// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <vector>

#include "core/analysis/take_analysis.h"
#include "core/sentence.h"
#include "core/session/resolved_phrases.h"

namespace yewdrift {

/// A phrase that was picked as a whole, and what was settled at its edges.
struct PhrasePick {
  Session session;
  std::vector<Sentence> notices;
};

/// From now on the phrase of that index plays `lane`. In another take a word may end later, or begin earlier:
/// where the edge of the cell would cut one, of the take that is picked or of what plays before or behind,
/// the boundary goes into the rest that both have; where they have none, both are heard from the beginning of
/// the one to the end of the other. Where a take is not measured yet the edge stays that of the cell. Throws
/// as pick() does.
PhrasePick pickPhrase(const Session& session, TrackId track, std::span<const Phrase> phrases,
                      std::size_t index, LaneNumber lane, const FindAnalysis& find);

}  // namespace yewdrift
