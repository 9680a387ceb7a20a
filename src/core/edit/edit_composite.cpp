// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/edit.h"
#include "core/edit/edit_access.h"
#include "core/edit/edit_takes.h"
#include "core/error.h"
#include "core/session/limits.h"
#include "core/session/resolved_composite.h"

namespace yewdrift {
namespace {

bool sameMaterial(const Piece& a, const Piece& b) {
  return a.lane == b.lane && a.overdubs == b.overdubs && a.slip == b.slip && a.gain == b.gain &&
         a.pitch == b.pitch;
}

std::size_t firstPickEndingAfter(const SharedSequence<Piece>& picks, Frames at) {
  return static_cast<std::size_t>(
      std::upper_bound(picks.begin(), picks.end(), at,
                       [](Frames f, const Piece& piece) { return f < piece.span.end; }) -
      picks.begin());
}

/// Picks with `span` replaced by `inserts`; neighbours that play the same become one.
SharedSequence<Piece> withPicks(const SharedSequence<Piece>& picks, Span span,
                                const std::vector<Piece>& inserts) {
  std::size_t first = firstPickEndingAfter(picks, span.start);
  if (first > 0 && picks[first - 1].span.end == span.start) --first;  // may merge
  std::size_t last = first;
  while (last < picks.size() && picks[last].span.start <= span.end) ++last;

  std::vector<Piece> middle;
  auto add = [&middle](Piece piece) {
    if (piece.span.empty()) return;
    piece.picked = true;
    if (!middle.empty() && middle.back().span.end == piece.span.start && sameMaterial(middle.back(), piece))
      middle.back().span.end = piece.span.end;
    else
      middle.push_back(std::move(piece));
  };
  for (std::size_t i = first; i < last; ++i)
    if (picks[i].span.start < span.start) {
      Piece left = picks[i];
      left.span.end = std::min(left.span.end, span.start);
      add(std::move(left));
    }
  for (const Piece& insert : inserts) add(insert);
  for (std::size_t i = first; i < last; ++i)
    if (picks[i].span.end > span.end) {
      Piece right = picks[i];
      right.span.start = std::max(right.span.start, span.end);
      add(std::move(right));
    }
  return picks.replaced(first, last, middle);
}

/// What plays at `at`, looked up locally.
Piece playingAt(const Track& track, Frames at) {
  const std::size_t i = firstPickEndingAfter(track.composite.picks, at);
  if (i < track.composite.picks.size() && track.composite.picks[i].span.contains(at))
    return track.composite.picks[i];
  Piece piece;
  piece.picked = false;
  if (const Lane* newest = newestLaneAt(track, at)) piece.lane = newest->number;
  return piece;
}

bool isBoundary(const Track& track, Frames at) {
  return !sameMaterial(playingAt(track, at - Frames{1}), playingAt(track, at));
}

void placePieces(Track& track, Span span, const std::vector<Piece>& pieces) {
  track.composite.picks = withPicks(track.composite.picks, span, pieces);
  dropStaleJoins(track, span);
}

void requireSpan(Span span) {
  if (span.empty()) throw Error("That span is empty: its end must lie after its start.");
  if (span.end > maximumPosition || span.start < -maximumPosition)
    throw Error("That span lies outside the session.");
}

Span withoutNeighbours(const Lane& lane, std::size_t clipIndex, Span wanted) {
  if (clipIndex > 0) wanted.start = std::max(wanted.start, lane.clips[clipIndex - 1].window.end);
  if (clipIndex + 1 < lane.clips.size())
    wanted.end = std::min(wanted.end, lane.clips[clipIndex + 1].window.start);
  return wanted;
}

/// The clip that plays up to (or from) a piece's edge, as an index into its lane; size() where there is none.
std::size_t clipIndexAt(const Lane& lane, Frames at) {
  const Clip* clip = clipAt(lane, at);
  return clip ? static_cast<std::size_t>(clip - lane.clips.data()) : lane.clips.size();
}

/// How far the boundary may go while the lane of `taker`, audible at `edge`, has material.
Span reachOfTaker(const Track& track, const Piece& taker, Frames edge, Span wanted) {
  const Lane* lane = taker.lane ? track.lane(*taker.lane) : nullptr;
  if (!lane) return wanted;
  const std::size_t index = clipIndexAt(*lane, edge - taker.slip);
  if (index == lane->clips.size()) return wanted;
  Span reach = withoutNeighbours(*lane, index, lane->clips[index].extent()).shifted(taker.slip);
  // Behind a neighbour that abuts, the lane itself goes on.
  const std::size_t last = lane->clips.size() - 1;
  for (std::size_t i = index; i < last && lane->clips[i].window.end == lane->clips[i + 1].window.start; ++i)
    reach.end = withoutNeighbours(*lane, i + 1, lane->clips[i + 1].extent()).end + taker.slip;
  for (std::size_t i = index; i > 0 && lane->clips[i - 1].window.end == lane->clips[i].window.start; --i)
    reach.start = withoutNeighbours(*lane, i - 1, lane->clips[i - 1].extent()).start + taker.slip;
  return wanted.intersect(reach);
}

struct BoundaryMove {
  Piece taker;
  Frames edge;  // the taker's last (or first) frame before the move
  Frames to;
};

BoundaryMove planMove(const Session& session, TrackId id, Frames at, Frames to) {
  const Track& track = requireTrack(session, id);
  const std::vector<Piece> pieces = piecesAround(track, at);
  const auto right = std::lower_bound(pieces.begin(), pieces.end(), at,
                                      [](const Piece& piece, Frames f) { return piece.span.start < f; });
  if (right == pieces.begin() || right == pieces.end() || right->span.start != at ||
      !isJoin(*(right - 1), *right))
    throw Error("There is no boundary of the composite at that place.");
  const auto left = right - 1;
  if (to > at) {
    const Span reach = reachOfTaker(track, *left, at - Frames{1}, {at, right->span.end});
    return {*left, at - Frames{1},
            std::clamp(to, at, std::max(at, std::min(reach.end, right->span.end - Frames{1})))};
  }
  const Span reach = reachOfTaker(track, *right, at, {left->span.start, at});
  return {*right, at, std::clamp(to, std::min(at, std::max(reach.start, left->span.start + Frames{1})), at)};
}

}  // namespace

Lane& editLane(Track& track, LaneNumber number) {
  for (auto& lane : track.lanes)
    if (lane->number == number) return lane.edit();
  throw Error("The track \"%1\" has no lane %2.", track.name, number.value);
}

void dropStaleJoins(Track& track, Span span) {
  const auto& joins = track.composite.joins;
  auto index = [&joins](Frames at) {
    return static_cast<std::size_t>(
        std::lower_bound(joins.begin(), joins.end(), at,
                         [](const JoinSetting& s, Frames f) { return s.at < f; }) -
        joins.begin());
  };
  const std::size_t from = index(isBoundary(track, span.start) ? span.start + Frames{1} : span.start);
  const std::size_t to = index(isBoundary(track, span.end) ? span.end : span.end + Frames{1});
  if (from < to) track.composite.joins = joins.replaced(from, to, {});
}

Session pick(Session session, TrackId id, Span span, std::optional<LaneNumber> lane) {
  requireSpan(span);
  Track& track = editTrack(session, id);
  if (lane) requireLane(track, *lane);
  Piece piece;
  piece.span = span;
  piece.lane = lane;
  placePieces(track, span, {piece});
  return session;
}

Session changePiece(Session session, TrackId id, Frames at, const PieceChange& change) {
  const ResolvedComposite composite = resolve(requireTrack(session, id), session.rate);
  const Piece* const there = composite.pieceAt(at);
  if (!there || !there->lane) throw Error("The composite plays no take at that place.");
  Piece piece = *there;
  if (change.gain) piece.gain = *change.gain;
  if (change.pitch) piece.pitch = *change.pitch;
  if (change.slip) piece.slip = *change.slip;
  if (!(piece.gain >= limits::lowestGain && piece.gain <= limits::highestGain))
    throw Error("A gain lies between %1 and %2 dB.", static_cast<int>(limits::lowestGain.value),
                static_cast<int>(limits::highestGain.value));
  if (!(std::abs(piece.pitch.value) <= limits::widestPitch.value))
    throw Error("A pitch lies within %1 cents either way.", static_cast<int>(limits::widestPitch.value));
  if (piece.slip > maximumPosition || piece.slip < -maximumPosition)
    throw Error("That would move the take out of the session.");
  placePieces(editTrack(session, id), piece.span, {piece});
  return session;
}

Session overdub(Session session, TrackId id, Span span, LaneNumber lane) {
  requireSpan(span);
  Track& track = editTrack(session, id);
  requireLane(track, lane);
  // What played before the new lane was there: the same track without it.
  Track before = track;
  std::erase_if(before.lanes, [lane](const Shared<Lane>& l) { return l->number == lane; });
  std::vector<Piece> pieces;
  Frames from = span.start;
  auto alone = [&](Frames until) {
    Piece piece;
    piece.span = {from, until};
    piece.lane = lane;
    if (from < until) pieces.push_back(piece);
  };
  for (Piece piece : resolve(before, session.rate).pieces) {
    if (!piece.span.overlaps(span)) continue;
    piece.span = piece.span.intersect(span);
    alone(piece.span.start);
    from = piece.span.end;
    if (piece.lane)
      piece.overdubs.push_back(lane);
    else
      piece.lane = lane;
    pieces.push_back(std::move(piece));
  }
  alone(span.end);
  placePieces(track, span, pieces);
  return session;
}

Frames reachableBoundary(const Session& session, TrackId id, Frames at, Frames to) {
  return planMove(session, id, at, to).to;
}

Session moveBoundary(Session session, TrackId id, Frames at, Frames to) {
  const BoundaryMove move = planMove(session, id, at, to);
  if (move.to == at) return session;
  const Span given{std::min(at, move.to), std::max(at, move.to)};
  Track& track = editTrack(session, id);
  if (move.taker.lane) {
    Lane& lane = editLane(track, *move.taker.lane);
    // Material beyond the audible window comes out of the handle.
    const Frames farEdge = move.to > at ? move.to - Frames{1} : move.to;
    const std::size_t index = clipIndexAt(lane, move.edge - move.taker.slip);
    if (index < lane.clips.size() && !clipAt(lane, farEdge - move.taker.slip)) {
      Clip& clip = lane.clips[index];
      const Span wanted = given.shifted(-move.taker.slip);
      clip.window =
          withoutNeighbours(
              lane, index, {std::min(clip.window.start, wanted.start), std::max(clip.window.end, wanted.end)})
              .intersect(clip.extent());
    }
  }
  const auto& joins = track.composite.joins;
  const auto setting = std::lower_bound(joins.begin(), joins.end(), at,
                                        [](const JoinSetting& s, Frames f) { return s.at < f; });
  std::optional<JoinShape> shape;
  if (setting != joins.end() && setting->at == at) shape = setting->shape;
  Piece taken = move.taker;
  taken.span = given;
  placePieces(track, given, {taken});
  return shape ? setJoin(std::move(session), id, move.to, *shape) : session;
}

Session setJoin(Session session, TrackId id, Frames at, JoinShape shape) {
  if (shape.before.count < 0 || shape.after.count < 0)
    throw Error("A crossfade cannot have a negative length.");
  if (shape.before + shape.after > maximumPosition) throw Error("That crossfade is longer than any session.");
  Track& track = editTrack(session, id);
  if (!isBoundary(track, at)) throw Error("There is no boundary of the composite at that place.");
  const auto& joins = track.composite.joins;
  const auto it = std::lower_bound(joins.begin(), joins.end(), at,
                                   [](const JoinSetting& s, Frames f) { return s.at < f; });
  const auto index = static_cast<std::size_t>(it - joins.begin());
  const bool there = it != joins.end() && it->at == at;
  track.composite.joins = joins.replaced(index, index + (there ? 1 : 0), {{at, shape}});
  return session;
}

Session pullWindow(Session session, TrackId id, LaneNumber number, Span span) {
  requireSpan(span);
  Track& track = editTrack(session, id);
  Lane& lane = editLane(track, number);
  if (lane.clips.empty()) throw Error("Lane %1 is empty.", number.value);
  auto distance = [span](const Clip& clip) {
    if (clip.window.overlaps(span)) return -clip.window.intersect(span).length().count;
    return std::max((clip.window.start - span.end).count, (span.start - clip.window.end).count);
  };
  const auto nearest =
      std::min_element(lane.clips.begin(), lane.clips.end(),
                       [&](const Clip& a, const Clip& b) { return distance(a) < distance(b); });
  const Span window = withoutNeighbours(lane, static_cast<std::size_t>(nearest - lane.clips.begin()), span)
                          .intersect(nearest->extent());
  if (window.empty()) throw Error("Lane %1 has no material there, handles included.", number.value);
  nearest->window = window;
  return session;
}

bool sameComposite(const Session& a, const Session& b, TrackId id) {
  const Track* const left = a.track(id);
  const Track* const right = b.track(id);
  if (!left || !right || left->channels() != right->channels()) return false;
  const ResolvedComposite plays = resolve(*left, a.rate);
  const ResolvedComposite other = resolve(*right, b.rate);
  if (plays.pieces != other.pieces || plays.joins != other.joins ||
      left->composite.level != right->composite.level)
    return false;
  const auto sameSource = [&](const ChannelSource& x, const ChannelSource& y) {
    return x.channel == y.channel && (*a.pool)[static_cast<std::size_t>(x.file)].path ==
                                         (*b.pool)[static_cast<std::size_t>(y.file)].path;
  };
  const auto sameClip = [&](const Clip& x, const Clip& y) {
    return x.origin == y.origin && x.sourceLength == y.sourceLength && x.window == y.window &&
           std::equal(x.channels.begin(), x.channels.end(), y.channels.begin(), y.channels.end(), sameSource);
  };
  const auto sameLane = [&](LaneNumber number) {
    const Lane& x = *left->lane(number);
    const Lane& y = *right->lane(number);
    return x.gain == y.gain && x.pitch == y.pitch && x.muted == y.muted && x.level == y.level &&
           std::equal(x.clips.begin(), x.clips.end(), y.clips.begin(), y.clips.end(), sameClip);
  };
  return std::all_of(plays.pieces.begin(), plays.pieces.end(), [&](const Piece& piece) {
    return (!piece.lane || sameLane(*piece.lane)) &&
           std::all_of(piece.overdubs.begin(), piece.overdubs.end(), sameLane);
  });
}

Session takePlaceOfComposite(Session session, TrackId id, PoolFile flattened, Frames origin) {
  const Frames length = flattened.length;
  const int channels = flattened.channels;
  session = addPoolFile(std::move(session), std::move(flattened));
  Clip clip;
  clip.origin = origin;
  clip.sourceLength = length;
  clip.window = clip.extent();
  for (int channel = 0; channel < channels; ++channel)
    clip.channels.push_back({static_cast<int>(session.pool->size()) - 1, channel});
  session = addLane(std::move(session), id, {clip});
  Track& track = editTrack(session, id);
  Lane& lane = track.lanes.back().edit();
  lane.name = "Flattened " + std::to_string(lane.number.value);
  Piece whole;
  whole.span = clip.window;
  whole.lane = lane.number;
  track.composite = Composite{SharedSequence<Piece>({whole}), {}};
  return session;
}

}  // namespace yewdrift
