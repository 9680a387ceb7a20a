// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/simulated_device.h"

#include <array>
#include <chrono>

#include "core/error.h"

namespace yewdrift {
namespace {

using Planar = std::vector<std::vector<float>>;
constexpr int mostChannels = 256;

Planar planar(int channels, std::int64_t frames) {
  return Planar(static_cast<std::size_t>(channels), std::vector<float>(static_cast<std::size_t>(frames)));
}

std::array<float*, mostChannels> pointersTo(Planar& buffers) noexcept {
  std::array<float*, mostChannels> pointers{};
  for (std::size_t i = 0; i < buffers.size(); ++i) pointers[i] = buffers[i].data();
  return pointers;
}

void checkSettings(const SimulatedInterface& interface) {
  const DeviceSettings& s = interface.settings;
  if (s.blockFrames < 1 || s.blockFrames > 8192) throw Error("A block has 1 to 8192 frames.");
  if (s.inputs < 1 || s.inputs > mostChannels) throw Error("The simulated interface has 1 to 256 inputs.");
  if (interface.roundTrip.count < 0 || interface.roundTrip.count > 10'000'000)
    throw Error("That round trip is not one a device could have.");
  if (interface.patched && interface.roundTrip.count < s.blockFrames)
    throw Error("With the output patched to the input the round trip is at least one block.");
}

}  // namespace

SimulatedDevice::SimulatedDevice(SimulatedInterface interface, AudioCallback& callback)
    : interface_((checkSettings(interface), std::move(interface))),
      callback_(callback),
      performer_(std::move(interface_.parts)) {
  const DeviceSettings& s = interface_.settings;
  delay_ = planar(s.inputs, interface_.roundTrip.count + s.blockFrames);
  inputs_ = planar(s.inputs, s.blockFrames);
  performed_ = planar(s.inputs, s.blockFrames);
  outputs_ = planar(s.outputs, s.blockFrames);
}

SimulatedDevice::~SimulatedDevice() {
  stop();
}

void SimulatedDevice::play(std::span<const PlayedStretch> played) noexcept {
  const int block = interface_.settings.blockFrames;
  for (auto& channel : performed_) std::fill(channel.begin(), channel.end(), 0.0F);
  const auto performed = pointersTo(performed_);
  performer_.perform(played, block, performed.data(), interface_.settings.inputs);
  for (std::size_t channel = 0; channel < delay_.size(); ++channel) {
    auto& ring = delay_[channel];
    const auto size = static_cast<std::int64_t>(ring.size());
    for (int i = 0; i < block; ++i) {
      const std::int64_t now = clock_ + i;
      ring[static_cast<std::size_t>(now % size)] = performed_[channel][static_cast<std::size_t>(i)];
      const std::int64_t then = now - interface_.roundTrip.count;
      inputs_[channel][static_cast<std::size_t>(i)] =
          then >= 0 ? ring[static_cast<std::size_t>(then % size)] : 0.0F;
    }
  }
}

void SimulatedDevice::runBlock() noexcept {
  const int block = interface_.settings.blockFrames;
  play(callback_.prepare(block));
  ++blocks_;
  const bool dropout = interface_.dropoutEveryBlocks > 0 && blocks_ % interface_.dropoutEveryBlocks == 0;
  if (dropout)
    for (auto& channel : inputs_) std::fill(channel.begin(), channel.end(), 0.0F);
  const auto in = pointersTo(inputs_);
  const auto out = pointersTo(outputs_);
  callback_.process(
      {in.data(), interface_.settings.inputs, out.data(), interface_.settings.outputs, block, dropout});
  if (interface_.patched) patchThrough();
  clock_ += block;
}

void SimulatedDevice::patchThrough() noexcept {
  for (auto& ring : delay_)
    for (int i = 0; i < interface_.settings.blockFrames; ++i)
      ring[static_cast<std::size_t>((clock_ + i) % static_cast<std::int64_t>(ring.size()))] +=
          outputs_[0][static_cast<std::size_t>(i)];
}

void SimulatedDevice::start() {
  if (running_.exchange(true)) return;
  thread_ = std::thread([this] {
    using Clock = std::chrono::steady_clock;
    const double blockSeconds =
        static_cast<double>(interface_.settings.blockFrames) / interface_.settings.rate.hertz;
    const auto began = Clock::now();
    for (std::int64_t block = 1; running_ && alive(); ++block) {
      runBlock();
      std::this_thread::sleep_until(
          began + std::chrono::duration_cast<Clock::duration>(
                      std::chrono::duration<double>(static_cast<double>(block) * blockSeconds)));
    }
  });
}

void SimulatedDevice::stop() {
  running_ = false;
  if (thread_.joinable()) thread_.join();
}

}  // namespace yewdrift
