// SPDX-License-Identifier: GPL-3.0-or-later
//
// What Yewdrift asks of an audio device, real or simulated. A device knows nothing of sessions.
#pragma once

#include <memory>
#include <span>
#include <string>
#include <vector>

#include "core/time/frames.h"

namespace yewdrift {

/// One period: planar samples. `dropout`: the device lost frames since the last period.
struct AudioBlock {
  const float* const* inputs = nullptr;
  int inputCount = 0;
  float* const* outputs = nullptr;
  int outputCount = 0;
  int frames = 0;
  bool dropout = false;
};

/// A stretch of a block in which the transport runs without a jump.
struct PlayedStretch {
  int offset = 0;  // in the block
  int frames = 0;
  Frames position;       // of the first frame, in the session
  bool jumped = false;   // the transport started or went back to the loop's start here
  bool started = false;  // the transport started here
};

/// What a device calls. Both functions run on the audio thread: no allocation, lock, file, log or exception.
class AudioCallback {
 public:
  virtual ~AudioCallback() = default;
  /// Optional, before process(): settles what the coming block will play. A simulated performer plays along
  /// with it; real devices leave it out.
  virtual std::span<const PlayedStretch> prepare(int frames) noexcept = 0;
  virtual void process(const AudioBlock& block) noexcept = 0;
};

struct DeviceSettings {
  std::string driver;  // as in availableDrivers()
  std::string device;  // empty: the driver's default
  SampleRate rate;
  int blockFrames = 256;
  int inputs = 2;
  int outputs = 2;
};

struct DeviceDescription {
  std::string name;
  int inputs = 0;
  int outputs = 0;
  std::vector<int> rates;
};

/// Functions throw Error with a sentence. Destruction stops and closes.
class AudioDevice {
 public:
  virtual ~AudioDevice() = default;
  virtual void start() = 0;
  virtual void stop() = 0;
  /// As opened: devices may choose another block size than they were asked for.
  [[nodiscard]] virtual const DeviceSettings& settings() const = 0;
  /// The delay from output to input that the device itself reports.
  [[nodiscard]] virtual Frames reportedRoundTrip() const = 0;
  /// False once the device is gone or has stopped answering.
  [[nodiscard]] virtual bool alive() const = 0;
};

}  // namespace yewdrift
