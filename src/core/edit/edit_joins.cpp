// SPDX-License-Identifier: GPL-3.0-or-later
//
// Boundaries of the composite, their crossfades, and the windows they open.
#include <cmath>
#include <utility>

#include "core/edit/composite_parts.h"
#include "core/edit/edit.h"
#include "core/edit/edit_access.h"
#include "core/edit/edit_pieces.h"
#include "core/edit/lane_clips.h"
#include "core/error.h"

namespace yewdrift {
namespace {

Span withoutNeighbours(const Lane& lane, std::size_t clipIndex, Span wanted) {
  if (clipIndex > 0) wanted.start = std::max(wanted.start, lane.clips[clipIndex - 1].window.end);
  if (clipIndex + 1 < lane.clips.size())
    wanted.end = std::min(wanted.end, lane.clips[clipIndex + 1].window.start);
  return wanted;
}

/// How far the boundary may go while the lane of `taker`, heard at `edge`, has material.
Span reachOfTaker(const Track& track, const Piece& taker, Frames edge, Span wanted) {
  const Lane* lane = taker.lane ? track.lane(*taker.lane) : nullptr;
  if (!lane) return wanted;
  const Span all{std::min(wanted.start, edge), std::max(wanted.end, edge + Frames{1})};
  for (const Span material : materialIn(*lane, all.shifted(-taker.slip)))
    if (material.contains(edge - taker.slip)) return wanted.intersect(material.shifted(taker.slip));
  return wanted;
}

struct BoundaryMove {
  Piece left;
  Piece right;
  Frames to;
  bool leftTakes = false;
  [[nodiscard]] const Piece& taker() const { return leftTakes ? left : right; }
};

BoundaryMove planMove(const Session& session, TrackId id, Frames at, Frames to) {
  const Track& track = requireTrack(session, id);
  const std::vector<Piece> pieces = piecesAround(track, at);
  const auto right =
      std::ranges::lower_bound(pieces, at, {}, [](const Piece& piece) { return piece.span.start; });
  if (right == pieces.begin() || right == pieces.end() || right->span.start != at ||
      !isJoin(*(right - 1), *right))
    throw Error("There is no boundary of the composite at that place.");
  const auto left = right - 1;
  if (to > at) {
    const Span reach = reachOfTaker(track, *left, at - Frames{1}, {at, right->span.end});
    return {*left, *right, std::clamp(to, at, std::max(at, std::min(reach.end, right->span.end - Frames{1}))),
            true};
  }
  const Span reach = reachOfTaker(track, *right, at, {left->span.start, at});
  return {*left, *right,
          std::clamp(to, std::min(at, std::max(reach.start, left->span.start + Frames{1})), at), false};
}

/// What lies between the boundary and where it goes is played by the side that grows.
void giveTo(Track& track, const BoundaryMove& move, Frames at) {
  Piece taken = move.taker();
  taken.span = {std::min(at, move.to), std::max(at, move.to)};
  taken.split = false;
  // Material beyond the audible window comes out of the handle.
  if (taken.lane) makeAudible(track, *taken.lane, taken.span.shifted(-taken.slip));
  Span changed = taken.span;
  std::vector<Piece> pieces{taken};
  if (!move.leftTakes && move.right.split) {
    // A boundary that was made there is elsewhere now.
    Piece behind = track.composite.picks[firstPickEndingAfter(track.composite.picks, at)];
    behind.split = false;
    changed.end = behind.span.end;
    pieces.push_back(std::move(behind));
  }
  placePieces(track, changed, pieces);
}

/// What is known of the boundary at `at`; throws where there is none.
JoinSetting requireBoundary(const Track& track, Frames at) {
  if (!isBoundary(track, at)) throw Error("There is no boundary of the composite at that place.");
  const JoinSetting* const there = joinSettingAt(track, at);
  JoinSetting setting;
  setting.at = at;
  return there ? *there : setting;
}

}  // namespace

Frames reachableBoundary(const Session& session, TrackId id, Frames at, Frames to) {
  return planMove(session, id, at, to).to;
}

Session moveBoundary(Session session, TrackId id, Frames at, Frames to) {
  const BoundaryMove move = planMove(session, id, at, to);
  if (move.to == at) return session;
  std::optional<JoinSetting> setting;
  if (const JoinSetting* const there = joinSettingAt(requireTrack(session, id), at)) setting = *there;
  if (playTheSame(move.left, move.right)) {
    // Between equals there is a boundary only where it was made.
    session = splitPiece(mergePieces(std::move(session), id, at), id, move.to);
  } else {
    giveTo(editTrack(session, id), move, at);
  }
  Track& track = editTrack(session, id);
  if (setting && isBoundary(track, move.to)) {
    // A join elsewhere is another one: what a person set of it goes along.
    setting->at = move.to;
    setting->settled = false;
    if (std::exchange(setting->found, false)) setting->shape.reset();
    placeJoinSetting(track, *setting);
  }
  return session;
}

Session moveBoundaryExactly(Session session, TrackId id, Frames at, Frames to) {
  const Frames reached = reachableBoundary(session, id, at, to);
  if (reached == to) return moveBoundary(std::move(session), id, at, to);
  const Ruler ruler = session.ruler();
  const std::string farthest = positionText(reached, ruler);
  if (to < at)
    throw Error(
        "The boundary cannot lie at %1. The earliest place for it is %2, where its piece or its take begins.",
        positionText(to, ruler), farthest);
  throw Error(
      "The boundary cannot lie at %1. The latest place for it is %2, where its piece or its take ends.",
      positionText(to, ruler), farthest);
}

Session setJoin(Session session, TrackId id, Frames at, const JoinShape& shape, bool found) {
  if (shape.before.count < 0 || shape.after.count < 0)
    throw Error("A crossfade cannot have a negative length.");
  if (shape.before + shape.after > maximumPosition) throw Error("That crossfade is longer than any session.");
  if (!(std::abs(shape.bend) <= 1.0)) throw Error("A curve bends by -1 to 1.");
  JoinSetting setting = requireBoundary(editTrack(session, id), at);
  setting.shape = shape;
  setting.found = found;
  placeJoinSetting(editTrack(session, id), setting);
  return session;
}

Session changeJoins(Session session, TrackId id, const JoinChange& change, std::optional<Span> span) {
  const SampleRate rate = session.rate;
  for (const Join& join : resolve(requireTrack(session, id), rate).joins) {
    if (join.settled || (span && !span->contains(join.at))) continue;
    // What was set counts, not what the material left of it.
    const JoinSetting* const there = joinSettingAt(requireTrack(session, id), join.at);
    JoinShape shape = there && there->shape ? *there->shape : defaultJoin(rate);
    shape.before = change.before.value_or(shape.before);
    shape.after = change.after.value_or(shape.after);
    shape.curve = change.curve.value_or(shape.curve);
    shape.bend = change.bend.value_or(shape.bend);
    session = setJoin(std::move(session), id, join.at, shape);
  }
  return session;
}

Session settleJoin(Session session, TrackId id, Frames at, bool settled) {
  JoinSetting setting = requireBoundary(editTrack(session, id), at);
  setting.settled = settled;
  placeJoinSetting(editTrack(session, id), setting);
  return session;
}

Session resetJoin(Session session, TrackId id, Frames at) {
  JoinSetting setting = requireBoundary(editTrack(session, id), at);
  setting.shape.reset();
  setting.found = false;
  placeJoinSetting(editTrack(session, id), setting);
  return session;
}

Session setEndFade(Session session, TrackId id, CompositeEnd end, const EndFade& fade) {
  if (fade.length.count < 0) throw Error("A fade cannot have a negative length.");
  if (fade.length > maximumPosition) throw Error("That fade is longer than any session.");
  if (!(std::abs(fade.bend) <= 1.0)) throw Error("A curve bends by -1 to 1.");
  Composite& composite = editTrack(session, id).composite;
  (end == CompositeEnd::Start ? composite.fadeIn : composite.fadeOut) = fade;
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

}  // namespace yewdrift
