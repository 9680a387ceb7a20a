// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QCoreApplication>
#include <QString>

namespace yewdrift::app {

/// What the window's actions depend on, as it is now.
struct Situation {
  bool writable = true;
  bool device = true;          // one is open and runs
  bool rolling = false;        // playing or recording
  bool recording = false;      // something of this roll will be heard
  bool punchesDecide = false;  // in this roll the punch spans do
  bool track = false;          // one is in hand
  bool backing = false;        // and is a backing track
  bool micSet = false;         // and has several microphones
  bool takes = false;          // it has some
  bool heard = false;          // one of them is heard alone
  bool joins = false;          // its composite has some
  bool joinInHand = false;
  bool otherTracks = false;
  bool severalTracks = false;  // are in hand
  bool phrases = false;        // it has some
  bool phraseInHand = false;
  bool stepsOnGrid = false;  // S and G step by bars, beats or the selection
  bool selection = false;
  bool unit = false;  // a selection, phrase, piece or punch is in hand
  bool loop = false;
  bool punches = false;
  bool armed = false;  // at least one track
  bool justRecorded = false;
  bool undo = false;
  bool redo = false;
};

enum class Deed {
  Play,
  Record,
  GoElsewhere,  // the playhead, another track: not away from what is being recorded
  StepTrack,
  Loop,
  AutoPunch,
  Undo,
  Redo,
  HearTake,
  Pick,
  PickSilence,
  PickWhole,
  TakePunch,
  EditComposite,
  StepJoin,
  HearJoin,
  EditJoin,
  EditJoins,
  StepPhrase,
  HearPhrase,
  HearCompared,
  EditPhrases,
  Rate,
  Mark,
  ChangeTake,
  ChangeTrack,
  SpreadTakes,
  TakeApart,
  JoinTracks,
  CutTake,
  Arm,
  Flatten,
  Import,
  NewTrack,
  Punch,
  BackUp,
  BackUpFromStandstill,
  Claim,
  Discard,
  Marker,
  LoopFromSelection,
  LoopAir,
  PunchFromSelection,
  OnlyThisPunch,
  PunchHere,
  PullEdge
};

/// Whether something can be done now, and if not, why: what a dimmed button tells, and a key that is pressed
/// in vain.
class ActionRules {
  Q_DECLARE_TR_FUNCTIONS(ActionRules)
 public:
  /// One sentence; empty where it can be done.
  [[nodiscard]] static QString whyNot(Deed deed, const Situation& now);
};

}  // namespace yewdrift::app
