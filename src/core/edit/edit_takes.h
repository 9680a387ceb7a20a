// SPDX-License-Identifier: GPL-3.0-or-later
//
// Edits of what is known of takes, and of what is heard of them: names, notes, ratings, levels, cuts, places;
// and of the phrases in which they are compared. Pure, as all edits (edit.h).
#pragma once

#include <span>

#include "core/edit/edit.h"
#include "core/session/resolved_phrases.h"

namespace yewdrift {

// -- lanes

/// What of a lane is to be another; what is not said stays.
struct LaneChange {
  std::optional<std::string> name{};
  std::optional<std::string> note{};
  std::optional<int> rating{};
  std::optional<int> palette{};
  std::optional<bool> muted{};
  std::optional<Decibels> gain{};
  std::optional<Cents> pitch{};
  std::optional<LanePicture> picture{};
};
/// Throws Error where a value lies beyond what there can be, or a name is empty.
Session changeLane(Session session, TrackId track, LaneNumber lane, const LaneChange& change);
/// It becomes the `place`-th of those shown, counted from 1; at most the last.
Session placeLane(Session session, TrackId track, LaneNumber lane, int place);
/// Its material, with all that belongs to it, lies so much later; what is picked stays where it is.
Session nudgeLane(Session session, TrackId track, LaneNumber lane, Frames by);
/// That stretch of the lane is silent. The files stay, and what was audible can be given back.
Session cutLane(Session session, TrackId track, LaneNumber lane, Span span);
/// What was cut there is audible again, as far as nothing else lies there now. Throws where nothing was cut.
Session restoreLane(Session session, TrackId track, LaneNumber lane, Span span);
/// The line that rides the level of a lane, or of the composite. Points of one place: the last counts.
Session setLevel(Session session, TrackId track, std::optional<LaneNumber> lane, const LevelLine& line);
/// Its points one after the other, added to the line or moved within it.
LevelLine withPoint(LevelLine line, LevelPoint point);

/// Marks a spot of a take, or names the mark that is there anew; an empty text is a mark without one.
Session markTake(Session session, TrackId track, LaneNumber lane, Frames at, std::string text);
Session removeTakeMark(Session session, TrackId track, LaneNumber lane, std::size_t index);

// -- phrases and cells

/// Rating and note of a take in a phrase; what is not said stays. One with neither goes.
Session changeCell(Session session, TrackId track, LaneNumber lane, const Phrase& phrase,
                   std::optional<int> rating, const std::optional<std::string>& note);
/// It was picked there without knowing which take it was: it, and no other take of the phrase.
Session noteChosenBlind(Session session, TrackId track, LaneNumber lane, const Phrase& phrase);
/// Cuts the phrase that holds `at` in two, which from then on are the person's.
Session addPhraseEdge(Session session, TrackId track, std::span<const Phrase> phrases, Frames at);
/// The two phrases on either side of the edge nearest to `at` become one.
Session removePhraseEdge(Session session, TrackId track, std::span<const Phrase> phrases, Frames at);
/// Moves the edge nearest to `at`; two phrases that meet there keep meeting. No further than leaves both
/// phrases ten milliseconds, and never past the neighbour.
Session movePhraseEdge(Session session, TrackId track, std::span<const Phrase> phrases, Frames at, Frames to);
/// Where that edge would end up.
Frames reachablePhraseEdge(std::span<const Phrase> phrases, SampleRate rate, Frames at, Frames to);
/// The nearest start or end of a phrase; throws where there are none.
Frames nearestPhraseEdge(std::span<const Phrase> phrases, Frames at);
/// Forgets what a person set: phrases are as they are found.
Session forgetPhrases(Session session, TrackId track);
Session setPhraseRules(Session session, TrackId track, const PhraseRules& rules);

}  // namespace yewdrift
