// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <chrono>
#include <cstdint>
#include <mutex>
#include <utility>

#include "core/sentence.h"

namespace yewdrift {

/// Whether an open device still lives, and what became of one that does not. One that was started and has not
/// called for two seconds does not live either.
class DeviceLife {
 public:
  /// `stopped`: what is said of one that has stopped calling.
  explicit DeviceLife(Sentence stopped) : stopped_(std::move(stopped)) {}

  // -- audio thread
  void called() noexcept { last_.store(now(), std::memory_order_relaxed); }

  // -- any thread
  /// Its pace has been reached: from now on it has to go on calling.
  void begin() {
    called();
    begun_ = true;
  }
  [[nodiscard]] bool begun() const noexcept { return begun_; }
  /// For good; the first reason counts.
  void lose(Sentence reason) {
    const std::lock_guard guard(mutex_);
    if (reason_.empty()) reason_ = std::move(reason);
    lost_ = true;
  }
  [[nodiscard]] bool lost() const noexcept { return lost_; }
  [[nodiscard]] bool alive() const noexcept {
    return !lost_ && (!begun_ || now() - last_.load(std::memory_order_relaxed) < 2000);
  }
  [[nodiscard]] Sentence reason() const {
    const std::lock_guard guard(mutex_);
    return reason_.empty() ? stopped_ : reason_;
  }

 private:
  static std::int64_t now() noexcept {
    return std::chrono::duration_cast<std::chrono::milliseconds>(
               std::chrono::steady_clock::now().time_since_epoch())
        .count();
  }
  Sentence stopped_;
  std::atomic<std::int64_t> last_{0};
  std::atomic<bool> begun_{false};
  std::atomic<bool> lost_{false};
  mutable std::mutex mutex_;
  Sentence reason_;
};

}  // namespace yewdrift
