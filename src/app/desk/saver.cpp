// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/saver.h"

#include <exception>

namespace yewdrift::app {

Saver::Saver(SessionFolder& folder, std::function<void(std::string)> failed)
    : folder_(folder), failed_(std::move(failed)), thread_([this] { run(); }) {}

Saver::~Saver() {
  {
    const std::lock_guard guard(mutex_);
    ending_ = true;
  }
  changed_.notify_all();
  thread_.join();
}

void Saver::save(const History& history) {
  {
    const std::lock_guard guard(mutex_);
    next_ = history;
  }
  changed_.notify_all();
}

bool Saver::flush() {
  std::unique_lock lock(mutex_);
  changed_.wait(lock, [this] { return !next_ && !saving_; });
  return lastGood_;
}

bool Saver::saved() {
  const std::lock_guard guard(mutex_);
  return !next_ && !saving_ && lastGood_;
}

void Saver::run() {
  std::unique_lock lock(mutex_);
  while (true) {
    changed_.wait(lock, [this] { return next_ || ending_; });
    if (!next_) return;
    saving_ = true;
    folder_.editHistory() = std::move(*next_);
    next_.reset();
    lock.unlock();
    bool good = true;
    try {
      folder_.save();
    } catch (const std::exception& e) {
      good = false;
      failed_(e.what());
    }
    lock.lock();
    lastGood_ = good;
    saving_ = false;
    changed_.notify_all();
  }
}

}  // namespace yewdrift::app
