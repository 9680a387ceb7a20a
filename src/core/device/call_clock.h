// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <chrono>
#include <cstdint>

namespace yewdrift {

/// When a device called last, so that one which has stopped calling is noticed.
class CallClock {
 public:
  /// On the audio thread, at each call.
  void touch() noexcept { last_.store(now(), std::memory_order_relaxed); }
  /// False once it has not called for two seconds.
  [[nodiscard]] bool recent() const noexcept { return now() - last_.load(std::memory_order_relaxed) < 2000; }

 private:
  static std::int64_t now() noexcept {
    return std::chrono::duration_cast<std::chrono::milliseconds>(
               std::chrono::steady_clock::now().time_since_epoch())
        .count();
  }
  std::atomic<std::int64_t> last_{0};
};

}  // namespace yewdrift
