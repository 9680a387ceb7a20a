// SPDX-License-Identifier: GPL-3.0-or-later
//
// The studio's transport, recording and device.
#include <QSettings>

#include "app/studio.h"
#include "core/device/performer_file.h"
#include "core/device/simulated_device.h"
#include "core/device/system_device.h"
#include "core/edit/describe_recording.h"
#include "core/edit/edit.h"
#include "core/error.h"

namespace yewdrift::app {

void Studio::setLooping(bool on) {
  if (on == looping_) return;
  looping_ = on;
  if (transport().rolling && !recording()) startRoll();
  emit transportChanged();
}

void Studio::startRoll() {
  RollTimeline timeline;
  timeline.start = transport().position;
  const std::optional<Span> loop = joinLoop_ ? joinLoop_ : looping_ ? session().loop : std::nullopt;
  if (loop && timeline.start < loop->end) timeline.loop = loop;
  engine_->play(timeline);
}

void Studio::togglePlay() {
  if (transport().rolling || recording()) return stop();
  startRoll();
  emit transportChanged();
}

void Studio::stop() {
  joinLoop_.reset();
  engine_->stop();
  emit transportChanged();
}

void Studio::locate(Frames at) {
  if (recording()) return;
  at = std::max(at, Frames{});
  joinLoop_.reset();
  const bool rolling = transport().rolling;
  if (rolling) {
    RollTimeline timeline;
    timeline.start = at;
    if (looping_ && session().loop && at < session().loop->end) timeline.loop = session().loop;
    engine_->play(timeline);
  } else {
    engine_->locate(at);
  }
  emit moved();
}

void Studio::toggleHearJoin() {
  if (joinLoop_) return stop();
  if (!joinInHand_ || recording()) return;
  hear(std::nullopt);
  const Frames second = framesFromSeconds(1.0, session().rate);
  joinLoop_ = Span{std::max(Frames{}, *joinInHand_ - second), *joinInHand_ + second};
  engine_->play({joinLoop_->start, joinLoop_, 0, std::nullopt, {}});
  emit transportChanged();
}

std::vector<TrackId> Studio::armedTracks() const {
  std::vector<TrackId> armed;
  for (const auto& track : session().tracks)
    if (track->armed) armed.push_back(track->id);
  return armed;
}

RecordSetup Studio::recordSetup() const {
  RecordSetup setup;
  setup.roundTrip = roundTrip_;
  const Frames playhead = transport().position;
  if (looping_ && session().loop) {
    // One bar before the loop leaves room to breathe in; a playhead before the loop is pre-roll as well.
    const Span loop = *session().loop;
    setup.timeline.loop = loop;
    setup.recordFrom = loop.start;
    const Frames bar = ruler().tempo.barStart(loop.start, session().rate, -1);
    setup.timeline.start = std::max(Frames{}, playhead < loop.start ? playhead : bar);
  } else {
    setup.recordFrom = playhead;
    setup.timeline.start = playhead;
  }
  return setup;
}

QString Studio::recordingSentence() const {
  std::vector<std::string> names;
  for (const TrackId id : armedTracks()) names.push_back(session().track(id)->name);
  return QString::fromStdString(
      describeRecording(recorder_ ? recorder_->setup() : recordSetup(), names, ruler()));
}

void Studio::toggleRecord() {
  if (recording()) return stop();
  startRecording();
}

void Studio::startRecording() {
  joinLoop_.reset();
  if (mode_ == DeviceMode::Normal && (!device_ || !device_->alive()))
    return emit said(
        tr("No audio device is open, so nothing could be recorded; choose one in the Device menu."));
  try {
    recorder_ = std::make_unique<Recorder>(*folder_, session(), recordSetup(), armedTracks());
    recordingLost_ = false;
    growingPeaks_.clear();
    refreshPlan();  // the tracks being recorded are hushed
    engine_->record(recorder_->setup().timeline, roundTrip_, recorder_->stream());
  } catch (const std::exception& e) {
    recorder_.reset();
    emit said(QString::fromUtf8(e.what()));
  }
  emit transportChanged();
}

void Studio::finishRecording() {
  const std::unique_ptr<Recorder> done = std::move(recorder_);
  growing_.clear();
  growingPeaks_.clear();
  const Frames captured = done->stream()->written();
  const QString label = QString::fromStdString(recordingLabel(done->setup(), captured));
  heard_.reset();
  if (apply(label, [&](const Session& session) { return done->finished(session); })) {
    // Only when the new lanes are on disk may the note go that would bring them back after a crash.
    if (saver_->flush()) done->forgetNote();
  }
  if (const auto failure = done->stream()->failure()) emit said(QString::fromStdString(*failure));
  if (done->stream()->lostFrames() > 0)
    emit said(tr("The disk could not keep up: %1 frames are missing from this recording. What came before "
                 "them is in place.")
                  .arg(done->stream()->lostFrames()));
  emit transportChanged();
}

void Studio::updateGrowing() {
  const CaptureStream& stream = *recorder_->stream();
  growing_.clear();
  std::size_t file = 0;
  const auto& captures = recorder_->captures();
  growingPeaks_.resize(captures.size());
  for (std::size_t i = 0; i < captures.size(); ++i) {
    stream.updatePeaks(file, growingPeaks_[i]);
    file += captures[i].files.size();
    const Track* track = session().track(captures[i].track);
    int number = track ? track->lanesMade : 0;
    int round = 0;
    for (const PassWindow& pass : passWindows(recorder_->setup(), stream.written())) {
      if (pass.round != round) ++number;
      round = pass.round;
      growing_.push_back({captures[i].track, pass, {number}, &growingPeaks_[i]});
    }
  }
}

void Studio::tick() {
  if (recorder_) {
    if (recorder_->stream()->closed()) {
      finishRecording();
    } else {
      updateGrowing();
      if (!recordingLost_ && (recorder_->stream()->failure() || (device_ && !device_->alive()))) {
        recordingLost_ = true;
        engine_->stop();
        if (device_ && !device_->alive()) {
          emit said(
              tr("The audio device is gone. Recording has stopped; everything up to that moment is kept."));
          recorder_->stream()->markComplete();
        }
      }
    }
  }
  const bool rolling = transport().rolling;
  if (rolling != wasRolling_) {
    wasRolling_ = rolling;
    emit transportChanged();
  }
  emit moved();
}

float Studio::takeInputPeak(const Track& track) {
  float peak = 0.0F;
  for (const Microphone& microphone : track.microphones)
    for (int i = 0; i < microphone.channels; ++i)
      peak = std::max(peak, engine_->takeInputPeak(microphone.input + i));
  return peak;
}

void Studio::unplugForTest() {
  if (auto* simulated = dynamic_cast<SimulatedDevice*>(device_.get())) simulated->unplug();
}

void Studio::closeDevice() {
  if (device_) device_->stop();
  device_.reset();
  deviceName_.clear();
}

void Studio::openDevice(const QString& driver, const QString& name) {
  if (recording()) return emit said(tr("Stop recording before you change the audio device."));
  engine_->stop();
  closeDevice();
  DeviceSettings settings;
  settings.driver = driver.toStdString();
  settings.device = name.toStdString();
  settings.rate = session().rate;
  for (const auto& track : session().tracks)
    for (const Microphone& microphone : track->microphones)
      settings.inputs = std::max(settings.inputs, microphone.input + microphone.channels);
  try {
    if (driver == "Simulated") {
      SimulatedInterface interface;
      interface.settings = settings;
      interface.roundTrip = Frames{640};
      interface.parts = readPerformerFile(path_, session().rate);
      deviceName_ = interface.parts.empty() ? tr("Simulated interface, nobody playing")
                                            : tr("Simulated interface with a performer");
      device_ = std::make_unique<SimulatedDevice>(std::move(interface), *engine_);
    } else {
      device_ = openSystemDevice(settings, *engine_);
      deviceName_ = driver + (name.isEmpty() ? QString() : ": " + name);
    }
    roundTrip_ = device_->reportedRoundTrip();
    device_->start();
  } catch (const std::exception& e) {
    closeDevice();
    emit said(QString::fromUtf8(e.what()));
  }
  emit transportChanged();
}

}  // namespace yewdrift::app
