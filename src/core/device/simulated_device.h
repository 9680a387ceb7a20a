// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <thread>
#include <vector>

#include "core/device/audio_device.h"
#include "core/device/performer.h"

namespace yewdrift {

struct SimulatedInterface {
  DeviceSettings settings;
  Frames roundTrip{512};                // from an output frame to the input frame that was played to it
  std::int64_t dropoutEveryBlocks = 0;  // every so many blocks the input is lost; 0: never
  std::vector<PerformerPart> parts;     // who plays
  bool patched = false;                 // a cable from the left output to every input
};

/// An interface made of software, with players at its inputs. start() runs it in real time on a thread of its
/// own; runBlock() runs one block at once, for work that should be as fast as it can.
class SimulatedDevice : public AudioDevice {
 public:
  SimulatedDevice(SimulatedInterface interface, AudioCallback& callback);
  ~SimulatedDevice() override;

  void start() override;
  void stop() override;
  [[nodiscard]] const DeviceSettings& settings() const override { return interface_.settings; }
  [[nodiscard]] DeviceReport report() const override {
    DeviceReport report;
    report.sourceName = report.sinkName = "Simulated interface";
    report.deviceRate = interface_.settings.rate.hertz;
    return report;
  }
  [[nodiscard]] Frames reportedRoundTrip() const override { return interface_.roundTrip; }
  [[nodiscard]] bool alive() const override { return alive_ && !frozen_; }

  void runBlock() noexcept;
  /// The two sides of what was played in the last block.
  [[nodiscard]] const std::vector<std::vector<float>>& lastOutput() const { return outputs_; }
  /// As if the plug had been pulled.
  void unplug() { alive_ = false; }
  /// As if its driver had stopped calling; a real device is given up after two seconds of that.
  void freeze() { frozen_ = true; }

 private:
  void play(std::span<const PlayedStretch> played) noexcept;
  void patchThrough() noexcept;

  SimulatedInterface interface_;
  AudioCallback& callback_;
  Performer performer_;
  std::vector<std::vector<float>> delay_;  // for each input, a ring as long as the round trip plus a block
  std::vector<std::vector<float>> inputs_;
  std::vector<std::vector<float>> outputs_;
  std::vector<std::vector<float>> performed_;
  std::int64_t clock_ = 0;
  std::int64_t blocks_ = 0;
  std::atomic<bool> alive_{true};
  std::atomic<bool> frozen_{false};
  std::atomic<bool> running_{false};
  std::thread thread_;
};

}  // namespace yewdrift
