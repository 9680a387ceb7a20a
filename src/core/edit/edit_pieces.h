// SPDX-License-Identifier: GPL-3.0-or-later
//
// Edits of the composite's pieces, beside picking (core/edit/edit.h).
#pragma once

#include "core/edit/edit.h"
#include "core/sentence.h"

namespace yewdrift {

/// Where in `span` the lane has something within that reach: what a pick takes.
std::vector<Span> spansWith(const Track& track, LaneNumber lane, Span span,
                            PickReach reach = PickReach::Audible);
/// Where it has nothing: there a pick leaves what the composite plays.
std::vector<Span> spansWithout(const Track& track, LaneNumber lane, Span span,
                               PickReach reach = PickReach::Audible);

/// Over `span` the composite plays on as `piece` does: picked or not, by whom and how it is.
Session playOnAs(Session session, TrackId track, Span span, Piece piece);

struct PieceChange {
  std::optional<Decibels> gain{};
  std::optional<Cents> pitch{};
  std::optional<Frames> slip{};  // plays its take so much later
  std::optional<LevelLine> level{};
};
/// Of the piece that plays at `at`, which is picked from then on. Throws where no take plays, and where with
/// that slip nothing would.
Session changePiece(Session session, TrackId track, Frames at, const PieceChange& change);
/// Where a slip leaves the piece at `at` without material, in a sentence; none where it has all of it.
std::optional<Sentence> slipNotice(const Session& session, TrackId track, Frames at);
/// The slip nearest to that one for which the piece at `at` has material all along; that one itself where the
/// piece has not all of it now.
Frames reachableSlip(const Session& session, TrackId track, Frames at, Frames slip);
/// A boundary at `at`. Both sides go on playing the same, until one of them is picked anew; what nobody
/// picked stays so, and plays the newest take on either side.
Session splitPiece(Session session, TrackId track, Frames at);
/// The boundary at `at` goes: what plays before it plays on through the piece behind it.
Session mergePieces(Session session, TrackId track, Frames at);

}  // namespace yewdrift
