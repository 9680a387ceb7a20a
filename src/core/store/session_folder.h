// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <filesystem>
#include <memory>
#include <nlohmann/json_fwd.hpp>
#include <set>
#include <string>
#include <vector>

#include "core/edit/history.h"
#include "core/store/history_log.h"
#include "core/store/session_disk.h"

namespace yewdrift {

/// A session on disk: session.json with the present, steps.log with what led to it, audio/, cache/. At any
/// moment the folder holds a whole session: steps are on disk before session.json refers to them, files
/// before the session names them. Not thread-safe; each object belongs to one thread at a time. Its disk does
/// not.
class SessionFolder {
 public:
  /// Write throws Error where the session is open elsewhere or cannot be written to; WriteOrRead then opens
  /// it to look only, and says why.
  enum class Access { Read, Write, WriteOrRead };

  /// Makes the folder; throws Error where it has something in it or cannot be written.
  static SessionFolder create(const std::filesystem::path& path, const Session& session);

  /// Opens with all its history. To be written to, nobody else can open it so until this object is gone, and
  /// recordings that were cut off by a crash are brought in. Throws Error where it is not a session, is
  /// damaged beyond what its log can rebuild, or was made by a newer version.
  static SessionFolder open(const std::filesystem::path& path, Access access);

  [[nodiscard]] const std::filesystem::path& path() const { return disk_.path(); }
  [[nodiscard]] const SessionDisk& disk() const { return disk_; }
  [[nodiscard]] bool writable() const { return writable_; }
  /// Throws Error where it is open to look only.
  void requireWritable() const;
  [[nodiscard]] const History& history() const { return history_; }
  [[nodiscard]] const Session& session() const { return history_.now(); }
  History& editHistory() { return history_; }
  /// What opening found worth saying: recovered recordings, damage, missing or shortened files.
  [[nodiscard]] const std::vector<Sentence>& notices() const { return notices_; }
  /// What of it was recovered: the steps that did so were taken at this opening.
  [[nodiscard]] const std::vector<Sentence>& recovered() const { return recovered_; }

  /// Writes the present and the steps that are not on disk yet. Throws Error where the disk does not take it;
  /// then what is on disk is as it was.
  void save();
  /// commit and save; the present stays as it was where saving fails.
  void commit(const std::string& label, Session next);

  /// Adds the places in the pool of all files that a step has to do with; reads it from the disk.
  void collectFiles(const HistoryStep& step, std::set<int>& files) const;

  /// Every missing, unreadable or shortened file, a sentence each.
  [[nodiscard]] std::vector<Sentence> fileProblems() const;

 private:
  explicit SessionFolder(SessionDisk disk) : disk_(std::move(disk)) {}
  void load();
  void readDocument(const std::string& text);
  void readHistory(const nlohmann::json& document, const Session& now);
  void rebuild(const Sentence& damage);
  void compareWithSaved(const std::string& expected, const std::string& hash);
  void recoverRecordings();
  void syncNewFiles();
  void leaveOldStepsToDisk();
  void openLog();

  SessionDisk disk_;
  bool writable_ = false;
  History history_;
  std::unique_ptr<HistoryLog> log_;  // null where it could not be read
  std::string unknown_;              // members of session.json that this version does not know
  std::set<std::string> synced_;     // files that the disk is known to have
  std::vector<Sentence> notices_;
  std::vector<Sentence> recovered_;
};

}  // namespace yewdrift
