// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <atomic>
#include <cstddef>
#include <vector>

namespace yewdrift {

/// Samples from one thread to one other, without lock or allocation. Takes all of a write or nothing.
class SampleRing {
 public:
  explicit SampleRing(std::size_t capacity) : samples_(capacity) {}

  /// Any thread may ask; what is done after it was found empty comes after what had been read.
  [[nodiscard]] std::size_t readable() const {
    const std::size_t read = read_.load(std::memory_order_acquire);
    return written_.load(std::memory_order_acquire) - read;
  }
  [[nodiscard]] std::size_t writable() const {
    return samples_.size() -
           (written_.load(std::memory_order_relaxed) - read_.load(std::memory_order_acquire));
  }

  /// The place of the i-th sample to be written next; valid for i < writable().
  float& slot(std::size_t i) {
    return samples_[(written_.load(std::memory_order_relaxed) + i) % samples_.size()];
  }
  void publish(std::size_t count) {
    written_.store(written_.load(std::memory_order_relaxed) + count, std::memory_order_release);
  }

  /// So many silent samples; no more than writable().
  void publishSilence(std::size_t count) {
    for (std::size_t i = 0; i < count; ++i) slot(i) = 0.0F;
    publish(count);
  }

  std::size_t read(float* out, std::size_t most) {
    const std::size_t count = std::min(most, readable());
    const std::size_t from = read_.load(std::memory_order_relaxed);
    for (std::size_t i = 0; i < count; ++i) out[i] = samples_[(from + i) % samples_.size()];
    read_.store(from + count, std::memory_order_release);
    return count;
  }

 private:
  std::vector<float> samples_;
  std::atomic<std::size_t> written_{0};
  std::atomic<std::size_t> read_{0};
};

}  // namespace yewdrift
