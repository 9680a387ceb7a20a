// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <atomic>

#include "core/device/audio_device.h"

namespace yewdrift {

/// Stands before a callback while a device is being opened in the background: nothing reaches it, and silence
/// is played, until the device is taken on. So two devices never call at once.
class AudioGate : public AudioCallback {
 public:
  explicit AudioGate(AudioCallback& behind) : behind_(behind) {}
  // -- any thread
  void open() noexcept { open_.store(true, std::memory_order_release); }

  // -- audio thread
  std::span<const PlayedStretch> prepare(int frames) noexcept override {
    return passes() ? behind_.prepare(frames) : std::span<const PlayedStretch>{};
  }
  void process(const AudioBlock& block) noexcept override {
    if (passes()) return behind_.process(block);
    for (int i = 0; i < block.outputCount; ++i) std::fill_n(block.outputs[i], block.frames, 0.0F);
  }

 private:
  [[nodiscard]] bool passes() const noexcept { return open_.load(std::memory_order_acquire); }
  AudioCallback& behind_;
  std::atomic<bool> open_{false};
};

}  // namespace yewdrift
