// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/session_folder.h"

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/error.h"
#include "core/store/audio_file.h"
#include "core/store/file_uses.h"
#include "core/store/json_values.h"
#include "core/store/recording_note.h"
#include "core/store/session_json.h"

namespace yewdrift {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

constexpr const char* documentName = "session.json";
constexpr const char* formatName = "yewdrift-session";

/// To the first number that is free.
void setAside(const SessionDisk& disk, const std::string& name, const std::string& stem,
              const std::string& ending) {
  int number = 1;
  while (!disk.rename(name, stem + std::to_string(number) + ending)) ++number;
}
constexpr int formatVersion = 2;
constexpr std::uintmax_t largestDocument = std::uintmax_t{256} << 20;
constexpr std::size_t stepsInMemory = 200;

Sentence historyDamaged() {
  return Sentence(
      "The history of this session is damaged; the session itself is whole, but earlier steps cannot be "
      "undone.");
}

/// Throws Error where the document is no session of the format that this program reads.
void requireReadable(const json& document) {
  if (!document.is_object() || document.value("format", json()) != formatName)
    throw Error("session.json is not a Yewdrift session.");
  const auto version = document.find("version");
  if (version == document.end() || !version->is_number_integer())
    throw Error("session.json does not say its version.");
  const std::int64_t number = wholeNumber(*version);
  if (number > formatVersion)
    throw Error(
        "This session was made by a newer Yewdrift (format %1; this one reads format %2). It was left as it "
        "is.",
        number, formatVersion);
  if (number < 1) throw Error("session.json names an impossible version.");
  if (number < formatVersion)
    throw Error(
        "This session was made by an older Yewdrift (format %1; this one reads format %2). It was left as it "
        "is.",
        number, formatVersion);
  if (!document.contains("session")) throw Error("session.json is damaged: it holds no session.");
}

/// Marks damage that may be made good from the log, unlike a session of a newer version.
struct Damage : Error {
  using Error::Error;
};

/// Empty, or with nothing in it but what a creation leaves that was cut off before its first save.
bool holdsNoWork(const fs::path& folder) {
  constexpr std::uintmax_t longestHeader = 64;  // of a log without a step
  std::error_code error;
  for (const fs::directory_entry& entry : fs::directory_iterator(folder, error)) {
    const std::string name = entry.path().filename().string();
    const bool link = entry.is_symlink(error);
    const bool file = !link && entry.is_regular_file(error);
    const bool emptyFolder = !link && entry.is_directory(error) && fs::is_empty(entry.path(), error);
    const bool leftover = (file && name == ".lock") || (file && name.starts_with(".session.json.")) ||
                          (file && name.starts_with(".steps.log.")) ||
                          (file && name == "steps.log" && entry.file_size(error) <= longestHeader) ||
                          (emptyFolder && name == "audio");
    if (!leftover) return false;
  }
  return !error;
}

}  // namespace

SessionFolder SessionFolder::create(const fs::path& path, const Session& session) {
  checkInvariants(session);
  std::error_code error;
  if (fs::exists(path, error) && !(fs::is_directory(path, error) && holdsNoWork(path)))
    throw Error("\"%1\" has something in it already; choose a new or an empty folder.", path.string());
  fs::create_directories(path, error);
  if (error) throw Error("The folder \"%1\" cannot be made: %2.", path.string(), reasonOf(error.value()));
  SessionFolder folder{SessionDisk(path)};
  if (folder.disk_.lock() != SessionDisk::Locked::Yes)
    throw Error("The folder \"%1\" cannot be written to.", path.string());
  folder.writable_ = true;
  folder.disk_.makeFolder("audio");
  folder.openLog();
  folder.history_ = History(session);
  folder.save();
  return folder;
}

SessionFolder SessionFolder::open(const fs::path& path, Access access) {
  SessionFolder folder{SessionDisk(path)};
  const auto kind = folder.disk_.kindOf(documentName);
  if (kind == SessionDisk::Kind::Nothing && !folder.disk_.has("steps.log"))
    throw Error("\"%1\" is not a session folder: it has no session.json.", path.string());
  if (access != Access::Read) {
    const auto locked = folder.disk_.lock();
    folder.writable_ = locked == SessionDisk::Locked::Yes;
    const bool elsewhere = locked == SessionDisk::Locked::Elsewhere;
    if (!folder.writable_ && access == Access::Write)
      throw elsewhere ? Error("The session is open in another Yewdrift; close it there first.")
                      : Error("The session's folder cannot be written to; it can only be looked at.");
    if (!folder.writable_)
      folder.notices_.push_back(
          elsewhere ? Sentence("The session is open in another Yewdrift; it is opened to look and listen "
                               "only, and nothing is saved.")
                    : Sentence("The session's folder cannot be written to; it is opened to look and listen "
                               "only, and nothing is saved."));
  }
  if (folder.writable_) folder.disk_.removeStrays();
  folder.load();
  if (folder.writable_)
    folder.recoverRecordings();
  else if (access != Access::Read && !recordingNotes(folder.disk_).empty())
    addSentence(
        folder.notices_,
        "A recording that was cut off waits here; it is brought in when the session is opened to be written "
        "to.");
  for (Sentence& problem : folder.fileProblems()) folder.notices_.push_back(std::move(problem));
  return folder;
}

void SessionFolder::openLog() {
  try {
    log_ = std::make_unique<HistoryLog>(disk_);
  } catch (const Error& e) {
    addSentence(notices_, "The history of this session cannot be read: %1 Earlier steps cannot be undone.",
                e.sentence());
  }
}

void SessionFolder::load() {
  openLog();
  std::string document;
  try {
    document = disk_.read(documentName, largestDocument);
  } catch (const Error& e) {
    return rebuild(e.sentence());
  }
  try {
    readDocument(document);
  } catch (const Damage& e) {
    rebuild(e.sentence());
  }
  // What was there when it was opened, the disk has.
  for (const PoolFile& file : *session().pool) synced_.insert(file.path);
}

void SessionFolder::readDocument(const std::string& content) {
  json document;
  try {
    document = parsedJson(content, Sentence::verbatim(documentName));
  } catch (const Error& e) {
    throw Damage(e.sentence());
  }
  requireReadable(document);
  Session now;
  try {
    now = sessionFromJson(document["session"]);
  } catch (const Error& e) {
    throw Damage(e.sentence());
  }
  unknown_ = unknownIn(document, {"format", "version", "session", "history"}).text();
  readHistory(document, now);
}

void SessionFolder::readHistory(const json& document, const Session& now) {
  std::int64_t root = 0;
  std::int64_t at = 0;
  std::int64_t tip = 0;
  bool said = false;
  std::int64_t made = log_ ? log_->highest() : 0;
  std::string expected;
  try {
    const json& history = member(document, "history");
    root = wholeNumber(member(history, "root"));
    at = wholeNumber(member(history, "at"));
    tip = wholeNumber(member(history, "tip"));
    made = std::max(made, wholeNumber(member(history, "made")));
    expected = text(member(history, "state"));
  } catch (const Error&) {
    root = at = tip = made;
    said = true;
    notices_.push_back(historyDamaged());
  }
  std::vector<HistoryLog::Entry> back;
  std::vector<HistoryLog::Entry> on;
  if (log_) {
    back = log_->leadingTo(at, root);
    on = log_->leadingTo(tip, at);
    std::reverse(on.begin(), on.end());
    // Where one of those that were undone is damaged, perhaps others follow the present.
    if (tip != at && (on.empty() || on.front().parent != at)) on = log_->leadingOn(at);
  }
  std::vector<History::Step> steps;
  for (auto entry = back.rbegin(); entry != back.rend(); ++entry) steps.push_back(log_->stepOf(*entry));
  for (const HistoryLog::Entry& entry : on) steps.push_back(log_->stepOf(entry));
  const std::int64_t reached = back.empty() ? at : back.back().parent;
  const std::int64_t leadsOnTo = on.empty() ? at : on.back().id;
  if (log_ && !said && (reached != root || leadsOnTo != tip))
    notices_.push_back(
        reached == root
            ? Sentence("The history of this session is damaged; not everything that was undone can be "
                       "done again.")
        : back.empty() ? historyDamaged()
                       : Sentence("The history of this session is damaged; the session itself is whole, but "
                                  "steps can only be undone as far back as \"%1\".",
                                  back.back().label));
  history_ = History(reached, History::Steps(steps), back.size(), now, std::max({made, at, tip, root}));
  if (!expected.empty()) compareWithSaved(expected, stateHash(document["session"]));
}

/// Where somebody else wrote to session.json, what it says counts; what was there before can be gone back to.
void SessionFolder::compareWithSaved(const std::string& expected, const std::string& hash) {
  const Session changed = session();
  // What only is written in another way is no change.
  if (hash == expected || stateHash(toJson(changed)) == expected) return;
  try {
    Session before = log_ ? log_->rebuilt(history_.at()).value_or(Session{}) : Session{};
    if (stateHash(toJson(before)) != expected) throw Error("It cannot be rebuilt.");
    before.recording = changed.recording;
    before.pool = changed.pool;
    checkInvariants(before);
    history_.replacePresent(std::move(before));
    history_.commit("Change from outside", changed);
    addSentence(
        notices_,
        "session.json was changed by something other than Yewdrift, or is damaged; what it says now counts. "
        "Undo goes back to what was saved.");
  } catch (const Error&) {
    history_.forget();
    addSentence(
        notices_,
        "session.json was changed by something other than Yewdrift, or is damaged; what it says now counts, "
        "and earlier steps cannot be undone.");
  }
}

void SessionFolder::rebuild(const Sentence& damage) {
  const std::int64_t last = log_ ? log_->highest() : 0;
  const auto session = log_ ? log_->rebuilt(last) : std::nullopt;
  if (!session) throw Error(damage);
  std::vector<History::Step> steps;
  const auto entries = log_->leadingTo(last);
  for (auto entry = entries.rbegin(); entry != entries.rend(); ++entry) steps.push_back(log_->stepOf(*entry));
  history_ = History(entries.empty() ? last : entries.back().parent, History::Steps(steps), steps.size(),
                     *session, last);
  notices_.push_back(
      entries.empty() ? Sentence("%1 The session was rebuilt from its history, up to its beginning.", damage)
                      : Sentence("%1 The session was rebuilt from its history, up to \"%2\".", damage,
                                 entries.front().label));
  // What was there may still be of use to somebody.
  if (writable_ && disk_.kindOf(documentName) != SessionDisk::Kind::Nothing)
    setAside(disk_, documentName, "session-damaged-", ".json");
  if (writable_) save();
}

void SessionFolder::syncNewFiles() {
  bool any = false;
  for (const PoolFile& file : *session().pool) {
    if (synced_.contains(file.path)) continue;
    // What is missing cannot be synced; opening has said so.
    if (disk_.kindOf(file.path) == SessionDisk::Kind::File) disk_.sync(file.path);
    synced_.insert(file.path);
    any = true;
  }
  if (any) disk_.syncFolder("audio");
}

void SessionFolder::leaveOldStepsToDisk() {
  const History::Steps& steps = history_.steps();
  for (std::size_t i = steps.size() - std::min(steps.size(), stepsInMemory); i-- > 0;) {
    const HistoryStep& step = *steps[i];
    if (!step.values()) return;
    log_->leaveToDisk(step);
  }
}

void SessionFolder::requireWritable() const {
  if (!writable_) throw Error("The session is open to look at only; nothing can be changed in it.");
}

void SessionFolder::save() {
  requireWritable();
  if (!log_) {
    // What lies in its log's place is not ours to touch; the steps go on in a log of their own.
    setAside(disk_, "steps.log", "steps-unreadable-", ".log");
    log_ = std::make_unique<HistoryLog>(disk_);
  }
  syncNewFiles();
  const json present = toJson(session());
  const std::string hash = stateHash(present);
  log_->append(history_, hash);
  json document{{"format", formatName},
                {"version", formatVersion},
                {"session", present},
                {"history",
                 {{"root", history_.root()},
                  {"at", history_.at()},
                  {"tip", history_.tip()},
                  {"made", history_.made()},
                  {"state", hash}}}};
  addUnknown(document, Unknown(unknown_));
  disk_.replace(documentName, document.dump(1));
  leaveOldStepsToDisk();
  log_->compact(history_);
}

void SessionFolder::commit(const std::string& label, Session next) {
  checkInvariants(next);
  const History before = history_;
  history_.commit(label, std::move(next));
  try {
    save();
  } catch (...) {
    history_.takeBack(before);
    throw;
  }
}

void SessionFolder::collectFiles(const HistoryStep& step, std::set<int>& files) const {
  if (log_) log_->collectFiles(step, files);
}

std::vector<Sentence> SessionFolder::fileProblems() const {
  std::vector<Sentence> problems;
  std::optional<std::vector<FileUse>> uses;
  // What nobody needs may have gone to the trash.
  const auto unneeded = [&](const std::string& path) {
    try {
      if (!uses) uses = fileUses(*this);
    } catch (const Error&) {
      uses.emplace();  // not to be told: every file counts as needed
    }
    return std::any_of(uses->begin(), uses->end(), [&](const FileUse& use) {
      return use.path == path && use.needed == Needed::ByNobody;
    });
  };
  std::vector<PoolFile> audio = *session().pool;
  std::erase_if(audio, [](const PoolFile& file) { return file.kind != PoolKind::Audio; });
  for (const PoolFile& file : audio) {
    try {
      const AudioFileInfo info = probeAudioFile(disk_.open(file.path));
      if (info.length < file.length)
        addSentence(problems,
                    "The audio file \"%1\" is shorter than it was (%2 of %3 frames); the rest is silent.",
                    file.path, info.length.count, file.length.count);
      if (info.channels < file.channels)
        addSentence(problems, "The audio file \"%1\" has lost channels; they are silent.", file.path);
      if (info.rate != session().rate)
        addSentence(problems,
                    "The audio file \"%1\" is not at the session's rate; it would play at the wrong speed.",
                    file.path);
    } catch (const Error& e) {
      if (!unneeded(file.path))
        addSentence(problems, "%1 What plays from %2 is silent until it is back.", e.sentence(), file.path);
    }
  }
  return problems;
}

void SessionFolder::recoverRecordings() {
  for (const std::string& note : recordingNotes(disk_)) {
    Recovery recovery = recoverRecording(disk_, note, session());
    try {
      if (recovery.changed) {
        commit("Recover recording", std::move(recovery.session));
        recovered_.insert(recovered_.end(), recovery.sentences.begin(), recovery.sentences.end());
      }
      if (recovery.settled) disk_.remove(note);
      notices_.insert(notices_.end(), recovery.sentences.begin(), recovery.sentences.end());
    } catch (const Error& e) {
      addSentence(notices_,
                  "A recording that was cut off could not be brought in; its files are still in audio/. %1",
                  e.sentence());
    }
  }
  if (recordingNotes(disk_).empty()) removeEmptyFiles(disk_, session());
}

}  // namespace yewdrift
