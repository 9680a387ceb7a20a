// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "core/edit/history.h"
#include "core/store/session_disk.h"

namespace yewdrift {

/// The steps of a session on disk (steps.log): records that are only ever added, each with its length, a
/// checksum, the step it follows and the state it was made from. Now and then a record holds a whole state,
/// so that the session can be rebuilt from the log alone. One thread at a time; the ways it gives out: any.
class HistoryLog {
 public:
  struct Entry {
    enum class Kind { Step, Whole };
    Kind kind = Kind::Step;
    std::int64_t id = 0;  // of the step; of the step that made the state
    std::int64_t parent = 0;
    std::string from;  // hash of the state it was made from; of the state
    std::string label;
    std::int64_t record = 0;  // where it begins
    std::int64_t body = 0;
    std::int64_t length = 0;  // of the body
  };

  /// Reads what is there; nothing where there is no log. Damaged records are left out. Throws Error where
  /// what bears its name is not a file or cannot be read.
  explicit HistoryLog(SessionDisk disk);

  [[nodiscard]] bool empty() const { return size_ == 0; }
  [[nodiscard]] bool has(std::int64_t step) const { return steps_.contains(step); }
  /// The highest number that any step in it has.
  [[nodiscard]] std::int64_t highest() const { return highest_; }
  /// The steps that lead from `root` to `to`, the last first; where one is missing, those behind it.
  [[nodiscard]] std::vector<Entry> leadingTo(std::int64_t to, std::int64_t root = 0) const;
  /// The way on from `from` to the step made last that follows it; the next first.
  [[nodiscard]] std::vector<Entry> leadingOn(std::int64_t from) const;
  /// The step as it is on disk, its way back and forth read when it is gone.
  [[nodiscard]] History::Step stepOf(const Entry& entry) const;
  /// Frees the memory of a step that is on disk.
  void leaveToDisk(const HistoryStep& step) const;

  /// Adds the places in the pool of all files that a step on disk names.
  void collectFiles(const HistoryStep& step, std::set<int>& files) const;

  /// The session as that step made it, from the last whole state before it and the steps since; none where
  /// something of that is not there.
  [[nodiscard]] std::optional<Session> rebuilt(std::int64_t step) const;

  // -- writing
  /// Adds the steps that it does not have yet, and syncs it; a whole state too, where the steps since the
  /// last one have become as long as that. `presentHash`: of the present, which the caller knows. Throws
  /// Error where the disk does not take it; then none of them counts.
  void append(const History& history, const std::string& presentHash);
  /// Where most of it is steps that nothing leads to any more, it is written anew without them.
  void compact(const History& history);

 private:
  struct File;
  void scan();
  void take(Entry entry);
  [[nodiscard]] HistoryStep::Way wayOf(const Entry& step) const;
  [[nodiscard]] std::string bodyOf(const Entry& entry) const;
  void write(const std::string& records);
  void remember(const std::string& records, std::int64_t end);

  SessionDisk disk_;
  std::shared_ptr<const File> file_;  // null where there is none
  std::map<std::int64_t, Entry> steps_;
  std::map<std::int64_t, Entry> states_;
  std::int64_t size_ = 0;  // up to the end of the last whole record
  std::int64_t highest_ = 0;
  std::int64_t sinceState_ = 0;  // bytes of steps
  bool harmed_ = false;          // something in it could not be read
  std::int64_t hashed_ = -1;     // the step whose state has
  std::string hash_;             // this hash
};

}  // namespace yewdrift
