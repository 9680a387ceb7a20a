// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QCoreApplication>
#include <QString>
#include <optional>

#include "core/edit/record_cue.h"
#include "core/engine/engine.h"
#include "core/session/session.h"

namespace yewdrift::app {

/// What the desk and the engine do at one moment, as far as the record state tells of it.
struct RollingNow {
  EngineState engine;
  double beatsPerMinute = 120.0;  ///< where the playhead is
  bool recording = false;         ///< a roll that captures, from its count-in on
  /// The pass that grows, if one does: the round it is of, and its lane.
  struct Pass {
    int round = 1;
    LaneNumber lane{};
  };
  std::optional<Pass> growing;
  int passes = 0;          ///< how many were asked for; 0: until it is stopped
  bool playsBack = false;  ///< every second time round is heard instead of recorded
  bool deviceNeeded = false;
  bool deviceAlive = false;
  bool deviceOpening = false;
  bool armed = false;
  bool standingBy = false;  ///< all is captured, N punches in
  bool autoPunchStandsBy = false;
  std::optional<ShownCue> cue;  ///< what comes soon
  bool grid = true;             ///< beats are counted; else seconds
};

/// The record state in words: one large word, and what there is to say beside it. Pure; numbers as they are
/// written here.
class RecordWords {
  Q_DECLARE_TR_FUNCTIONS(RecordWords)

 public:
  RecordWords() = default;
  RecordWords(const RollingNow& now, SampleRate rate);

  QString word;
  QString detail;          ///< empty: nothing beside the word
  int toGo = 0;            ///< beats, or seconds, until what comes next; 0: nothing comes soon
  bool recording = false;  ///< sound is being kept as a pass: the ring is filled
  bool armed = false;

  /// Both, as a screen reader says them.
  [[nodiscard]] QString spoken() const;
  bool operator==(const RecordWords&) const = default;

 private:
  static QString wordFor(const RollingNow& now);
  static QString detailFor(const RollingNow& now, SampleRate rate);
};

}  // namespace yewdrift::app
