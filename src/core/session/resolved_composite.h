// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/session/session.h"

namespace yewdrift {

/// A boundary between two pieces with the crossfade that will be played there.
struct Join {
  Frames at;
  JoinShape shape;       // after shortening
  bool set = false;      // a person set it
  bool found = false;    // or the search for the best place did
  bool settled = false;  // a person has heard it, and it is well
  bool operator==(const Join&) const = default;
};

/// What the composite plays: every picked piece, and between them the newest whole lane with material (where
/// there is none, the newest that broke off). Pieces lie
/// in order without overlap; those next to each other that play the same are one. A stretch inside the
/// composite that nobody picked and where no lane has material is a piece without lane and with picked ==
/// false; the composite just ends there and starts again, so it has no join. joins[] holds the join of every
/// other boundary, in order of time.
struct ResolvedComposite {
  std::vector<Piece> pieces;
  std::vector<Join> joins;

  [[nodiscard]] const Piece* pieceAt(Frames at) const;
  /// The join nearest to `at`, or null where there is none.
  [[nodiscard]] const Join* nearestJoin(Frames at) const;
  [[nodiscard]] const Join* joinAt(Frames at) const;
};

/// 10 ms, matched, centred; where it is an odd number of frames the longer side is after the boundary.
JoinShape defaultJoin(SampleRate rate);

/// Pieces and joins of a track. A join is as it was set or by default, shortened to the material that the two
/// takes have beyond the boundary, and so that two joins of one piece do not overlap.
ResolvedComposite resolve(const Track& track, SampleRate rate);

/// The pieces on either side of `at`, whole, and some around them: what an edit of one boundary needs,
/// without looking at the rest of the composite.
std::vector<Piece> piecesAround(const Track& track, Frames at);
/// True where the two pieces that meet at `at` have a join.
bool isJoin(const Piece& left, const Piece& right);

/// Calls `each` with every lane that sounds in `piece` and does not sound on unchanged in `other`, next to
/// it: these are what a join fades. A lane that is in both, with the same slip and gain, runs straight
/// through.
template <typename Each>
void forEachFading(const Piece& piece, const Piece& other, Each each) {
  const bool alike = piece.slip == other.slip && piece.gain == other.gain && piece.pitch == other.pitch &&
                     piece.level == other.level;
  if (piece.lane && !(alike && other.plays(*piece.lane))) each(*piece.lane);
  for (const LaneNumber lane : piece.overdubs)
    if (!(alike && other.plays(lane))) each(lane);
}

/// Both play the same, in the same way: what plays in one goes on in the other.
bool playTheSame(const Piece& a, const Piece& b);

/// The clip of `lane` whose audible window holds `at`, or null.
const Clip* clipAt(const Lane& lane, Frames at);

/// The newest whole lane with material at `at`; where there is none, the newest that broke off.
const Lane* newestLaneAt(const Track& track, Frames at);

}  // namespace yewdrift
