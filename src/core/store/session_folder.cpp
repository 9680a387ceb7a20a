// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/session_folder.h"

#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

#include <cerrno>
#include <cstdio>
#include <fstream>
#include <nlohmann/json.hpp>

#include "core/edit/edit.h"
#include "core/error.h"
#include "core/store/atomic_file.h"
#include "core/store/audio_file.h"
#include "core/store/json_delta.h"
#include "core/store/json_numbers.h"
#include "core/store/session_json.h"

namespace yewdrift {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

constexpr const char* formatName = "yewdrift-session";
constexpr int formatVersion = 1;
constexpr std::uintmax_t largestDocument = std::uintmax_t{1} << 30;

json parsed(const std::string& text, const std::string& what) {
  json document = json::parse(text, nullptr, false);
  if (document.is_discarded()) throw Error(what + " is damaged: it is not valid JSON.");
  return document;
}

/// It was made for a recording, which ended before it had so much as a header.
bool holdsNothing(const fs::path& path) {
  constexpr std::uintmax_t header = 256;
  std::error_code error;
  const auto size = fs::file_size(path, error);
  return !error && size < header;
}

}  // namespace

struct SessionFolder::Lock {
  int descriptor = -1;
  Lock() = default;
  Lock(const Lock&) = delete;
  Lock& operator=(const Lock&) = delete;
  ~Lock() {
    if (descriptor >= 0) ::close(descriptor);
  }
};

void SessionFolder::lock() {
  lock_ = std::make_shared<Lock>();
  lock_->descriptor = ::open((path_ / ".lock").c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644);
  // A folder without write permission can be looked at; writing will say so.
  if (lock_->descriptor < 0) return;
  if (::flock(lock_->descriptor, LOCK_EX | LOCK_NB) != 0 && errno == EWOULDBLOCK)
    throw Error("The session is open in another Yewdrift; close it there first.");
}

SessionFolder SessionFolder::create(const fs::path& path, const Session& session) {
  checkInvariants(session);
  std::error_code error;
  if (fs::exists(path, error) && (!fs::is_directory(path, error) || !fs::is_empty(path, error)))
    throw Error("\"" + path.string() + "\" has something in it already; choose a new or an empty folder.");
  fs::create_directories(path / "audio", error);
  if (error) throw Error("The folder \"" + path.string() + "\" cannot be made: " + error.message() + ".");
  SessionFolder folder(fs::canonical(path));
  folder.lock();
  folder.history_ = History(session);
  folder.save();
  return folder;
}

SessionFolder SessionFolder::open(const fs::path& path, Access access) {
  std::error_code error;
  if (!fs::is_directory(path, error)) throw Error("\"" + path.string() + "\" is not a session folder.");
  if (!fs::is_regular_file(path / "session.json", error))
    throw Error("\"" + path.string() + "\" is not a session folder: it has no session.json.");
  SessionFolder folder(fs::canonical(path));
  if (access == Access::Write) folder.lock();
  folder.load();
  if (access == Access::Write) folder.recoverRecording();
  for (std::string& problem : folder.fileProblems()) folder.notices_.push_back(std::move(problem));
  return folder;
}

void SessionFolder::load() {
  const json document = parsed(readWhole(path_ / "session.json", largestDocument), "session.json");
  if (!document.is_object() || document.value("format", json()) != formatName)
    throw Error("session.json is not a Yewdrift session.");
  const auto version = document.find("version");
  if (version == document.end() || !version->is_number_integer())
    throw Error("session.json does not say its version.");
  if (wholeNumber(*version) > formatVersion)
    throw Error("This session was made by a newer Yewdrift (format " + version->dump() +
                "; this one reads up to " + std::to_string(formatVersion) + "). It was left as it is.");
  if (wholeNumber(*version) < 1) throw Error("session.json names an impossible version.");
  if (!document.contains("session")) throw Error("session.json is damaged: it holds no session.");
  Session now = sessionFromJson(document["session"]);
  for (const PoolFile& file : *now.pool) (void)pathInside(file.path);

  std::vector<History::Step> done;
  std::vector<History::Step> undone;
  std::int64_t stepsMade = 0;
  try {
    if (document.contains("history")) {
      const json& history = document["history"];
      stepsMade = wholeNumber(history.at("stepsMade"));
      for (const json& offset : history.at("done")) done.push_back(storedStep(wholeNumber(offset)));
      for (const json& offset : history.at("undone")) undone.push_back(storedStep(wholeNumber(offset)));
    }
  } catch (const std::exception&) {
    // The present is whole; only the way back is not.
    done.clear();
    undone.clear();
    logged_.clear();
    stepsMade += 1'000'000;
    notices_.emplace_back(
        "The history of this session is damaged; the session itself is whole, but earlier steps cannot be "
        "undone.");
  }
  history_ = History(std::move(done), std::move(now), std::move(undone), stepsMade);
}

json SessionFolder::stepFromLog(std::int64_t offset) const {
  std::ifstream log(path_ / "history.log", std::ios::binary);
  log.seekg(offset);
  std::string line;
  if (offset < 0 || !log || !std::getline(log, line)) throw Error("A step of the history is missing.");
  json step = parsed(line, "history.log");
  if (!step.is_object() || !step.contains("id") || !step.contains("label"))
    throw Error("A step of the history is damaged.");
  return step;
}

History::Step SessionFolder::storedStep(std::int64_t offset) {
  const json head = stepFromLog(offset);
  // Only label and id stay in memory; the deltas are read when the step is undone.
  auto way = [offset, path = path_](const char* which) {
    return [offset, path, which](const Session& from) {
      const json step = SessionFolder(path).stepFromLog(offset);
      return sessionFromJson(applyJsonDelta(toJson(from), step.at(which)));
    };
  };
  const auto id = wholeNumber(head["id"]);
  logged_[id] = offset;
  return {id, head["label"].get<std::string>(), way("back"), way("forth")};
}

void SessionFolder::appendStep(const History::Step& step, const json& before, const json& after) {
  const json line{{"id", step.id},
                  {"label", step.label},
                  {"back", jsonDelta(after, before)},
                  {"forth", jsonDelta(before, after)}};
  logged_[step.id] = appendSynced(path_ / "history.log", line.dump() + "\n");
}

void SessionFolder::appendMissingSteps(const json& present) {
  // From the present on, either way, to the last step that the log does not have: behind one that was undone
  // and is there lies one that was undone before it was ever saved.
  const auto append = [&](const std::vector<History::Step>& steps, bool backwards) {
    const auto last = std::find_if(steps.begin(), steps.end(),
                                   [this](const History::Step& step) { return !logged_.contains(step.id); });
    Session at = history_.now();
    json atJson = present;
    for (auto step = steps.end(); step != last;) {
      --step;
      at = backwards ? step->back(at) : step->forth(at);
      json next = toJson(at);
      if (!logged_.contains(step->id))
        appendStep(*step, backwards ? next : atJson, backwards ? atJson : next);
      atJson = std::move(next);
    }
  };
  append(history_.done(), true);
  append(history_.undone(), false);
}

void SessionFolder::save() {
  const json present = toJson(history_.now());
  appendMissingSteps(present);
  auto offsets = [this](const std::vector<History::Step>& steps) {
    json list = json::array();
    for (const History::Step& step : steps) list.push_back(logged_.at(step.id));
    return list;
  };
  const json document{{"format", formatName},
                      {"version", formatVersion},
                      {"session", present},
                      {"history",
                       {{"stepsMade", history_.stepsMade()},
                        {"done", offsets(history_.done())},
                        {"undone", offsets(history_.undone())}}}};
  writeWhole(path_ / "session.json", document.dump(1));
}

void SessionFolder::commit(const std::string& label, Session next) {
  checkInvariants(next);
  const History before = history_;
  history_.commit(label, std::move(next));
  try {
    save();
  } catch (...) {
    history_ = before;
    throw;
  }
}

fs::path SessionFolder::pathInside(const std::string& relative) const {
  const fs::path asked(relative);
  bool leaves = asked.empty() || asked.is_absolute();
  for (const fs::path& part : asked) leaves = leaves || part == "..";
  std::error_code error;
  const fs::path real = leaves ? fs::path() : fs::weakly_canonical(path_ / asked, error);
  const auto [end, unused] = std::mismatch(path_.begin(), path_.end(), real.begin(), real.end());
  if (leaves || error || end != path_.end())
    throw Error("The session names a file outside its own folder (\"" + relative + "\"); it was not opened.");
  return path_ / asked;
}

std::string SessionFolder::newAudioName(const std::string& stem, const std::string& extension) const {
  std::string clean;
  for (const char c : stem) {
    const bool plain =
        (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '-' || c == '_';
    clean += plain ? c : '-';
  }
  if (clean.empty()) clean = "audio";
  for (int n = 1;; ++n) {
    char number[16];
    std::snprintf(number, sizeof number, "-%03d.", n);
    std::string name = "audio/" + clean.substr(0, 80) + number + extension;
    if (!fs::exists(path_ / name)) return name;
  }
}

std::vector<std::string> SessionFolder::fileProblems() const {
  std::vector<std::string> problems;
  for (const PoolFile& file : *session().pool) {
    try {
      const AudioFileInfo info = probeAudioFile(audioPath(file));
      if (info.length < file.length)
        problems.push_back("The audio file \"" + file.path + "\" is shorter than it was (" +
                           std::to_string(info.length.count) + " of " + std::to_string(file.length.count) +
                           " frames); the rest is silent.");
      if (info.channels < file.channels)
        problems.push_back("The audio file \"" + file.path + "\" has lost channels; they are silent.");
      if (info.rate != session().rate)
        problems.push_back("The audio file \"" + file.path +
                           "\" is not at the session's rate; it would play at the wrong speed.");
    } catch (const Error& e) {
      problems.push_back(std::string(e.what()) + " What plays from " + file.path +
                         " is silent until it is back.");
    }
  }
  return problems;
}

void SessionFolder::beginRecordingNote(const Session& session, const RecordSetup& setup,
                                       const std::vector<Capture>& captures) {
  json list = json::array();
  for (const Capture& capture : captures) {
    json files = json::array();
    for (const PoolFile& file : capture.files)
      files.push_back({{"path", file.path}, {"channels", file.channels}});
    const Track* track = session.track(capture.track);
    list.push_back({{"track", capture.track.value}, {"name", track ? track->name : ""}, {"files", files}});
    if (capture.into) list.back()["into"] = capture.into->value;
  }
  writeWhole(path_ / "recording.json", json{{"setup", toJson(setup)}, {"captures", list}}.dump(1));
}

void SessionFolder::endRecordingNote() {
  std::error_code ignored;
  fs::remove(path_ / "recording.json", ignored);
}

void SessionFolder::recoverRecording() {
  std::error_code ignored;
  if (!fs::exists(path_ / "recording.json", ignored)) return;
  try {
    const json note = parsed(readWhole(path_ / "recording.json", largestDocument), "recording.json");
    const RecordSetup setup = recordSetupFromJson(note.at("setup"));
    std::vector<Capture> captures;
    Session next = session();
    Frames longest;
    for (const json& entry : note.at("captures")) {
      Capture capture{TrackId{smallNumber(entry.at("track"))}, {}, {}};
      if (entry.contains("into")) capture.into = LaneNumber{smallNumber(entry.at("into"))};
      Frames most;  // of any microphone
      std::string empty;
      for (const json& file : entry.at("files")) {
        const auto relative = file.at("path").get<std::string>();
        AudioFileInfo info{file.value("channels", 1), session().rate, {}, true, std::nullopt};
        if (!holdsNothing(pathInside(relative))) info = probeAudioFile(pathInside(relative));
        capture.files.push_back({relative, info.channels, info.length});
        if (info.length.count == 0) empty = relative;
        most = std::max(most, info.length);
      }
      if (!empty.empty()) {
        // It ended before all of its headers told of a first frame; or one of them was harmed later.
        if (most > framesFromSeconds(0.5, session().rate))
          throw Error("The file \"" + empty + "\" holds nothing of it, though others do.");
        continue;
      }
      longest = std::max(longest, most);
      // Brought in before, but what followed the roll was still being captured, or the note could not be
      // removed.
      bool known = false;
      for (const PoolFile& file : capture.files)
        for (const PoolFile& pooled : *next.pool) {
          if (pooled.path != file.path) continue;
          known = true;
          if (file.length < pooled.length) lengthenAudioFile(pathInside(file.path), pooled.length);
        }
      if (known) continue;
      const auto name = entry.at("name").get<std::string>();
      if (!next.track(capture.track)) {
        // The track was made for this recording and had not been saved yet.
        std::vector<Microphone> microphones;
        for (const PoolFile& file : capture.files)
          microphones.push_back(
              {"Microphone", static_cast<int>(microphones.size()), std::min(file.channels, 2), {}, {}});
        next = addTrack(std::move(next), name, microphones);
        capture.track = next.tracks.back()->id;
      }
      captures.push_back(std::move(capture));
    }
    if (captures.empty()) return endRecordingNote();
    commit("Recover recording", addRecording(std::move(next), setup, captures).session);
    notices_.push_back("A recording that was cut off was recovered: " + clockText(longest, session().rate) +
                       " of it are in new lanes.");
    endRecordingNote();
  } catch (const std::exception& e) {
    notices_.push_back(
        std::string("A recording that was cut off could not be brought in; its files are still in audio/. ") +
        e.what());
  }
}

}  // namespace yewdrift
