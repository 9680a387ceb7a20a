// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <filesystem>
#include <map>
#include <memory>
#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "core/edit/history.h"
#include "core/edit/recorded_roll.h"

namespace yewdrift {

/// A session on disk: session.json, history.log, audio/, cache/. Every write of session.json goes to a
/// temporary file, is synced and renamed, so at any moment the folder holds a whole session. Not thread-safe;
/// each object belongs to one thread at a time.
class SessionFolder {
 public:
  enum class Access { Read, Write };

  /// Makes the folder; throws Error where it has something in it or cannot be written.
  static SessionFolder create(const std::filesystem::path& path, const Session& session);

  /// Opens with all its history. With Write nobody else can open it for writing until this object is gone,
  /// and a recording that was cut off by a crash is brought in. Throws Error where it is not a session, is
  /// damaged, was made by a newer version, or is open elsewhere.
  static SessionFolder open(const std::filesystem::path& path, Access access);

  [[nodiscard]] const std::filesystem::path& path() const { return path_; }
  [[nodiscard]] const History& history() const { return history_; }
  [[nodiscard]] const Session& session() const { return history_.now(); }
  History& editHistory() { return history_; }
  /// What opening found worth saying: recovered recordings, missing or shortened files.
  [[nodiscard]] const std::vector<std::string>& notices() const { return notices_; }

  /// Writes the present and the steps that are not on disk yet.
  void save();
  /// commit and save; the present stays as it was where saving fails.
  void commit(const std::string& label, Session next);

  [[nodiscard]] std::filesystem::path audioPath(const PoolFile& file) const { return pathInside(file.path); }
  /// A path for a new file in audio/, "audio/<stem>-NNN.<extension>", that nothing on disk uses yet.
  [[nodiscard]] std::string newAudioName(const std::string& stem, const std::string& extension = "wav") const;
  /// The place of a relative path; throws Error where it would leave the folder, also by a link.
  [[nodiscard]] std::filesystem::path pathInside(const std::string& relative) const;

  /// Every missing, unreadable or shortened file, a sentence each.
  [[nodiscard]] std::vector<std::string> fileProblems() const;

  // -- a recording in progress, so that a crash loses nothing
  /// `session` describes the tracks that are recorded to; they may be newer than what is on disk.
  void beginRecordingNote(const Session& session, const RecordSetup& setup,
                          const std::vector<Capture>& captures);
  void endRecordingNote();

 private:
  struct Lock;
  explicit SessionFolder(std::filesystem::path path) : path_(std::move(path)) {}
  void lock();
  void load();
  void recoverRecording();
  [[nodiscard]] nlohmann::json stepFromLog(std::int64_t offset) const;
  History::Step storedStep(std::int64_t offset);
  void appendStep(const History::Step& step, const nlohmann::json& before, const nlohmann::json& after);
  void appendMissingSteps(const nlohmann::json& present);

  std::filesystem::path path_;
  std::shared_ptr<Lock> lock_;
  History history_;
  std::vector<std::string> notices_;
  std::map<std::int64_t, std::int64_t> logged_;  // step id -> its place in history.log
};

}  // namespace yewdrift
