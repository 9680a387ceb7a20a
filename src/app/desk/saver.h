// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <condition_variable>
#include <functional>
#include <mutex>
#include <optional>
#include <string>
#include <thread>

#include "core/store/session_folder.h"

namespace yewdrift::app {

/// Saves the history on a thread of its own, always the newest value, so that work is on disk as it is done
/// and no edit waits for the disk. The destructor saves what is left.
class Saver {
 public:
  /// `told` is called on the saver's thread: with a sentence where saving begins to fail, with none where it
  /// works again. What could not be saved is tried again every few seconds.
  Saver(SessionFolder& folder, std::function<void(std::optional<Sentence>)> told);
  ~Saver();

  void save(const History& history);
  /// Everything given so far is on disk. Does not wait.
  [[nodiscard]] bool saved();
  /// Waits until everything given so far is on disk; what failed before is tried once more. False where that
  /// fails.
  bool flush();
  /// The step of the history that is on disk, or its root.
  [[nodiscard]] std::int64_t savedStep();

 private:
  void run();

  SessionFolder& folder_;
  std::function<void(std::optional<Sentence>)> told_;
  std::mutex mutex_;
  std::condition_variable changed_;
  std::optional<History> next_;
  bool saving_ = false;
  bool lastGood_ = true;
  bool again_ = false;  // what failed is to be tried now
  std::int64_t savedStep_;
  bool ending_ = false;
  std::string lastFailure_;  // the saver's thread
  std::thread thread_;
};

}  // namespace yewdrift::app
