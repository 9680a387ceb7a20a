// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is captured goes to disk on threads that wait for no reading.
#pragma once

#include <condition_variable>
#include <memory>
#include <mutex>
#include <thread>
#include <vector>

#include "core/engine/capture.h"
#include "core/engine/input_tape.h"

namespace yewdrift {

/// A writer, which takes what has arrived off the rings and waits for nobody, and a finisher, which syncs
/// while it is recorded and closes what is complete. So neither a slow disk that is read from nor a slow sync
/// costs a frame, and the next recording never waits for the last one to be synced.
class DiskWriter {
 public:
  enum class Threads { Own, None };
  /// With `None` nothing happens until work() is called.
  explicit DiskWriter(Threads threads);
  ~DiskWriter();
  DiskWriter(const DiskWriter&) = delete;
  DiskWriter& operator=(const DiskWriter&) = delete;

  // -- control thread
  /// Kept until it is complete and closed.
  void add(std::shared_ptr<CaptureStream> stream);
  /// Null: none.
  void setTape(std::shared_ptr<InputTape> tape);
  /// One round of all of it, where it has no threads.
  void work();

 private:
  enum class Turn { Writer, Finisher };
  /// Sleeps until that thread's next turn, for good while there is nothing to do. False: no more turns.
  [[nodiscard]] bool rest(Turn whose);
  void write();
  void finish();
  [[nodiscard]] std::vector<std::shared_ptr<CaptureStream>> streams() const;

  mutable std::mutex mutex_;  // of the lists, held for no longer than it takes to copy them
  std::vector<std::shared_ptr<CaptureStream>> streams_;
  std::shared_ptr<InputTape> tape_;
  bool running_ = false;
  std::condition_variable changed_;
  std::thread writer_;
  std::thread finisher_;
};

}  // namespace yewdrift
