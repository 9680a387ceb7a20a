// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <map>
#include <optional>

#include "app/desk/held_edit.h"
#include "app/desk/phrase_finder.h"
#include "app/desk/session_desk.h"
#include "core/joins/pick_over.h"
#include "core/plan/file_sample_source.h"
#include "core/plan/join_close_up.h"
#include "core/session/resolved_phrases.h"

namespace yewdrift::app {

/// What picks and listening are about: the newest of these that was taken in hand.
enum class Unit { None, Selection, Phrase, Piece, Punch };

/// What edits and keys are about: the track in hand, its lane that is heard, a selection, a join. Whatever of
/// it an edit takes away is let go of.
class InHand : public QObject {
  Q_OBJECT
 public:
  explicit InHand(SessionDesk& desk);

  [[nodiscard]] const Track* track() const { return desk_.session().track(track_); }
  [[nodiscard]] TrackId trackId() const { return track_; }
  /// Alone.
  void takeTrack(TrackId track);
  /// All that are in hand, in the session's order: the one above and those that were taken along.
  [[nodiscard]] std::vector<TrackId> tracksInHand() const;
  /// Takes it along, or no more.
  void takeTrackAlong(TrackId track);
  /// Takes along every track from the one in hand to that one.
  void takeTracksUpTo(TrackId track);
  /// Takes along the next track after the last in hand, or before the first.
  bool takeNextTrackAlong(int direction);
  [[nodiscard]] std::optional<Span> selection() const { return selection_; }
  void select(std::optional<Span> span);

  /// What takes are picked for and compared over.
  [[nodiscard]] Unit unit();
  /// The stretch of it; none where nothing is in hand.
  [[nodiscard]] std::optional<Span> unitSpan() const;
  /// The piece of the composite there; false where it plays nothing. It stays the same stretch while takes
  /// are picked into it, and follows its boundaries when these are moved.
  bool takePiece(Frames at);
  /// That punch span; its passes are the takes that have something in it. False where there is none.
  bool takePunch(std::size_t index);
  /// With a piece or a punch in hand: takes the next one (direction > 0) or the one before. False where there
  /// is none, or something else is in hand.
  bool stepUnit(int direction);
  /// The number of the punch in hand, or of the piece, counted from 1.
  [[nodiscard]] std::size_t unitNumber();
  /// What a pick would be over: what is in hand, else the loop; none where there is neither.
  [[nodiscard]] std::optional<PickOver> pickOver();
  /// Runs an edit that picks into what is in hand, which stays the same stretch.
  template <typename Edit>
  auto picking(Edit edit) {
    picks_ = true;
    const auto result = edit();
    picks_ = false;
    return result;
  }
  /// Selection, phrase, piece and punch are let go of.
  void letGoOfUnit();
  /// Without telling the views: for what tells them itself.
  void dropSelection() {
    selection_.reset();
    taken_.reset();
  }
  [[nodiscard]] std::optional<Frames> join() const { return join_; }
  void takeJoin(std::optional<Frames> at);
  /// Holds a boundary of the track in hand elsewhere; its join stays in hand while it moves. It
  /// stops where hardly anything would be left of a piece, or a take has no more material.
  void holdBoundary(HeldEdit& by, Frames from, Frames to);

  /// The phrases of the track in hand, as far as its takes are known.
  [[nodiscard]] const std::vector<Phrase>& phrases();
  /// The one in hand, or null. Edits may change it under the hand; it stays the one at its place.
  [[nodiscard]] const Phrase* phrase();
  /// Takes it in hand: what is picked and heard then is its cell, which is selected.
  void takePhrase(const Phrase& phrase);
  void dropPhrase();
  /// A frame of it.
  [[nodiscard]] std::optional<Frames> phrasePlace() const { return phrasePlace_; }

  /// The take that is heard in the composite's place: the one that is rated and picked.
  [[nodiscard]] std::optional<LaneNumber> heardLane() const { return heard_; }
  /// That one, and those that are heard together with it.
  [[nodiscard]] const std::vector<LaneNumber>& heardLanes() const { return heardLanes_; }
  /// Alone.
  void hear(std::optional<LaneNumber> lane);
  /// Together with what is heard, or no more.
  void hearAlso(LaneNumber lane);
  /// It is heard already: what is in hand follows.
  void followHeard(LaneNumber lane);
  void hearNeighbour(int direction);
  /// The takes that are not set aside, in the order shown; with a piece or a punch in hand only those that
  /// have something audible there.
  [[nodiscard]] std::vector<LaneNumber> takes() const;
  /// They are shown and stepped through in that order instead of the track's.
  void setOrder(std::optional<std::vector<LaneNumber>> order);
  /// The take behind the one that is heard, and the first behind the last; none where there are none.
  [[nodiscard]] std::optional<LaneNumber> nextTake() const;
  /// The one that was heard before, and back again.
  void hearOther();
  /// A take was recorded: what is heard is the composite again, once the plan is made the next time.
  void hearCompositeNext() {
    heard_.reset();
    heardLanes_.clear();
    lostTake_.reset();
  }

  /// Where a gesture lands, by the session's way to snap. `by`: the take under the pointer, whose zero
  /// crossings count.
  Frames snapped(Frames at, const Lane* by = nullptr);
  /// Where a split of the composite at that place goes: as edges snap, else to the nearest zero crossing of
  /// what plays there.
  [[nodiscard]] Frames splitPlace(Frames at);
  /// Why a drag that snapped to one and the same place at both ends did nothing, and what helps.
  [[nodiscard]] QString tooShortToSnap() const;
  /// Where the pieces of the composite begin and end: what a drag is caught by, so that it leaves no sliver.
  [[nodiscard]] std::vector<Frames> pieceEdges();
  void stepSnap(int direction);
  [[nodiscard]] const ResolvedComposite& composite(const Track& track);
  /// Files have grown since they were looked at.
  void lookAgain() { closeUpSource_.reset(); }
  /// The join in hand over `around` frames on either side of `centre` (of the join itself where there is
  /// none).
  std::optional<JoinCloseUp> joinCloseUp(Frames around, std::optional<Frames> centre);

 signals:
  /// The piece or punch in hand is not there any more.
  void unitGone();
  /// A boundary that is held cannot go as far as it was wanted to.
  void boundaryStopped();
  void changed();           // track, selection, join, heard lane
  void listeningChanged();  // what is heard is to be another: before changed()

 private:
  void keepValid();
  void keepHeard();
  void keepJoin();
  void keepUnit();
  FileSampleSource& closeUpSource();
  Frames nearestZeroCrossing(Frames at, const Lane* by);

  SessionDesk& desk_;
  TrackId track_;
  std::vector<TrackId> along_;  // tracks that are in hand together with it
  std::optional<Span> selection_;
  /// A piece or a punch in hand.
  struct Taken {
    Unit kind = Unit::Piece;
    Span span;
    Span seen;               // the piece, or punch, as it was when it was last looked at
    std::size_t pieces = 0;  // that the composite had then, with a piece in hand
  };
  std::optional<Taken> taken_;
  bool stops_ = false;  // the boundary that is held
  bool picks_ = false;  // an edit runs that picks into it
  std::optional<Frames> join_;
  struct JoinSides {
    std::optional<LaneNumber> before;
    std::optional<LaneNumber> behind;
    bool operator==(const JoinSides&) const = default;
  };
  JoinSides joinSides_;  // which takes it joins
  std::optional<LaneNumber> heard_;
  bool heardAside_ = false;             // it was set aside when it began to be heard
  std::optional<LaneNumber> lostTake_;  // heard when an edit took it away: steps go on from its place
  std::vector<LaneNumber> heardLanes_;
  std::optional<std::vector<LaneNumber>> order_;
  std::optional<LaneNumber> heardBefore_;
  std::optional<Frames> phrasePlace_;
  PhraseFinder finder_;
  struct ResolvedTrack {
    std::optional<Shared<Track>> from;
    ResolvedComposite composite;
  };
  std::map<TrackId, ResolvedTrack> resolved_;
  std::optional<FileSampleSource> closeUpSource_;
  std::vector<PoolFile> closeUpFiles_;
  std::optional<JoinCloseUp> closeUpBefore_;  // read from that source
};

}  // namespace yewdrift::app
