// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/recorder.h"

#include "core/edit/edit.h"
#include "core/error.h"

namespace yewdrift {
namespace {

constexpr double bufferSeconds = 4.0;

}  // namespace

Recorder::Recorder(SessionFolder& folder, const Session& session, RecordSetup setup,
                   const std::vector<TrackId>& tracks)
    : folder_(folder), setup_(std::move(setup)) {
  setup_.check();
  if (tracks.empty()) throw Error("No track is armed, so there is nothing to record to; arm one first.");
  std::vector<CaptureFile> files;
  std::vector<std::string> names;
  for (const TrackId id : tracks) {
    const Track& track = requireTrack(session, id);
    Capture capture{id, {}};
    for (const Microphone& microphone : track.microphones) {
      const std::string stem = track.microphones.size() > 1 ? track.name + "-" + microphone.name : track.name;
      const std::string name = folder.newAudioName(stem);
      CaptureFile file{{}, folder.pathInside(name)};
      for (int channel = 0; channel < microphone.channels; ++channel)
        file.inputs.push_back(microphone.input + channel);
      // The empty file holds the name while the next one is chosen.
      files.push_back(file);
      capture.files.push_back({name, microphone.channels, {}});
      names.push_back(name);
      AudioWriter(file.path, microphone.channels, session.rate, session.format).close();
    }
    captures_.push_back(std::move(capture));
  }
  folder.beginRecordingNote(session, setup_, captures_);
  stream_ = std::make_shared<CaptureStream>(
      files, session.rate, session.format,
      static_cast<std::size_t>(framesFromSeconds(bufferSeconds, session.rate).count));
}

Session Recorder::finished(const Session& session) const {
  std::vector<Capture> captures = captures_;
  for (Capture& capture : captures)
    for (PoolFile& file : capture.files) file.length = stream_->written();
  return addRecording(session, setup_, captures);
}

void Recorder::forgetNote() {
  folder_.endRecordingNote();
}

std::string recordingLabel(const RecordSetup& setup, Frames captured) {
  int rounds = 0;
  int last = 0;
  for (const PassWindow& pass : passWindows(setup, captured)) {
    if (pass.round != last) ++rounds;
    last = pass.round;
  }
  return rounds == 1 ? "Record one pass" : "Record " + std::to_string(rounds) + " passes";
}

}  // namespace yewdrift
