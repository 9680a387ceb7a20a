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
  /// `failed` is called on the saver's thread with a sentence.
  Saver(SessionFolder& folder, std::function<void(Sentence)> failed);
  ~Saver();

  void save(const History& history);
  /// Everything given so far is on disk. Does not wait.
  [[nodiscard]] bool saved();
  /// Waits until everything given so far is on disk. False where the last save failed.
  bool flush();

 private:
  void run();

  SessionFolder& folder_;
  std::function<void(Sentence)> failed_;
  std::mutex mutex_;
  std::condition_variable changed_;
  std::optional<History> next_;
  bool saving_ = false;
  bool lastGood_ = true;
  bool ending_ = false;
  std::string lastFailure_;  // the saver's thread
  std::thread thread_;
};

}  // namespace yewdrift::app
