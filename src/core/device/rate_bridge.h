// SPDX-License-Identifier: GPL-3.0-or-later
//
// Between a device that calls at its own rate and a callback that works at the session's.
#pragma once

#include <atomic>
#include <memory>
#include <vector>

#include "core/device/audio_device.h"

struct SRC_STATE_tag;

namespace yewdrift {

/// Where the rates are equal it only passes blocks on. Where they differ both directions are converted by
/// libsamplerate: each block of the device becomes one of the callback, a frame more or less, and what is
/// played is delayed by a fixed number of frames so that the converter can look ahead.
class RateBridge {
 public:
  RateBridge(AudioCallback& callback, SampleRate sessionRate, int inputs, int outputs);
  ~RateBridge();
  RateBridge(const RateBridge&) = delete;
  RateBridge& operator=(const RateBridge&) = delete;

  // -- audio thread
  /// `deviceRate` may change from one block to the next; what was under way is then dropped, and said so.
  void process(const AudioBlock& block, int deviceRate) noexcept;

  // -- any thread
  /// What converting adds to the round trip, at the session's rate; 0 where nothing is converted.
  [[nodiscard]] Frames delay() const;
  [[nodiscard]] int deviceRate() const { return deviceRate_.load(std::memory_order_relaxed); }

  static constexpr int mostChannels = 128;  // as the converter can do at once
  static constexpr int partFrames = 1024;   // of the device, worked on at a time

 private:
  struct Free {
    void operator()(SRC_STATE_tag* state) const noexcept;
  };
  void restart(int deviceRate) noexcept;
  void convertPart(const AudioBlock& block, int offset, int frames, bool dropout) noexcept;
  void takeOut(const AudioBlock& block, int offset, int frames) noexcept;

  AudioCallback& callback_;
  SampleRate sessionRate_;
  int inputs_;
  int outputs_;
  std::atomic<int> deviceRate_{0};
  double ratio_ = 1.0;  // session over device
  std::unique_ptr<SRC_STATE_tag, Free> in_;
  std::unique_ptr<SRC_STATE_tag, Free> out_;
  std::vector<float> interleaved_;             // of the device
  std::vector<float> converted_;               // of the session
  std::vector<std::vector<float>> sessionIn_;  // planar
  std::vector<std::vector<float>> sessionOut_;
  std::vector<const float*> inPointers_;
  std::vector<float*> outPointers_;
  std::vector<float> queue_;  // interleaved, for the device
  std::size_t queued_ = 0;    // frames in it
};

}  // namespace yewdrift
