// SPDX-License-Identifier: GPL-3.0-or-later
//
// The best place for a join near where it is: for one, or for all of a composite.
#pragma once

#include <atomic>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "core/joins/join_search.h"
#include "core/joins/join_sides.h"
#include "core/session/resolved_composite.h"
#include "core/signal/join_measure.h"

namespace yewdrift {

/// How far the search may go.
struct JoinWish {
  Frames within;  // the boundary may move so far either way, 5 s at most
  Frames slipWithin =
      {};  // and what plays behind it may be slipped by so much, 50 ms at most, to be in phase
};
/// 100 ms, and no slip.
JoinWish defaultWish(SampleRate rate);

/// A join, as it could be.
struct JoinFinding {
  Frames at;
  JoinShape shape;
  Frames slip;  // more of the piece behind it
  JoinCost cost;
  Sentence why;
};

/// A join as it is, with both takes around it; what could be made of it.
struct JoinView {
  Join join;
  std::shared_ptr<const JoinScene> scene;
  JoinReach reach;
  JoinCost cost;  // as it is
  Piece left;
  Piece right;
  JoinMeasure measure = {};  // over the crossfade, at least 10 ms, all microphones added up
};

/// Looks at joins, and for better ones. One thread at a time.
class JoinFinder {
 public:
  /// `leaks` are made where there are none.
  JoinFinder(const SessionDisk& disk, SampleRate rate, std::shared_ptr<const FadeLeaks> leaks = nullptr);

  /// Reads the samples around a join of the track's composite.
  [[nodiscard]] JoinView view(const Session& session, const Track& track, const ResolvedComposite& composite,
                              const Join& join, const JoinWish& wish);
  /// What is better than the join as it is, by the same measure, best first; none where nothing is. Reads
  /// nothing, unless what plays behind it may be slipped.
  [[nodiscard]] std::vector<JoinFinding> better(const Session& session, const Track& track,
                                                const JoinView& view, const JoinWish& wish,
                                                std::size_t most = 4);

 private:
  JoinView viewOf(const Session& session, const Track& track, JoinView view, const JoinWish& wish);
  [[nodiscard]] Frames slipInPhase(const Session& session, const Track& track, const JoinView& view,
                                   Frames place, Frames within);

  PieceListener listener_;
  std::shared_ptr<const FadeLeaks> leaks_;
  StepSpectra spectra_;
  JoinJudge judge_;
};

/// Makes the join at `at` that one: its boundary, its crossfade, as found, and the slip behind it.
Session takeFinding(Session session, TrackId track, Frames at, const JoinFinding& finding);

/// How likely it is heard, 0 to 1.
double riskOf(const JoinCost& cost);
/// What a join sounds like, in a sentence.
Sentence readingOf(const JoinView& view);
/// From the boundary to the nearest attack of either take, before it -; none where there is none near.
std::optional<Frames> nearestOnset(const JoinView& view);
/// By how many cents the incoming take is higher than the outgoing one around the boundary; none where one of
/// them has no pitch.
std::optional<Cents> pitchDifference(const JoinView& view);

/// A join in numbers and words.
struct MeasuredJoin {
  Join join;
  JoinMeasure measure;
  double risk = 0.0;
  std::optional<Frames> nearestOnset;
  std::optional<Cents> pitchDifference;
  Sentence reading;
};
MeasuredJoin measured(const JoinView& view);

/// Every join of the track, riskiest first. Looks at them side by side on all cores.
std::vector<MeasuredJoin> measureJoins(const SessionDisk& disk, const Session& session, TrackId track,
                                       const std::function<bool(double)>& progress = {});

/// What became of one join.
struct ImprovedJoin {
  Join was;
  JoinCost before;
  JoinFinding now;
};
struct Improvement {
  Session session;
  std::vector<ImprovedJoin> joins;  // those that are better now, in order of time
  std::size_t looked = 0;           // at how many
};
/// Every join is as good as can be found; those that a person set, or settled, stay. `only`: that one, and
/// whoever set it. Looks at joins side by side on all cores. Throws Error once `cancelled`.
Improvement improveJoins(const SessionDisk& disk, const Session& session, TrackId track, const JoinWish& wish,
                         std::optional<Frames> only, const std::function<bool(double)>& progress = {});

}  // namespace yewdrift
