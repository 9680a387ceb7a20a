// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/system_device.h"

#include <RtAudio.h>

#include <array>
#include <atomic>
#include <chrono>

#include "core/error.h"

namespace yewdrift {
namespace {

constexpr std::array<std::pair<const char*, RtAudio::Api>, 3> drivers{
    {{"JACK", RtAudio::UNIX_JACK}, {"PulseAudio", RtAudio::LINUX_PULSE}, {"ALSA", RtAudio::LINUX_ALSA}}};

RtAudio::Api apiOf(const std::string& driver) {
  for (const auto& [name, api] : drivers)
    if (driver == name) return api;
  throw Error("There is no audio driver named \"" + driver + "\".");
}

class SystemDevice : public AudioDevice {
 public:
  SystemDevice(DeviceSettings settings, AudioCallback& callback)
      : settings_(std::move(settings)), callback_(callback), audio_(apiOf(settings_.driver)) {
    audio_.showWarnings(false);
    const unsigned device = find();
    const RtAudio::DeviceInfo info = audio_.getDeviceInfo(device);
    settings_.inputs = std::min(settings_.inputs, static_cast<int>(info.inputChannels));
    settings_.outputs = std::min(
        {settings_.outputs, static_cast<int>(info.outputChannels), static_cast<int>(inPointers_.size())});
    if (settings_.outputs < 1)
      throw Error("The device \"" + info.name + "\" has no outputs, so nothing could be heard.");
    RtAudio::StreamParameters out{device, static_cast<unsigned>(settings_.outputs), 0};
    RtAudio::StreamParameters in{device, static_cast<unsigned>(settings_.inputs), 0};
    RtAudio::StreamOptions options;
    options.flags = RTAUDIO_NONINTERLEAVED | RTAUDIO_SCHEDULE_REALTIME | RTAUDIO_MINIMIZE_LATENCY;
    options.streamName = "Yewdrift";
    auto block = static_cast<unsigned>(settings_.blockFrames);
    try {
      audio_.openStream(&out, settings_.inputs > 0 ? &in : nullptr, RTAUDIO_FLOAT32,
                        static_cast<unsigned>(settings_.rate.hertz), &block, &SystemDevice::called, this,
                        &options);
    } catch (const RtAudioError& e) {
      throw Error("The device \"" + info.name + "\" cannot be opened at " +
                  std::to_string(settings_.rate.hertz) + " Hz: " + e.getMessage());
    }
    settings_.blockFrames = static_cast<int>(block);
    const int actual = static_cast<int>(audio_.getStreamSampleRate());
    if (actual != settings_.rate.hertz) {
      audio_.closeStream();
      throw Error("The device \"" + info.name + "\" runs at " + std::to_string(actual) +
                  " Hz and the session at " + std::to_string(settings_.rate.hertz) +
                  "; set the device to the session's rate.");
    }
  }

  ~SystemDevice() override {
    if (audio_.isStreamOpen()) audio_.closeStream();
  }

  void start() override {
    try {
      audio_.startStream();
      lastCall_ = now();
    } catch (const RtAudioError& e) {
      throw Error("The device cannot be started: " + e.getMessage());
    }
  }

  void stop() override {
    if (audio_.isStreamRunning()) audio_.stopStream();
  }

  [[nodiscard]] const DeviceSettings& settings() const override { return settings_; }
  [[nodiscard]] Frames reportedRoundTrip() const override {
    return {const_cast<RtAudio&>(audio_).getStreamLatency()};
  }
  [[nodiscard]] bool alive() const override { return audio_.isStreamRunning() && now() - lastCall_ < 2000; }

 private:
  static std::int64_t now() {
    return std::chrono::duration_cast<std::chrono::milliseconds>(
               std::chrono::steady_clock::now().time_since_epoch())
        .count();
  }

  unsigned find() {
    const unsigned count = audio_.getDeviceCount();
    if (count == 0)
      throw Error("The driver " + settings_.driver + " offers no device now; is its server running?");
    if (settings_.device.empty()) return audio_.getDefaultOutputDevice();
    for (unsigned i = 0; i < count; ++i)
      if (audio_.getDeviceInfo(i).name == settings_.device) return i;
    throw Error("The device \"" + settings_.device + "\" is not there; is it plugged in?");
  }

  static int called(void* out, void* in, unsigned frames, double, RtAudioStreamStatus status, void* self) {
    static_cast<SystemDevice*>(self)->process(static_cast<float*>(out), static_cast<const float*>(in),
                                              static_cast<int>(frames), status != 0);
    return 0;
  }

  void process(float* out, const float* in, int frames, bool dropout) noexcept {
    lastCall_ = now();
    for (int i = 0; i < settings_.inputs; ++i)
      inPointers_[static_cast<std::size_t>(i)] = in + static_cast<std::ptrdiff_t>(i) * frames;
    for (int i = 0; i < settings_.outputs; ++i)
      outPointers_[static_cast<std::size_t>(i)] = out + static_cast<std::ptrdiff_t>(i) * frames;
    callback_.process(
        {inPointers_.data(), settings_.inputs, outPointers_.data(), settings_.outputs, frames, dropout});
  }

  DeviceSettings settings_;
  AudioCallback& callback_;
  RtAudio audio_;
  std::array<const float*, 256> inPointers_{};
  std::array<float*, 256> outPointers_{};
  std::atomic<std::int64_t> lastCall_{0};
};

}  // namespace

std::vector<std::string> systemDrivers() {
  std::vector<RtAudio::Api> compiled;
  RtAudio::getCompiledApi(compiled);
  std::vector<std::string> names;
  for (const auto& [name, api] : drivers)
    if (std::find(compiled.begin(), compiled.end(), api) != compiled.end()) names.emplace_back(name);
  return names;
}

std::vector<DeviceDescription> systemDevices(const std::string& driver) {
  std::vector<DeviceDescription> found;
  try {
    RtAudio audio(apiOf(driver));
    audio.showWarnings(false);
    for (unsigned i = 0; i < audio.getDeviceCount(); ++i) {
      const RtAudio::DeviceInfo info = audio.getDeviceInfo(i);
      if (!info.probed) continue;
      DeviceDescription description{
          info.name, static_cast<int>(info.inputChannels), static_cast<int>(info.outputChannels), {}};
      for (const unsigned rate : info.sampleRates) description.rates.push_back(static_cast<int>(rate));
      found.push_back(std::move(description));
    }
  } catch (const std::exception&) {
    return {};
  }
  return found;
}

std::unique_ptr<AudioDevice> openSystemDevice(const DeviceSettings& settings, AudioCallback& callback) {
  try {
    return std::make_unique<SystemDevice>(settings, callback);
  } catch (const RtAudioError& e) {
    throw Error("The audio driver " + settings.driver + " cannot be used: " + e.getMessage());
  }
}

}  // namespace yewdrift
