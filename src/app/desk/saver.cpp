// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/saver.h"

#include <chrono>
#include <exception>
#include <utility>

#include "core/error.h"

namespace yewdrift::app {

namespace {

constexpr std::chrono::seconds retryAfter{3};

}  // namespace

Saver::Saver(SessionFolder& folder, std::function<void(std::optional<Sentence>)> told)
    : folder_(folder),
      told_(std::move(told)),
      savedStep_(folder.history().at()),
      thread_([this] { run(); }) {}

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
  if (!lastGood_ && !next_ && !saving_) {
    again_ = true;
    changed_.notify_all();
  }
  changed_.wait(lock, [this] { return !next_ && !saving_ && !again_; });
  return lastGood_;
}

std::int64_t Saver::savedStep() {
  const std::lock_guard guard(mutex_);
  return savedStep_;
}

bool Saver::saved() {
  const std::lock_guard guard(mutex_);
  return !next_ && !saving_ && lastGood_;
}

void Saver::run() {
  std::unique_lock lock(mutex_);
  for (bool lastTry = false;;) {
    // What the disk refused is tried again, also where nothing is done meanwhile.
    changed_.wait_for(lock, lastGood_ ? std::chrono::hours(1) : retryAfter,
                      [this] { return next_ || ending_ || again_; });
    if (ending_ && !next_ && (lastGood_ || std::exchange(lastTry, true))) return;
    if (!next_ && lastGood_) continue;
    again_ = false;
    saving_ = true;
    if (next_) folder_.editHistory() = std::move(*next_);
    next_.reset();
    lock.unlock();
    bool good = true;
    try {
      folder_.save();
    } catch (const std::exception& e) {
      good = false;
      // Not said again and again while it stays so.
      if (std::exchange(lastFailure_, e.what()) != e.what()) told_(sentenceOf(e));
    }
    if (good && !std::exchange(lastFailure_, {}).empty()) told_(std::nullopt);
    lock.lock();
    if (good) savedStep_ = folder_.history().at();
    lastGood_ = good;
    saving_ = false;
    changed_.notify_all();
  }
}

}  // namespace yewdrift::app
