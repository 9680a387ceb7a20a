// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <map>
#include <optional>

#include "app/desk/held_edit.h"
#include "app/desk/phrase_finder.h"
#include "app/desk/session_desk.h"
#include "core/plan/file_sample_source.h"
#include "core/plan/join_close_up.h"
#include "core/session/resolved_phrases.h"

namespace yewdrift::app {

/// What edits and keys are about: the track in hand, its lane that is heard, a selection, a join. Whatever of
/// it an edit takes away is let go of.
class InHand : public QObject {
  Q_OBJECT
 public:
  explicit InHand(SessionDesk& desk);

  [[nodiscard]] const Track* track() const { return desk_.session().track(track_); }
  [[nodiscard]] TrackId trackId() const { return track_; }
  void takeTrack(TrackId track);
  [[nodiscard]] std::optional<Span> selection() const { return selection_; }
  void select(std::optional<Span> span);
  /// Without telling the views: for what tells them itself.
  void dropSelection() { selection_.reset(); }
  [[nodiscard]] std::optional<Frames> join() const { return join_; }
  void takeJoin(std::optional<Frames> at);
  /// Holds a boundary of the track in hand elsewhere; its join stays in hand while it moves.
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
  /// The takes that are not set aside, in the order shown.
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
  }

  /// Where a gesture lands, by the session's way to snap. `by`: the take under the pointer, whose zero
  /// crossings count.
  Frames snapped(Frames at, const Lane* by = nullptr);
  void stepSnap(int direction);
  [[nodiscard]] const ResolvedComposite& composite(const Track& track);
  /// Files have grown since they were looked at.
  void lookAgain() { closeUpSource_.reset(); }
  /// The join in hand over `around` frames on either side of `centre` (of the join itself where there is
  /// none).
  std::optional<JoinCloseUp> joinCloseUp(Frames around, std::optional<Frames> centre);

 signals:
  void changed();           // track, selection, join, heard lane
  void listeningChanged();  // what is heard is to be another: before changed()

 private:
  void keepValid();
  void keepJoin();
  FileSampleSource& closeUpSource();
  Frames nearestZeroCrossing(Frames at, const Lane* by);

  SessionDesk& desk_;
  TrackId track_;
  std::optional<Span> selection_;
  std::optional<Frames> join_;
  struct JoinSides {
    std::optional<LaneNumber> before;
    std::optional<LaneNumber> behind;
    bool operator==(const JoinSides&) const = default;
  };
  JoinSides joinSides_;  // which takes it joins
  std::optional<LaneNumber> heard_;
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
