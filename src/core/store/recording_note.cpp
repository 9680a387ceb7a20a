// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/recording_note.h"

#include <sys/stat.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/edit/edit.h"
#include "core/error.h"
#include "core/session/limits.h"
#include "core/store/audio_file.h"
#include "core/store/json_values.h"
#include "core/store/last_sound.h"
#include "core/store/session_json.h"

namespace yewdrift {
namespace {

using nlohmann::json;

constexpr std::uintmax_t longestNote = std::uintmax_t{16} << 20;
constexpr off_t header = 256;  // shorter than that a file has not even told what it is
constexpr double worthSaying = 0.5;
constexpr std::int64_t mostPasses = 20'000;

std::string noteText(const Session& session, const RecordSetup& setup, const std::vector<Capture>& captures) {
  json entries = json::array();
  for (const Capture& capture : captures) {
    json files = json::array();
    for (const PoolFile& file : capture.files)
      files.push_back({{"path", file.path}, {"channels", file.channels}});
    const Track* track = session.track(capture.track);
    entries.push_back({{"track", capture.track.value}, {"name", track ? track->name : ""}, {"files", files}});
    if (capture.into) entries.back()["into"] = capture.into->value;
  }
  return json{{"setup", toJson(setup)}, {"captures", entries}}.dump(1);
}

/// One file of a recording, as it was found.
struct Found {
  PoolFile file;     // with the length that is there
  Sentence problem;  // why nothing of it can be had; empty where something can
  bool holdsNothing = false;
  bool known = false;  // brought in before
  void sayHoldsNothing() {
    problem = Sentence("\"%1\" holds nothing.", file.path);
    holdsNothing = true;
  }
};

Found look(const SessionDisk& disk, const json& value, const Session& session) {
  Found found;
  found.file = {
      text(member(value, "path")), value.contains("channels") ? smallNumber(value["channels"]) : 1, {}};
  if (found.file.channels < 1 || found.file.channels > 2)
    throw Error("A file in it has an impossible number of channels.");
  checkStaysInside(found.file.path);
  found.known = std::any_of(session.pool->begin(), session.pool->end(),
                            [&](const PoolFile& each) { return each.path == found.file.path; });
  try {
    OpenFile open = disk.open(found.file.path);
    struct stat status {};
    if (::fstat(open.descriptor.get(), &status) == 0 && status.st_size < header) {
      found.sayHoldsNothing();
      return found;
    }
    const AudioFileInfo info = probeAudioFile(std::move(open));
    found.file.length = info.length;
    if (info.channels != found.file.channels || info.rate != session.rate)
      found.problem = Sentence("\"%1\" is not as it was recorded.", found.file.path);
    else if (info.length.count == 0)
      found.sayHoldsNothing();
  } catch (const Error& e) {
    found.problem = e.sentence();
  }
  return found;
}

/// A file that was still growing when its take was saved ends early; its take counts on all of it.
void fillUp(const SessionDisk& disk, const Found& found, const Session& session) {
  for (const PoolFile& pooled : *session.pool)
    if (pooled.path == found.file.path && found.problem.empty() && found.file.length < pooled.length)
      lengthenAudioFile(disk.openToChange(found.file.path), pooled.length);
}

/// As one recorded piece from its first frame to its last, where no pass says what of it is audible.
Session addSetAside(Session session, const RecordSetup& setup, const std::vector<Capture>& captures) {
  for (const Capture& capture : captures) {
    const Track& track = requireTrack(session, capture.track);
    Clip clip;
    clip.origin = setup.timeline.start + setup.capturesFrom - setup.timeline.countIn - setup.roundTrip;
    for (const PoolFile& file : capture.files) {
      session = addPoolFile(std::move(session), file);
      clip.sourceLength = std::max(clip.sourceLength, file.length);
      for (int channel = 0; channel < file.channels; ++channel)
        clip.channels.push_back({static_cast<int>(session.pool->size()) - 1, channel});
    }
    clip.channels.resize(static_cast<std::size_t>(track.channels()), clip.channels.back());
    clip.window = clip.extent();
    session = addLane(std::move(session), capture.track, {clip});
    const LaneNumber made{requireTrack(session, capture.track).lanesMade};
    session = setLaneAside(std::move(session), capture.track, made, true);
  }
  return session;
}

/// The track a capture went to; made anew where it had not been saved yet.
Session withTrackFor(Session session, Capture& capture, const std::string& name) {
  if (session.track(capture.track)) return session;
  std::vector<Microphone> microphones;
  for (const PoolFile& file : capture.files)
    microphones.push_back({"Microphone", static_cast<int>(microphones.size()), file.channels, {}, {}});
  session = addTrack(std::move(session), name, microphones);
  capture.track = session.tracks.back()->id;
  return session;
}

class Recoverer {
 public:
  Recoverer(const SessionDisk& disk, const Session& session)
      : disk_(disk), result_{session, false, true, {}} {}

  Recovery recover(const std::string& note) {
    const json document = parsedJson(disk_.read(note, longestNote), Sentence::verbatim(note));
    RecordSetup setup = recordSetupFromJson(member(document, "setup"));
    setup.check();
    std::vector<Capture> captures;
    for (const json& entry : list(member(document, "captures"))) try {
        if (auto capture = captureOf(entry)) captures.push_back(std::move(*capture));
      } catch (const Error& e) {
        problems_.push_back(e.sentence());
        result_.settled = false;
      }
    if (!captures.empty()) bringIn(setup, captures);
    for (const Sentence& problem : problems_)
      addSentence(result_.sentences, "A part of a recording that was cut off could not be brought in: %1",
                  problem);
    return std::move(result_);
  }

 private:
  std::optional<Capture> captureOf(const json& entry) {
    Capture capture{TrackId{smallNumber(member(entry, "track"))}, {}, {}};
    if (entry.contains("into")) capture.into = LaneNumber{smallNumber(entry["into"])};
    Frames most;
    bool known = false;
    std::vector<Sentence> problems;
    bool allEmpty = true;
    for (const json& value : list(member(entry, "files"))) {
      const Found found = look(disk_, value, result_.session);
      known = known || found.known;
      fillUp(disk_, found, result_.session);
      if (!found.problem.empty()) {
        problems.push_back(found.problem);
        allEmpty = allEmpty && found.holdsNothing;
      }
      most = std::max(most, found.problem.empty() ? found.file.length : Frames{});
      capture.files.push_back(found.file);
    }
    if (known || capture.files.empty()) return std::nullopt;
    // It ended before any of its files told of a first frame: nothing that anybody played is missing.
    const bool worthIt = most > framesFromSeconds(worthSaying, result_.session.rate);
    if (worthIt || !allEmpty) problems_.insert(problems_.end(), problems.begin(), problems.end());
    if (most.count == 0 || (!problems.empty() && !worthIt && allEmpty)) {
      result_.settled = result_.settled && allEmpty;
      return std::nullopt;
    }
    // They end within a moment of each other. One that left less than that is silent where the others play.
    for (PoolFile& file : capture.files)
      if (most - file.length > framesFromSeconds(worthSaying, result_.session.rate)) file.length = most;
    // A copy: where there can be no such track, the session is still what it was.
    result_.session = withTrackFor(result_.session, capture, text(member(entry, "name")));
    return capture;
  }

  void bringIn(const RecordSetup& setup, const std::vector<Capture>& captures) {
    Frames longest;
    for (const Capture& capture : captures)
      for (const PoolFile& file : capture.files) longest = std::max(longest, file.length);
    if (setup.timeline.loop && longest.count / setup.timeline.loop->length().count > mostPasses)
      throw Error("Its loop went round more often than there can be takes.");
    const std::string length = clockText(longest, result_.session.rate);
    // The program was killed in the middle of it: a take that is whole is not pushed aside by the last pass.
    const std::vector<PassWindow> windows = passWindows(setup, longest);
    const int last = windows.empty() ? 0 : windows.back().round;
    const Session& before = result_.session;
    const LastSound lastSound = lastSoundOn(disk_, before);
    Recorded recorded = addRecording(before, setup, captures, [&](std::size_t index, int round) {
      return round == last && before.recording.keepWhole &&
                     brokeOff(setup, windows, last, requireTrack(before, captures[index].track), lastSound)
                 ? PassFate::BrokenOff
                 : PassFate::Heard;
    });
    if (recorded.lanes.empty()) {
      result_.session = addSetAside(std::move(result_.session), setup, captures);
      addSentence(
          result_.sentences,
          "A recording that was cut off before its punch was recovered: %1 of it are in lanes that are set "
          "aside.",
          length);
    } else {
      result_.session = std::move(recorded.session);
      addSentence(result_.sentences, "A recording that was cut off was recovered: %1 of it are in new lanes.",
                  length);
    }
    checkInvariants(result_.session);
    result_.changed = true;
  }

  const SessionDisk& disk_;
  Recovery result_;
  std::vector<Sentence> problems_;
};

}  // namespace

void RecordingNote::write(const Session& session, const RecordSetup& setup,
                          const std::vector<Capture>& captures) {
  const std::string content = noteText(session, setup, captures);
  if (!name_.empty()) return disk_.replace(name_, content);
  PendingFile note(disk_, {}, "recording", "json");
  {
    const OpenFile file = note.take();
    writeAll(file.descriptor.get(), content, "recording.json");
  }
  name_ = note.keep();
  disk_.syncFolder();
}

void RecordingNote::forget() {
  if (!name_.empty()) disk_.remove(name_);
  name_.clear();
}

std::vector<std::string> recordingNotes(const SessionDisk& disk) {
  std::vector<std::string> notes;
  for (const std::string& name : disk.list())
    if (name.starts_with("recording") && name.ends_with(".json")) notes.push_back(name);
  return notes;
}

Recovery recoverRecording(const SessionDisk& disk, const std::string& note, const Session& session) {
  try {
    return Recoverer(disk, session).recover(note);
  } catch (const Error& e) {
    return {
        session,
        false,
        false,
        {Sentence(
            "A recording that was cut off could not be brought in (its note is %1); its files are still in "
            "audio/. %2",
            note, e.sentence())}};
  }
}

}  // namespace yewdrift
