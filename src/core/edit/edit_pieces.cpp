// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the composite plays: picks, and what is changed of a piece.
#include <cmath>

#include "core/edit/checked_values.h"
#include "core/edit/composite_parts.h"
#include "core/edit/edit.h"
#include "core/edit/edit_access.h"
#include "core/edit/edit_pieces.h"
#include "core/edit/lane_clips.h"
#include "core/error.h"
#include "core/session/limits.h"

namespace yewdrift {
namespace {

/// The resolved piece that plays at `at`; throws where the composite has none.
Piece pieceAt(const Track& track, Frames at) {
  const std::vector<Piece> pieces = piecesAround(track, at);
  for (const Piece& piece : pieces)
    if (piece.span.contains(at) && (piece.lane || piece.picked)) return piece;
  throw Error("The composite plays nothing at that place.");
}

Piece takeAt(const Track& track, Frames at) {
  const std::vector<Piece> pieces = piecesAround(track, at);
  for (const Piece& piece : pieces)
    if (piece.span.contains(at) && piece.lane) return piece;
  throw Error("The composite plays no take at that place.");
}

/// How far a piece may be slipped: as far as it plays something all along, where it does so now.
struct SlipRange {
  Frames earliest;
  Frames latest;
};
SlipRange slipRange(const Track& track, const Piece& piece) {
  const Span far{-maximumPosition, maximumPosition};
  for (const Span material : materialIn(requireLane(track, *piece.lane), far)) {
    const Span now = piece.span.shifted(-piece.slip);
    if (material.start <= now.start && now.end <= material.end)
      return {piece.span.end - material.end, piece.span.start - material.start};
  }
  return {-maximumPosition, maximumPosition};
}

/// Throws where the piece would play nothing at all with that slip.
void checkSlip(const Track& track, const Piece& piece, Frames slip) {
  if (slip > maximumPosition || slip < -maximumPosition)
    throw Error("That would move the take out of the session.");
  if (materialIn(requireLane(track, *piece.lane), piece.span.shifted(-slip)).empty())
    throw Error("Lane %1 has no material for that: nothing of it would be heard.", piece.lane->value);
}

/// The piece in parts, each of them chosen by whom its part of it was: how it sounds says nothing of that.
std::vector<Piece> chosenAsBefore(const SharedSequence<Piece>& picks, const Piece& piece) {
  std::vector<Piece> parts;
  Piece part = piece;
  const auto add = [&](Frames end, bool rough) {
    part.span.end = end;
    part.rough = rough;
    if (!part.span.empty()) parts.push_back(part);
    part.span.start = end;
    part.split = false;
  };
  for (std::size_t i = firstPickEndingAfter(picks, piece.span.start);
       i < picks.size() && picks[i].span.start < piece.span.end; ++i) {
    if (!picks[i].picked) continue;
    const Span span = picks[i].span.intersect(piece.span);
    add(span.start, false);
    add(span.end, picks[i].rough);
  }
  add(piece.span.end, false);
  return parts;
}

/// What of `span` none of `parts` covers; they are in order and do not touch.
std::vector<Span> without(const std::vector<Span>& parts, Span span) {
  std::vector<Span> left;
  Frames from = span.start;
  for (const Span part : parts) {
    if (part.start > from) left.push_back({from, part.start});
    from = part.end;
  }
  if (from < span.end) left.push_back({from, span.end});
  return left;
}

}  // namespace

std::vector<Span> spansWith(const Track& track, LaneNumber number, Span span, PickReach reach) {
  const Lane& lane = requireLane(track, number);
  return reach == PickReach::Audible ? audibleIn(lane, span) : materialIn(lane, span);
}

std::vector<Span> spansWithout(const Track& track, LaneNumber lane, Span span, PickReach reach) {
  return without(spansWith(track, lane, span, reach), span);
}

std::optional<Sentence> slipNotice(const Session& session, TrackId id, Frames at) {
  const Track& track = requireTrack(session, id);
  const Piece piece = takeAt(track, at);
  const Span heard = piece.span.shifted(-piece.slip);
  Frames silent;
  for (const Span span : spansWithout(track, *piece.lane, heard, PickReach::Handles)) silent += span.length();
  if (silent.count == 0) return std::nullopt;
  return Sentence("Lane %1 has no material for %2 ms of that piece: there it is silent.", piece.lane->value,
                  Decimal{secondsFromFrames(silent, session.rate) * 1000.0, 1});
}

Session pick(Session session, TrackId id, Span span, std::optional<LaneNumber> number, PickReach reach) {
  requireSpan(span);
  Track& track = editTrack(session, id);
  Piece piece;
  piece.lane = number;
  std::vector<Span> parts{span};
  if (number) {
    parts = spansWith(track, *number, span, reach);
    if (parts.empty()) {
      if (reach == PickReach::Audible && !spansWith(track, *number, span, PickReach::Handles).empty())
        throw Error(
            "Lane %1 has only a handle there, which is not heard: the composite keeps what it plays. "
            "Pull the take's edge out first.",
            number->value);
      throw Error("Lane %1 has nothing there: the composite keeps what it plays.", number->value);
    }
    if (reach == PickReach::Handles) makeAudible(track, *number, span);
  }
  for (const Span part : parts) {
    piece.span = part;
    placePieces(track, part, {piece});
  }
  return session;
}

Session playOnAs(Session session, TrackId id, Span span, Piece piece) {
  requireSpan(span);
  piece.span = span;
  piece.split = false;
  // What nobody picked is not written down; it is what plays where nothing is.
  if (!piece.picked) piece = Piece{span, {}, {}, {}, {}, {}, {}, false, false};
  placePieces(editTrack(session, id), span, {piece});
  return session;
}

Session changePiece(Session session, TrackId id, Frames at, const PieceChange& change) {
  Track& track = editTrack(session, id);
  Piece piece = takeAt(track, at);
  if (change.gain) piece.gain = checkedGain(*change.gain);
  if (change.pitch) piece.pitch = checkedPitch(*change.pitch);
  if (change.slip && *change.slip != piece.slip) {
    checkSlip(track, piece, *change.slip);
    // The line that rides the piece lies on what it plays.
    for (LevelPoint& point : piece.level) point.at += *change.slip - piece.slip;
    piece.slip = *change.slip;
    const Span heard = piece.span.shifted(-piece.slip);
    makeAudible(track, *piece.lane, heard);
  }
  if (change.level) piece.level = checkedLevel(*change.level);
  placePieces(track, piece.span, chosenAsBefore(track.composite.picks, piece));
  return session;
}

Frames reachableSlip(const Session& session, TrackId id, Frames at, Frames slip) {
  const Track& track = requireTrack(session, id);
  const SlipRange range = slipRange(track, takeAt(track, at));
  return std::clamp(slip, range.earliest, std::max(range.earliest, range.latest));
}

Session splitPiece(Session session, TrackId id, Frames at) {
  Track& track = editTrack(session, id);
  const Piece playing = pieceAt(track, at);
  if (playing.span.start == at) throw Error("There is a boundary at that place already.");
  const auto& picks = track.composite.picks;
  const std::size_t i = firstPickEndingAfter(picks, at);
  if (i < picks.size() && picks[i].span.contains(at)) {
    Piece left = picks[i];
    Piece right = left;
    left.span.end = right.span.start = at;
    right.split = true;
    placePieces(track, {left.span.start, right.span.end}, {left, right});
    return session;
  }
  // What nobody picked stays so: a newer take will be heard there.
  Piece right;
  right.picked = false;
  right.split = true;
  right.span = {at, i < picks.size() ? std::min(playing.span.end, picks[i].span.start) : playing.span.end};
  placePieces(track, right.span, {right});
  return session;
}

Session mergePieces(Session session, TrackId id, Frames at) {
  Track& track = editTrack(session, id);
  const std::vector<Piece> pieces = piecesAround(track, at);
  const auto right =
      std::find_if(pieces.begin(), pieces.end(), [at](const Piece& piece) { return piece.span.start == at; });
  if (right == pieces.begin() || right == pieces.end() || !isJoin(*(right - 1), *right))
    throw Error("There is no boundary of the composite at that place.");
  if (playTheSame(*(right - 1), *right)) {
    // Between equals a boundary is only there because it was made.
    Piece behind = track.composite.picks[firstPickEndingAfter(track.composite.picks, at)];
    behind.split = false;
    placePieces(track, behind.span, {behind});
    return session;
  }
  Piece piece = *(right - 1);
  const Span given = right->span;
  if (piece.lane) {
    const Span heard = given.shifted(-piece.slip);
    if (materialIn(requireLane(track, *piece.lane), heard) != std::vector{heard})
      throw Error("Lane %1 has not enough material to play on there.", piece.lane->value);
    makeAudible(track, *piece.lane, heard);
  }
  piece.span = given;
  piece.split = false;
  placePieces(track, given, {piece});
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
    pieces.push_back(piece);
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

}  // namespace yewdrift
