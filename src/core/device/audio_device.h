// SPDX-License-Identifier: GPL-3.0-or-later
//
// What Yewdrift asks of an audio device, real or simulated. A device knows nothing of sessions.
#pragma once

#include <memory>
#include <span>
#include <string>
#include <vector>

#include "core/sentence.h"
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
  Frames position;        // of the first frame, in the session
  bool jumped = false;    // the transport started or went back to the loop's start here
  bool started = false;   // the transport started here
  bool counting = false;  // it counts in: nothing of the song is played
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

/// A port of a patchbay connected to another, by their full names.
struct Patch {
  std::string from;
  std::string to;
  bool operator==(const Patch&) const = default;
};

struct DeviceSettings {
  std::string driver;  // as in audioDrivers()
  std::string source;  // id of what is recorded from; empty: the system's default
  std::string sink;    // id of what is played to; empty: the system's default
  SampleRate rate;     // the session's; what runs at another rate is converted
  int blockFrames = 256;
  int inputs = 2;              // at least these; a real source gives all its channels
  int outputs = 2;             // at most these
  std::vector<Patch> patches;  // how a person had patched it by hand; empty: source and sink are connected
};

/// What an open device turned out to be. Where it says "empty", there is nothing to say.
struct DeviceReport {
  std::string sourceName;       // as the desktop shows it; empty: nothing is recorded from
  std::string sinkName;         // empty: nothing is played to
  int deviceRate = 0;           // at which the server or the card runs
  Sentence latency;             // how exact the round trip is; empty: to the frame
  std::vector<Sentence> notes;  // what else a person should know: conversions, drift
  Sentence silence;             // why nothing may come in, where the device knows; empty: it does not
};

/// Functions throw Error with a sentence. Destruction stops and closes. Called on the control thread.
class AudioDevice {
 public:
  virtual ~AudioDevice() = default;
  /// Returns once the callback is being called at its pace.
  virtual void start() = 0;
  virtual void stop() = 0;
  /// As opened: the block that was granted, the channels that are there, the ids that the defaults stood for.
  [[nodiscard]] virtual const DeviceSettings& settings() const = 0;
  [[nodiscard]] virtual DeviceReport report() const = 0;
  /// The delay from output to input that the device itself reports, at the session's rate; never negative.
  [[nodiscard]] virtual Frames reportedRoundTrip() const = 0;
  /// False once the device is gone or has stopped answering.
  [[nodiscard]] virtual bool alive() const = 0;
  /// What became of a device that is not alive.
  [[nodiscard]] virtual Sentence lossReason() const {
    return Sentence("The audio device is gone or has stopped answering.");
  }
  /// How its ports are patched now, where its driver has ports.
  [[nodiscard]] virtual std::vector<Patch> patches() const { return {}; }
};

}  // namespace yewdrift
