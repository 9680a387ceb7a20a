// SPDX-License-Identifier: GPL-3.0-or-later
//
// The studio's recording: what will be recorded, punching, passes as they grow, and what becomes of them.
#include "app/desk/studio.h"
#include "core/edit/describe_recording.h"
#include "core/edit/edit.h"
#include "core/edit/plan_recording.h"
#include "core/engine/claim.h"
#include "core/error.h"

namespace yewdrift::app {

std::vector<TrackId> Studio::armedTracks() const {
  std::vector<TrackId> armed;
  for (const auto& track : session().tracks)
    if (track->armed) armed.push_back(track->id);
  return armed;
}

std::optional<RecordSetup> Studio::plannedRecording() const {
  if (recording()) return recorder_->setup();
  try {
    return planRecording(session(), {transport().position, roundTrip_});
  } catch (const Error&) {
    return std::nullopt;
  }
}

QString Studio::recordingSentence() const {
  const std::vector<DescribedTrack> armed = yewdrift::armedTracks(session());
  try {
    const RecordSetup setup =
        recording() ? recorder_->setup() : planRecording(session(), {transport().position, roundTrip_});
    return QString::fromStdString(describeRecording(setup, armed, ruler(), options().grid));
  } catch (const Error& e) {
    return armed.empty() ? QString::fromStdString(describeRecording({}, {}, ruler()))
                         : QString::fromUtf8(e.what());
  }
}

bool Studio::autoPunchStandsBy() const {
  return punchStandsBy_ && options().punch && !session().punches.empty() && !armedTracks().empty();
}

void Studio::setAutoPunch(bool on) {
  RecordingOptions options = this->options();
  // Switching it on again also makes it stand by again.
  punchStandsBy_ = on;
  options.punch = on;
  setOptions(options);
  emit transportChanged();
}

void Studio::toggleRecord() {
  if (recording()) return stop();
  // Rolling with an armed track, record punches in right here.
  if (standingBy() && transport().rolling) return punchByHand();
  startRecording();
}

void Studio::punchByHand() {
  if (!recorder_ || !transport().rolling)
    return emit said(armedTracks().empty()
                         ? tr("Nothing can be punched: no track is armed. Arm one in the list first.")
                         : tr("Punching by hand is for when it rolls: start playing, then punch in."));
  if (!recorder_->setup().byHand)
    return emit said(
        tr("In this roll the punch spans decide what is recorded. Their edges can be moved "
           "afterwards; nothing is lost outside them."));
  // From the press on this roll counts: nothing may push it aside before the engine has told where.
  punchAsked_ = true;
  engine_->punch();
  emit transportChanged();
}

void Studio::startRecording() {
  joinLoop_.reset();
  try {
    beginRoll(planRecording(session(), {transport().position, roundTrip_}));
  } catch (const std::exception& e) {
    emit said(armedTracks().empty() ? recordingSentence() : QString::fromUtf8(e.what()));
  }
  emit transportChanged();
}

void Studio::beginRoll(const RecordSetup& setup) {
  if (mode_ == DeviceMode::Normal && (!device_ || !device_->alive()))
    throw Error(tr("No audio device is open, so nothing could be recorded; choose one in the Device menu.")
                    .toStdString());
  dropStandby();
  requireInputs();
  recorder_ = std::make_unique<Recorder>(*folder_, session(), setup, armedTracks());
  recordingLost_ = false;
  growing_.clear();
  growingPeaks_.clear();
  playBack_ = {};
  if (!standingBy()) lastRecorded_.clear();
  try {
    refreshPlan();  // earlier takes are hushed where it is recorded
    engine_->record(recorder_->setup(), recorder_->stream());
  } catch (...) {
    recorder_->forgetNote();
    recorder_->stream()->markComplete();
    abandoned_.push_back(std::move(recorder_));
    throw;
  }
}

void Studio::requireInputs() {
  if (!device_) return;
  for (const TrackId id : armedTracks()) {
    const Track& track = *session().track(id);
    for (const Microphone& microphone : track.microphones) {
      const int needed = microphone.input + microphone.channels;
      // Opened before a track asked for more: as many as the tracks ask for was the choice.
      if (needed > device_->settings().inputs && choice_.inputs == 0 && choice_.driver == "Simulated")
        openDevice(AudioChoice(choice_));
      if (!device_ || needed > device_->settings().inputs)
        throw Error(
            tr("\"%1\" records from input %2, and the device has only %3. Choose another input on the Track "
               "page, or another device.")
                .arg(QString::fromStdString(track.name))
                .arg(needed)
                .arg(device_ ? device_->settings().inputs : 0)
                .toStdString());
    }
  }
}

void Studio::dropStandby() {
  if (!standingBy()) return;
  // The engine lets go of it when it stops or something else rolls; then its files go.
  abandoned_.push_back(std::move(recorder_));
  growing_.clear();
}

void Studio::captureArmedTracks() {
  if (!standingBy() || !transport().rolling) return;
  std::vector<TrackId> captured;
  for (const Capture& capture : recorder_->captures()) captured.push_back(capture.track);
  // Another track was armed meanwhile: from here on it is captured too.
  if (captured != armedTracks()) startPlaying(transport().position);
}

void Studio::takeEngineEvents() {
  for (const EngineEvent& event : engine_->takeEvents()) {
    if (event.kind == EngineEvent::Kind::Dropout) {
      if (recorder_) recorder_->dropout(event.position);
      continue;
    }
    if (!recorder_) continue;
    if (recorder_->standsBy()) lastRecorded_.clear();
    punchAsked_ = false;
    try {
      recorder_->punched(event.rollFrame, event.kind == EngineEvent::Kind::PunchIn);
    } catch (const std::exception& e) {
      emit said(QString::fromUtf8(e.what()));
    }
    emit transportChanged();
  }
}

void Studio::finishRecording() {
  takeEngineEvents();
  punchAsked_ = false;  // where it came after the roll's end it did nothing
  if (standingBy()) {
    dropStandby();
    return emit transportChanged();
  }
  const std::unique_ptr<Recorder> done = std::move(recorder_);
  growing_.clear();
  growingPeaks_.clear();
  const Frames captured = done->stream()->written();
  const QString label = QString::fromStdString(recordingLabel(done->setup(), captured));
  heard_.reset();
  if (passWindows(done->setup(), captured).empty()) {
    done->forgetNote();
    done->abandon();
    if (!pickUpNext_) emit said(tr("Stopped before anything was recorded; nothing was changed."));
  } else {
    Recorder::Result result{session(), {}, 0};
    const bool applied = apply(label, [&](const Session& session) {
      result = done->finished(session, !recordingLost_);
      return result.session;
    });
    // Only when the new lanes are on disk may the note go that would bring them back after a crash.
    if (applied && saver_->flush()) done->forgetNote();
    lastRecorded_ = result.lanes;
    if (tape_) tape_->clear();
    if (options().safeReview && !done->setup().punches.empty()) punchStandsBy_ = false;
    if (result.setAside > 0)
      emit said(
          tr("The last pass was broken off and is set aside. The line above the takes brings it back."));
  }
  if (const auto failure = done->stream()->failure())
    emit said(tr("%1 Recording has stopped; make room, then go on from here.")
                  .arg(QString::fromStdString(*failure)));
  if (done->stream()->lostFrames() > 0)
    emit said(tr("The disk could not keep up: %1 frames are silent in this recording. Everything else is in "
                 "its place.")
                  .arg(done->stream()->lostFrames()));
  refreshPlan();
  emit transportChanged();
  if (std::exchange(pickUpNext_, false)) backUpAndPickUp();
}

void Studio::updateGrowing() {
  const CaptureStream& stream = *recorder_->stream();
  growing_.clear();
  std::size_t file = 0;
  const auto& captures = recorder_->captures();
  growingPeaks_.resize(captures.size());
  if (recorder_->standsBy()) return;
  const std::vector<PassWindow> windows = passWindows(recorder_->setup(), stream.written());
  for (std::size_t i = 0; i < captures.size(); ++i) {
    stream.updatePeaks(file, growingPeaks_[i]);
    file += captures[i].files.size();
    const Track* track = session().track(captures[i].track);
    int number = track ? track->lanesMade : 0;
    int round = 0;
    for (const PassWindow& pass : windows) {
      if (pass.round != round) ++number;
      round = pass.round;
      growing_.push_back({captures[i].track, pass, {number}, &growingPeaks_[i]});
    }
  }
}

void Studio::followPlayBack() {
  const RecordSetup& setup = recorder_->setup();
  if (!setup.playBack || !setup.timeline.loop) return;
  const int round = transport().round;
  if (round % 2 == 1) {
    if (playBack_.round != 0) {
      playBack_ = {};
      refreshPlan();
    }
    return;
  }
  // The end of the pass reaches the disk a moment after its end was played: the plan is made again then.
  const Frames behind = setup.roundTrip + framesFromSeconds(0.3, session().rate);
  const auto passes = setup.timeline.passesWithin(transport().rollFrame + Frames{1});
  if (passes.empty()) return;
  const bool whole = recorder_->stream()->written() >= passes.back().rollStart + behind;
  if (playBack_.round == round && playBack_.whole == whole) return;
  playBack_ = {round, whole};
  const Recorded soFar = recorder_->soFar(session());
  CompileOptions hearing;
  for (const RecordedLane& lane : soFar.lanes)
    if (lane.round == round - 1) hearing.listening.push_back({lane.track, lane.lane});
  meter_.setFiles(*soFar.session.pool);
  engine_->setPlan(path_, compiler_.compile(soFar.session, hearing), trackInHand());
}

void Studio::backUpAndPickUp() {
  if (recording()) {
    // What was recorded is brought in first; then it goes back.
    pickUpNext_ = true;
    engine_->stop();
    return;
  }
  joinLoop_.reset();
  dropStandby();
  if (armedTracks().empty()) return emit said(recordingSentence());
  const Frames playhead = transport().position;
  const Frames from = pickUpPoint(session(), playhead, selection_);
  // The slip itself is no longer heard: the take that held it ends where the new one begins.
  const auto slipped = lastRecorded_;
  const bool reaches = std::any_of(slipped.begin(), slipped.end(), [&](const RecordedLane& lane) {
    const Track* track = session().track(lane.track);
    const Lane* there = track ? track->lane(lane.lane) : nullptr;
    return there && !there->clips.empty() && there->clips.front().window.start < from &&
           there->clips.back().window.end > from;
  });
  if (reaches)
    apply(tr("Take back the slip"), [&](Session session) {
      for (const RecordedLane& lane : slipped)
        session = endLaneAt(std::move(session), lane.track, lane.lane, from);
      return session;
    });
  try {
    beginRoll(planPickUp(session(), {playhead, roundTrip_}, selection_));
    selection_.reset();
  } catch (const std::exception& e) {
    emit said(QString::fromUtf8(e.what()));
  }
  emit inHandChanged();
  emit transportChanged();
}

void Studio::discardLastRecorded() {
  if (recording()) return emit said(tr("Stop recording first; then it can be kept or discarded."));
  const auto lanes = std::exchange(lastRecorded_, {});
  if (lanes.empty()) return emit said(tr("There is no recording to discard since the last one was settled."));
  const QString label = lanes.size() == 1 ? tr("Discard one take") : tr("Discard %1 takes").arg(lanes.size());
  apply(label, [&](Session session) {
    for (const RecordedLane& lane : lanes)
      if (const Track* track = session.track(lane.track); track && track->lane(lane.lane))
        session = removeLane(std::move(session), lane.track, lane.lane);
    return session;
  });
  emit said(tr("Discarded. Undo brings it back; the recording itself stays on disk."));
  emit inHandChanged();
}

void Studio::dropMarker() {
  const Frames at = transport().position;
  const std::size_t before = session().markers.size();
  apply(tr("Drop a marker"), [at](const Session& s) { return addMarker(s, at, {}); });
  if (session().markers.size() > before) emit moved();
}

void Studio::claim() {
  if (recording()) return emit said(tr("This is being recorded anyway; stop, and it is a take."));
  if (!tape_ || tape_->held() < framesFromSeconds(0.2, session().rate))
    return emit said(armedTracks().empty() ? tr("No track is armed, so nothing was listened to.")
                                           : tr("Nothing was heard since the last take was made."));
  const auto heard = std::make_shared<std::vector<std::vector<float>>>(tape_->take());
  const std::vector<int> inputs = tape_->inputs();
  const Frames at = transport().position;
  tape_->clear();
  auto audible = claimedWindow(*heard, session().rate);
  if (!audible) return emit said(tr("Nothing was played in the last minute; there is nothing to claim."));
  const Session before = session();
  emit progressed(tr("Claiming what was played"), 0.0);
  work_.start([this, heard, inputs, at, before, window = *audible] {
    try {
      std::vector<std::pair<TrackId, std::vector<PoolFile>>> files;
      for (const auto& track : before.tracks) {
        if (!track->armed) continue;
        std::vector<PoolFile> written;
        for (const Microphone& microphone : track->microphones)
          written.push_back(writeClaim(*folder_, before, *track, microphone, *heard, inputs));
        files.emplace_back(track->id, std::move(written));
      }
      QMetaObject::invokeMethod(this, [this, files, at, window] { finishClaim(files, at, window); });
    } catch (const std::exception& e) {
      const QString sentence = QString::fromUtf8(e.what());
      QMetaObject::invokeMethod(this, [this, sentence] {
        emit progressed(tr("Claiming what was played"), 1.0);
        emit said(sentence);
      });
    }
  });
}

void Studio::finishClaim(const std::vector<std::pair<TrackId, std::vector<PoolFile>>>& files, Frames at,
                         Span window) {
  emit progressed(tr("Claiming what was played"), 1.0);
  std::vector<RecordedLane> lanes;
  const bool made = apply(tr("Claim what was played"), [&](Session session) {
    for (const auto& [id, pool] : files) {
      Clip clip;
      clip.origin = at - window.start;
      clip.sourceLength = pool.front().length;
      clip.window = window.shifted(clip.origin);
      for (const PoolFile& file : pool) {
        session = addPoolFile(std::move(session), file);
        for (int channel = 0; channel < file.channels; ++channel)
          clip.channels.push_back({static_cast<int>(session.pool->size()) - 1, channel});
      }
      session = addLane(std::move(session), id, {clip});
      lanes.push_back({id, {session.track(id)->lanesMade}, 1});
    }
    return session;
  });
  if (!made) return;
  lastRecorded_ = lanes;
  emit said(
      tr("%1 s of what was just played are a take at the playhead now; what lay before is in its handle.")
          .arg(secondsFromFrames(window.length(), session().rate), 0, 'f', 1));
}

}  // namespace yewdrift::app
