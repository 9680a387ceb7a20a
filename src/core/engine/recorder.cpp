// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/recorder.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/edit/edit.h"
#include "core/edit/plan_recording.h"
#include "core/error.h"
#include "core/store/last_sound.h"
#include "core/time/span_parts.h"

namespace yewdrift {
namespace {

constexpr double bufferSeconds = 4.0;

/// What sounds first in a later time round may be the tail of the one before. Not so where a person
/// punched in.
Span withoutRinging(const RecordSetup& setup, const PassWindow& pass, SampleRate rate) {
  if (pass.round == 1 || setup.byHand) return pass.window;
  return {pass.window.start + framesFromSeconds(0.5, rate), pass.window.end};
}

SessionDisk::Named newFile(const SessionDisk& disk, const std::string& stem) {
  try {
    return disk.createNumbered("audio", stem, "wav");
  } catch (const Error& e) {
    throw Error("No recording can be made: %1", e.sentence());
  }
}

}  // namespace

RecordSetup withHandPunch(RecordSetup setup, Frames rollFrame, bool in) {
  std::vector<Span>& punches = setup.handPunches;
  // An in that was planned for later, or an out at the very in.
  if (!punches.empty() && punches.back().end == maximumPosition && punches.back().start >= rollFrame)
    punches.pop_back();
  else if (!in && !punches.empty())
    punches.back().end = rollFrame;
  if (in) punches.push_back({rollFrame, maximumPosition});
  return setup;
}

Recorder::Recorder(const SessionDisk& disk, const Session& session, RecordSetup setup,
                   const std::vector<TrackId>& tracks)
    : disk_(disk), note_(disk), session_(session), setup_(std::move(setup)) {
  setup_.check();
  if (tracks.empty()) throw Error("No track is armed, so there is nothing to record to; arm one first.");
  try {
    std::vector<CaptureFile> files = makeFiles(session, tracks);
    stream_ = std::make_shared<CaptureStream>(
        files, session.rate, session.format,
        static_cast<std::size_t>(framesFromSeconds(bufferSeconds, session.rate).count));
    if (!standsBy()) writeNote();
  } catch (...) {
    abandon();
    throw;
  }
}

std::vector<CaptureFile> Recorder::makeFiles(const Session& session, const std::vector<TrackId>& tracks) {
  std::vector<CaptureFile> files;
  for (const TrackId id : tracks) {
    const Track& track = requireTrack(session, id);
    captures_.push_back({id, {}, track.recordInto});
    for (const Microphone& microphone : track.microphones) {
      const std::string stem = track.microphones.size() > 1 ? track.name + "-" + microphone.name : track.name;
      std::vector<int> inputs;
      for (int channel = 0; channel < microphone.channels; ++channel)
        inputs.push_back(microphone.input + channel);
      SessionDisk::Named made = newFile(disk_, stem);
      captures_.back().files.push_back({made.name, microphone.channels, {}});
      files.emplace_back(std::move(inputs), std::move(made.file));
    }
  }
  return files;
}

void Recorder::writeNote() {
  note_.write(session_, setup_, captures_);
}

void Recorder::followOptions(const Session& session) {
  setup_.result = session.recording.result;
  setup_.hush = hushes(session.recording);
  for (Capture& capture : captures_)
    if (const Track* track = session.track(capture.track)) capture.into = track->recordInto;
}

bool Recorder::hears(const Session& session) const {
  return std::all_of(captures_.begin(), captures_.end(), [&](const Capture& capture) {
    const Track* was = session_.track(capture.track);
    const Track* now = session.track(capture.track);
    return was && now &&
           std::equal(was->microphones.begin(), was->microphones.end(), now->microphones.begin(),
                      now->microphones.end(), [](const Microphone& a, const Microphone& b) {
                        return a.input == b.input && a.channels == b.channels;
                      });
  });
}

void Recorder::punched(Frames rollFrame, bool in) {
  setup_ = withHandPunch(std::move(setup_), rollFrame, in);
  // Out at the very in: it stands by again, and nothing of it is to be recovered.
  if (standsBy())
    note_.forget();
  else
    writeNote();
}

std::vector<Capture> Recorder::capturesOf(Frames length) const {
  std::vector<Capture> captures = captures_;
  for (Capture& capture : captures)
    for (PoolFile& file : capture.files) file.length = length;
  return captures;
}

RecordSetup Recorder::ended() const {
  RecordSetup setup = setup_;
  setup.rolled = setup.capturesFrom + stream_->body() - setup.roundTrip;
  return setup;
}

Recorded Recorder::until(const Session& session, Frames rolled) const {
  RecordSetup setup = setup_;
  setup.rolled = rolled;
  return addRecording(session, setup, capturesOf(rolled + setup.roundTrip - setup.capturesFrom));
}

float Recorder::loudestIn(const Capture& capture, Span window, Frames origin) const {
  float loudest = 0.0F;
  for (const PoolFile& file : capture.files) {
    AudioReader reader(disk_.open(file.path));
    std::vector<float> block(4096 * static_cast<std::size_t>(reader.info().channels));
    for (const Span part : SpanParts(window, {4096})) {
      reader.readAt(part.start - origin, part.length().count, block.data());
      for (const float sample : block) loudest = std::max(loudest, std::abs(sample));
    }
  }
  return loudest;
}

Recorder::Result Recorder::finished(const Session& session, Ended how) const {
  const RecordSetup setup = ended();
  const std::vector<PassWindow> windows = passWindows(setup, stream_->body());
  const bool judges =
      (how == Ended::ByHand || how == Ended::AsPlanned) && session.recording.setAside && !windows.empty();
  const int last = windows.empty() ? 0 : windows.back().round;
  const bool broken = judges && isFalseStart(setup, windows, last, session.rate);
  const bool cutShort = judges && isCutShort(setup, windows, last);
  const std::vector<Capture> captures = capturesOf(stream_->whole());
  const auto isEmpty = [&](const Capture& capture) {
    return std::all_of(windows.begin(), windows.end(), [&](const PassWindow& pass) {
      return pass.round != last ||
             loudestIn(capture, withoutRinging(setup, pass, session.rate), pass.origin) < nothingPlayed;
    });
  };
  const LastSound lastSound = lastSoundOn(disk_, session);
  Recorded recorded = addRecording(session, setup, captures, [&](std::size_t index, int round) {
    if (round != last) return PassFate::Heard;
    if (broken || (cutShort && isEmpty(captures[index]))) return PassFate::SetAside;
    const bool keeps = session.recording.keepWhole && (how == Ended::ByHand || how == Ended::ByAccident);
    return keeps && brokeOff(setup, windows, last, requireTrack(session, captures[index].track), lastSound)
               ? PassFate::BrokenOff
               : PassFate::Heard;
  });
  Result result{std::move(recorded.session), std::move(recorded.lanes)};
  for (const Frames rollFrame : dropouts_) {
    // What arrived then was played one round trip earlier.
    const Frames at = setup.timeline.runAt(std::max(rollFrame - setup.roundTrip, Frames{})).position;
    result.session = addMarker(std::move(result.session), std::max(at, Frames{}), {}, MarkerKind::Dropout);
  }
  result.setAside = static_cast<int>(std::count_if(result.lanes.begin(), result.lanes.end(),
                                                   [](const RecordedLane& lane) { return lane.setAside; }));
  result.brokenOff = static_cast<int>(std::count_if(result.lanes.begin(), result.lanes.end(),
                                                    [](const RecordedLane& lane) { return lane.brokenOff; }));
  return result;
}

void Recorder::forgetNote() {
  note_.forget();
}

void Recorder::abandon() {
  note_.forget();
  for (const Capture& capture : captures_)
    for (const PoolFile& file : capture.files) disk_.remove(file.path);
}

Sentence Recorder::label() const {
  std::set<int> rounds;
  for (const PassWindow& pass : passWindows(ended(), stream_->body())) rounds.insert(pass.round);
  return Sentence("Record %n passes|Record one pass", Count{std::ssize(rounds)});
}

}  // namespace yewdrift
