// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <map>
#include <memory>
#include <optional>

#include "app/desk/device_desk.h"
#include "app/desk/jobs.h"
#include "app/desk/play_back_rounds.h"
#include "app/desk/standby_relay.h"
#include "app/desk/transport.h"
#include "core/edit/pick_up.h"
#include "core/engine/claim.h"
#include "core/engine/recorder.h"

namespace yewdrift::app {

/// A pass that is being recorded, as far as it has come.
struct GrowingPass {
  TrackId track;
  PassWindow pass;
  LaneNumber number;  // that it will have
  const PeakPyramid* peaks = nullptr;
};

/// Recording: what will be recorded, punching, passes as they grow, what becomes of them, and claiming what
/// was played while nothing was recorded.
class RecordingDesk : public QObject, public RollCompanion {
  Q_OBJECT
 public:
  enum class State {
    Idle,
    StandingBy,  // rolls and captures; nothing of it will be heard unless it is punched
    CountingIn,
    Recording,
    Ending  // the transport stands; the last of it is still being captured and written
  };
  RecordingDesk(SessionDesk& desk, InHand& inHand, Transport& transport, DeviceDesk& device, Jobs& jobs,
                Messages& messages);

  [[nodiscard]] State state() const;
  /// Something of this roll will be heard. While it merely stands by, everything else goes on as in playing.
  [[nodiscard]] bool recording() const override {
    return recorder_ && (punchAsked_ || !recorder_->standsBy());
  }
  [[nodiscard]] bool standingBy() const { return recorder_ && !recording(); }
  /// Automatic punch: record in the punch spans only.
  void setAutoPunch(bool on);
  /// True where playing would record the punch spans too; a pass makes it stand down (safe review).
  [[nodiscard]] bool autoPunchStandsBy() const;
  void toggleRecord();
  /// While rolling with an armed track: in, or out, now.
  void punchByHand();
  /// Back from the playhead (or to the selection), play what leads up to it, record on from there.
  void backUpAndPickUp();
  /// What armed inputs heard last, while nothing was recorded, becomes a take at the playhead.
  void claim();
  [[nodiscard]] Frames claimable() const { return device_.tape()->held(); }
  /// At how many places the device lost what came in, in this recording or the last one.
  [[nodiscard]] int lostPlaces() const { return lostPlaces_; }
  /// The lanes that the last recording left, until something else is done with them.
  [[nodiscard]] const std::vector<RecordedLane>& lastRecorded() const { return lastRecorded_; }
  void discardLastRecorded();
  [[nodiscard]] const std::vector<GrowingPass>& growing() const { return growing_; }
  /// One sentence: what pressing record would do, or why it cannot.
  [[nodiscard]] QString sentence() const;
  /// The setup behind that sentence; none where nothing could be recorded.
  [[nodiscard]] std::optional<RecordSetup> planned() const;
  [[nodiscard]] std::vector<TrackId> armedTracks() const;

  // -- for the transport and the device
  [[nodiscard]] bool capturing() const override { return recorder_ != nullptr; }
  [[nodiscard]] bool hasFilesOfItsOwn() const override { return recorder_ || !abandoned_.empty(); }
  /// What the present roll captures.
  [[nodiscard]] std::vector<TrackId> capturedTracks() const;
  [[nodiscard]] std::vector<TrackId> hushed() const override;
  bool recordInstead() override;
  bool rollAlong(const RollTimeline& timeline, RollFrom from) override;
  bool hearsInstead() override { return recorder_ && playBack_.remake(*recorder_); }
  void letGo() override;
  void stopped() override { pickUpNext_ = false; }
  void deviceLost() override { lost_ = lost_ || recorder_ != nullptr; }

  /// Why that cannot be the present while this roll goes on; empty where it can.
  [[nodiscard]] QString whyNot(const Session& next) const;
  void takeEngineEvents();
  void tick();
  // -- when the window closes, in this order, with the transport stopped
  [[nodiscard]] bool captureEnded() const { return !recorder_ || recorder_->stream()->bodyWritten(); }
  /// Brings in what was recorded.
  void finish();
  /// The disk has what was recorded, and the session with it; or it said that it does not.
  bool settled();
  [[nodiscard]] bool abandonedEnded() const;
  void removeAbandoned();

 private:
  void start();
  enum class Attempt { First, Again };  // a recording of its own, or a slip is picked up
  void begin(const RecordSetup& setup, RollFrom from = RollFrom::Start, Attempt attempt = Attempt::First);
  void forgetRecorded(Attempt attempt);
  void take(const EngineEvent& event);
  void throwAway(std::unique_ptr<Recorder> recorder);
  void relay();
  void takeBackSlip(Frames from);
  void sayLostPlaces(const std::vector<RecordedLane>& lanes);
  void offerPunch(const Recorder& done);
  [[nodiscard]] QString namesOf(const std::vector<RecordedLane>& lanes) const;
  void sayBrokenOff(const std::vector<RecordedLane>& lanes);
  void sayWhatWentWrong(const CaptureStream& stream);
  void showWhole(const Recorder& recorder);
  void followSession();
  void updateGrowing();
  void finishClaim(const Claim& claim, const std::vector<Capture>& captures, Frames playhead);

  SessionDesk& desk_;
  InHand& inHand_;
  Transport& transport_;
  DeviceDesk& device_;
  Jobs& jobs_;
  Messages& messages_;
  std::unique_ptr<Recorder> recorder_;
  RollNumber roll_ = 0;                               // of recorder_
  RollNumber firstRoll_ = 0;                          // before it was relayed
  std::vector<std::unique_ptr<Recorder>> abandoned_;  // until their streams are closed
  /// What is in the session and not safe on disk yet; nobody waits for that.
  struct Settling {
    std::unique_ptr<Recorder> recorder;
    bool failureSaid = false;
    bool shownWhole = false;
  };
  std::vector<Settling> settling_;
  bool lost_ = false;        // the device went, or the disk, in the middle of it
  bool punchAsked_ = false;  // by hand, and the engine has not yet said where
  bool pickUpNext_ = false;  // back up and pick up, once what is being recorded has ended
  bool punchStandsBy_ = true;
  std::vector<RecordedLane> lastRecorded_;
  PickUp pickUp_;  // of lastRecorded_ and of what was tried before
  int lostPlaces_ = 0;
  PlayBackRounds playBack_;
  StandbyRelay relay_;
  std::vector<PeakPyramid> growingPeaks_;
  std::vector<GrowingPass> growing_;
};

}  // namespace yewdrift::app
