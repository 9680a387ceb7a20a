// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QTimer>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <utility>

#include "app/desk/in_hand.h"
#include "app/desk/listening_desk.h"
#include "app/desk/roll_companion.h"
#include "core/engine/engine.h"
#include "core/plan/pitched_files.h"
#include "core/plan/playback_plan.h"

namespace yewdrift::app {

/// A session and how it is heard.
struct CompiledFor {
  Session session;
  Listening how;
};

/// The engine with what it plays: makes its plans from the session and what is in hand; plays, stops,
/// locates, loops.
class Transport : public QObject {
  Q_OBJECT
 public:
  Transport(SessionDesk& desk, InHand& inHand, ListeningDesk& listening, Engine::Service service);
  /// Before anything rolls.
  void setCompanion(RollCompanion& companion) { companion_ = &companion; }

  Engine& engine() { return engine_; }
  [[nodiscard]] EngineState state() const { return engine_.state(); }
  [[nodiscard]] bool looping() const { return desk_.options().loop; }
  void setLooping(bool on);
  void togglePlay();
  void stop();
  void locate(Frames at);
  /// Plays on from there, captured along where something is armed.
  void startPlaying(Frames from, RollFrom how = RollFrom::Start);
  /// While it rolls: begins a new roll right where it is, without a jump, with what holds now.
  void goOn() { startPlaying(state().position, RollFrom::Here); }
  /// Loops around the join in hand, so much on either side, until it is called again.
  void toggleHearJoin(Frames around);
  [[nodiscard]] bool hearsJoin() const { return hearsRound_ && around_ == Around::Join; }
  void stopHearingJoin() { hearsRound_.reset(); }
  /// Goes round what is compared (the phrase in hand, else the selection, else the loop) until it is called
  /// again.
  void toggleHearPhrase();
  /// Each time round another take, until it is called again: round the phrase in hand, or the loop.
  void toggleTakeAfterTake();
  /// Plays a file of the session by itself, where the playhead is, until its end or until it is called again;
  /// the playhead then is where it was. Nothing of it is captured.
  void toggleHearFile(const PoolFile& file);
  /// Not while it is recorded.
  [[nodiscard]] bool mayHearFile() const;
  /// Its path; empty where none is heard.
  [[nodiscard]] std::string heardFile() const { return fileHeard_ ? fileHeard_->path : std::string(); }
  /// What is compared is another: what goes round it goes round that one, else the playhead goes there.
  void followPhrase();
  void dropMarker();

  /// Those files have grown since they were first played: what was measured in them is measured anew.
  void filesHaveGrown(const Capture& capture);
  /// Something was made that plays at another pitch.
  void pitchedAreThere();
  /// Files, and cents, that are to be heard at another pitch and are not made yet.
  void setPlain(std::set<std::pair<std::string, double>> files);
  /// Whether that lane plays at its own pitch as it is not made at the one it is set to.
  [[nodiscard]] bool playsPlain(const Lane& lane) const;
  /// Makes the plan anew from what is now.
  void refreshPlan();
  /// What the plan is made from now.
  [[nodiscard]] CompiledFor present() const;
  /// Plays that in place of the session on the desk, until the plan is made anew.
  void hear(const CompiledFor& what);
  /// The same from that frame of the present roll on.
  void hearFrom(Frames rollFrame, const CompiledFor& what);
  /// Tells what has changed since the last time.
  void tick();

 signals:
  void changed();
  void moved();  // position, meters, growing passes; some thirty times a second

 private:
  SessionDesk& desk_;
  InHand& inHand_;
  ListeningDesk& listening_;
  RollCompanion* companion_ = nullptr;
  FileCorrelationMeter meter_;
  PitchedFiles pitched_;
  std::set<std::pair<std::string, double>> plain_;
  Compiler compiler_;
  Engine engine_;
  void chooseHeard();
  void followLoop();
  [[nodiscard]] std::optional<Span> loopNow() const;
  enum class Around { Join, Phrase };
  void goRound(Span span, Around what);
  void followTakes();
  void followListening();

  std::optional<Span> hearsRound_;
  Around around_ = Around::Join;
  std::optional<Span> rollsRound_;  // since the roll began
  bool wasRolling_ = false;
  /// Which take is heard from the next time round on, and behind which round that is.
  struct NextTake {
    LaneNumber lane;
    int round = 0;
    Frames at;  // of the roll
  };
  std::optional<NextTake> nextTake_;
  /// A file that is heard by itself.
  struct HeardFile {
    std::string path;
    Session session;  // that plays it
    Span span;
  };
  void leaveFile();
  std::optional<HeardFile> fileHeard_;
  std::optional<Frames> backTo_;  // where the playhead was before, once nothing rolls
  QTimer following_;              // a drag, some thirty times a second at most
};

}  // namespace yewdrift::app
