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
#include "core/plan/derived_sources.h"
#include "core/plan/sample_source.h"
#include "core/session/resolved_composite.h"

namespace yewdrift {

/// How far the search may go.
struct JoinWish {
  Frames within;           // the boundary may move so far either way
  Frames slipWithin = {};  // and what plays behind it may be slipped by so much, to be in phase
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
};

/// Looks at joins, and for better ones. One thread at a time.
class JoinFinder {
 public:
  /// What is given outlives it; `derived` may be null, and so may `leaks`, which are then made.
  JoinFinder(SampleRate rate, SampleSource& source, DerivedSources* derived,
             std::shared_ptr<const FadeLeaks> leaks = nullptr);

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

  SampleSource& source_;
  DerivedSources* derived_;
  std::shared_ptr<const FadeLeaks> leaks_;
};

/// Makes the join at `at` that one: its boundary, its crossfade, as found, and the slip behind it.
Session takeFinding(Session session, TrackId track, Frames at, const JoinFinding& finding);

/// How likely it is heard, 0 to 1.
double riskOf(const JoinCost& cost);
/// What a join sounds like, in a sentence.
Sentence readingOf(const JoinView& view);

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
/// Where samples come from, one for each thread that looks.
using MakeSource = std::function<std::unique_ptr<SampleSource>()>;
/// Every join is as good as can be found; those that a person set, or settled, stay. `only`: that one, and
/// whoever set it. Looks at joins side by side on all cores. Throws Error once `cancelled`.
Improvement improveJoins(const Session& session, TrackId track, const JoinWish& wish,
                         std::optional<Frames> only, const MakeSource& makeSource,
                         const std::function<std::unique_ptr<DerivedSources>()>& makeDerived,
                         const std::function<bool(double)>& progress = {});

}  // namespace yewdrift
