// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <mutex>
#include <thread>

#include "core/device/device_life.h"
#include "core/device/driver_of.h"
#include "core/device/elastic_output.h"
#include "core/device/pulse/pulse_connection.h"
#include "core/device/pulse/pulse_driver.h"
#include "core/error.h"

namespace yewdrift {
namespace {

constexpr int mostChannels = PA_CHANNELS_MAX;
constexpr double patience = 5.0;

const PulseLibrary& library() {
  if (const PulseLibrary* found = PulseLibrary::get()) return *found;
  throw Error("This machine has no PulseAudio.");
}

/// The server's source leads: each frame of it is recorded once, untouched. What is played follows through an
/// ElasticOutput.
class PulseDevice : public AudioDevice {
 public:
  PulseDevice(DeviceSettings settings, AudioCallback& callback)
      : settings_(std::move(settings)),
        callback_(callback),
        pulse_(library()),
        connection_([this] { serverChanged(); }) {
    const DriverListing listing = connection_.listing();
    if (listing.sources.empty() && listing.sinks.empty())
      throw Error("The PulseAudio server has neither source nor sink; is a sound card plugged in?");
    if (!settings_.source.empty() || findEndPoint(listing.sources, {}))
      source_ = requireEndPoint(listing.sources, settings_.source, EndPointKind::Source);
    if (!settings_.sink.empty() || findEndPoint(listing.sinks, {}))
      sink_ = requireEndPoint(listing.sinks, settings_.sink, EndPointKind::Sink);
    settings_.source = source_.id;
    settings_.sink = sink_.id;
    settings_.inputs = std::min(source_.channels, mostChannels);
    settings_.outputs = sink_.id.empty() ? 0 : std::clamp(settings_.outputs, 1, 2);
    output_ = std::make_unique<ElasticOutput>(std::max(1, settings_.outputs), settings_.rate);
    const auto block = static_cast<std::size_t>(settings_.blockFrames);
    for (auto* buffers : {&in_, &out_}) {
      const int channels = buffers == &in_ ? settings_.inputs : settings_.outputs;
      buffers->assign(static_cast<std::size_t>(channels), std::vector<float>(block));
    }
    for (std::size_t i = 0; i < in_.size(); ++i) inputs_[i] = in_[i].data();
    for (std::size_t i = 0; i < out_.size(); ++i) outputs_[i] = out_[i].data();
    played_.resize(block * std::max<std::size_t>(1, out_.size()));
  }
  ~PulseDevice() override { PulseDevice::stop(); }

  void start() override {
    {
      const PulseConnection::Lock guard(connection_);
      life_.called();
      if (!sink_.id.empty()) openPlayback();
      if (!source_.id.empty()) openRecord();
      if (playback_) noteBuffers(*pulse_.pa_stream_get_buffer_attr(playback_), settings_.outputs, false);
      if (record_) noteBuffers(*pulse_.pa_stream_get_buffer_attr(record_), settings_.inputs, true);
      life_.called();
    }
    for (int i = 0; i < 1000 && !running(); ++i) std::this_thread::sleep_for(std::chrono::milliseconds(5));
    if (!running())
      throw Error("\"%1\" was opened but delivers nothing; it may be suspended or in use by another program.",
                  (record_ ? source_.name : sink_.name));
    settings_.blockFrames = std::min(settings_.blockFrames, std::max(1, granted_));
    life_.begin();
    const PulseConnection::Lock guard(connection_);
    serverChanged();  // is it muted?
  }

  void stop() override {
    const PulseConnection::Lock guard(connection_);
    for (pa_stream** stream : {&record_, &playback_}) {
      if (!*stream) continue;
      pulse_.pa_stream_set_read_callback(*stream, nullptr, nullptr);
      pulse_.pa_stream_set_write_callback(*stream, nullptr, nullptr);
      pulse_.pa_stream_set_state_callback(*stream, nullptr, nullptr);
      pulse_.pa_stream_disconnect(*stream);
      pulse_.pa_stream_unref(*stream);
      *stream = nullptr;
    }
  }

  [[nodiscard]] const DeviceSettings& settings() const override { return settings_; }
  [[nodiscard]] DeviceReport report() const override {
    DeviceReport report;
    report.sourceName = source_.name;
    report.sinkName = sink_.name;
    report.deviceRate = settings_.rate.hertz;
    if (record_ && playback_) {
      report.latency = Sentence(
          "The server decides the timing; once measured, takes lie within 2 ms of where they were played, or "
          "within 20 ms where PipeWire stands in for PulseAudio: choose PipeWire itself there.");
      if (const std::int64_t gaps = output_->gaps(); gaps > 0)
        addSentence(
            report.notes,
            "What is played had %n gap(s) since it was opened; what is recorded had none. A larger block "
            "helps.",
            Count{gaps});
      if (const double drift = output_->driftMillionths(); drift != 0.0)
        addSentence(
            report.notes,
            "Input and output run on different clocks (%1 millionths); what is played is adjusted, what is "
            "recorded is left as it is.",
            std::llround(drift));
    }
    if (sourceMuted_)
      report.silence = Sentence("\"%1\" is muted; unmute it in the desktop's sound settings.", source_.name);
    return report;
  }
  /// From what the server granted to buffer and from what waits here. The server's own timing is off by half
  /// a second for some sources; this differs from what is measured by a constant.
  [[nodiscard]] Frames reportedRoundTrip() const override {
    return buffered_ + Frames{std::llround(output_->aim())};
  }
  [[nodiscard]] bool alive() const override { return life_.alive(); }
  [[nodiscard]] Sentence lossReason() const override { return life_.reason(); }

 private:
  [[nodiscard]] bool running() const {
    return blocks_.load() > 1 && (!record_ || !playback_ || output_->settled());
  }

  void noteBuffers(const pa_buffer_attr& granted, int channels, bool record) {
    const auto bytesPerFrame =
        static_cast<std::uint32_t>(sizeof(float)) * static_cast<std::uint32_t>(channels);
    granted_ = static_cast<int>((record ? granted.fragsize : granted.minreq) / bytesPerFrame);
    buffered_ += Frames{(record ? granted.fragsize : granted.tlength) / bytesPerFrame};
  }

  pa_stream* makeStream(const char* name, int channels) {
    pa_sample_spec spec{};
    spec.format = PA_SAMPLE_FLOAT32NE;
    spec.rate = static_cast<std::uint32_t>(settings_.rate.hertz);
    spec.channels = static_cast<std::uint8_t>(channels);
    // Channels as they are, in their order, with no mixing by what they are called.
    pa_channel_map map{};
    map.channels = spec.channels;
    for (int i = 0; i < channels; ++i)
      map.map[i] = static_cast<pa_channel_position_t>(channels == 1   ? PA_CHANNEL_POSITION_MONO
                                                      : channels == 2 ? PA_CHANNEL_POSITION_FRONT_LEFT + i
                                                                      : PA_CHANNEL_POSITION_AUX0 + i);
    pa_stream* stream = pulse_.pa_stream_new(connection_.context(), name, &spec, &map);
    if (!stream) throw Error("The PulseAudio server refuses: %1.", connection_.problem());
    pulse_.pa_stream_set_state_callback(stream, &PulseDevice::streamChanged, this);
    return stream;
  }

  void waitForStream(pa_stream* stream, const EndPoint& point) {
    const bool opened = connection_.waitUntil(
        [&] { return pulse_.pa_stream_get_state(stream) != PA_STREAM_CREATING; }, patience);
    if (!opened || pulse_.pa_stream_get_state(stream) != PA_STREAM_READY)
      throw Error("\"%1\" cannot be opened: %2.", point.name, connection_.problem());
  }

  static constexpr auto flags =
      static_cast<pa_stream_flags_t>(PA_STREAM_ADJUST_LATENCY | PA_STREAM_AUTO_TIMING_UPDATE |
                                     PA_STREAM_INTERPOLATE_TIMING | PA_STREAM_DONT_MOVE);

  void openPlayback() {
    playback_ = makeStream("Yewdrift plays", settings_.outputs);
    pulse_.pa_stream_set_write_callback(
        playback_,
        [](pa_stream*, std::size_t bytes, void* self) { static_cast<PulseDevice*>(self)->play(bytes); },
        this);
    const auto block = static_cast<std::uint32_t>(sizeof(float)) *
                       static_cast<std::uint32_t>(settings_.blockFrames * settings_.outputs);
    constexpr auto any = static_cast<std::uint32_t>(-1);
    const pa_buffer_attr wanted{any, block * 3, 0, block, any};
    if (pulse_.pa_stream_connect_playback(playback_, sink_.id.c_str(), &wanted, flags, nullptr, nullptr) < 0)
      throw Error("\"%1\" cannot be opened: %2.", sink_.name, connection_.problem());
    waitForStream(playback_, sink_);
  }

  void openRecord() {
    record_ = makeStream("Yewdrift records", settings_.inputs);
    pulse_.pa_stream_set_read_callback(
        record_, [](pa_stream*, std::size_t, void* self) { static_cast<PulseDevice*>(self)->read(); }, this);
    pulse_.pa_stream_set_overflow_callback(
        record_, [](pa_stream*, void* self) { static_cast<PulseDevice*>(self)->dropout_ = true; }, this);
    constexpr auto any = static_cast<std::uint32_t>(-1);
    const auto block = static_cast<std::uint32_t>(sizeof(float)) *
                       static_cast<std::uint32_t>(settings_.blockFrames * settings_.inputs);
    const pa_buffer_attr wanted{any, any, any, any, block};
    const auto recordFlags =
        static_cast<pa_stream_flags_t>(flags | PA_STREAM_NO_REMIX_CHANNELS | PA_STREAM_NO_REMAP_CHANNELS);
    if (pulse_.pa_stream_connect_record(record_, source_.id.c_str(), &wanted, recordFlags) < 0)
      throw Error("\"%1\" cannot be opened: %2.", source_.name, connection_.problem());
    waitForStream(record_, source_);
  }

  static void streamChanged(pa_stream* stream, void* self) {
    auto* me = static_cast<PulseDevice*>(self);
    const pa_stream_state_t state = me->pulse_.pa_stream_get_state(stream);
    if (me->life_.begun() && (state == PA_STREAM_FAILED || state == PA_STREAM_TERMINATED))
      me->life_.lose(
          Sentence("\"%1\" is gone.", (stream == me->record_ ? me->source_.name : me->sink_.name)));
    me->connection_.wake();
  }

  void serverChanged() {
    if (!life_.begun()) return;
    if (!connection_.connected()) return life_.lose(Sentence("The PulseAudio server has ended."));
    if (source_.id.empty()) return;
    pa_operation* operation = pulse_.pa_context_get_source_info_by_name(
        connection_.context(), source_.id.c_str(),
        [](pa_context*, const pa_source_info* info, int, void* self) {
          if (info) static_cast<PulseDevice*>(self)->sourceMuted_ = info->mute != 0;
        },
        this);
    if (operation) pulse_.pa_operation_unref(operation);
  }

  /// The source has delivered: everything there is, in parts no larger than a block.
  void read() noexcept {
    life_.called();
    while (pulse_.pa_stream_readable_size(record_) > 0) {
      const void* data = nullptr;
      std::size_t bytes = 0;
      if (pulse_.pa_stream_peek(record_, &data, &bytes) < 0 || bytes == 0) break;
      if (!data) dropout_ = true;  // a hole: as much silence
      const std::size_t channels = in_.size();
      const std::size_t frames = bytes / (sizeof(float) * channels);
      const auto* from = static_cast<const float*>(data);
      for (std::size_t done = 0; done < frames;) {
        const std::size_t n = std::min(frames - done, in_.front().size());
        for (std::size_t c = 0; c < channels; ++c)
          for (std::size_t i = 0; i < n; ++i) in_[c][i] = from ? from[(done + i) * channels + c] : 0.0F;
        run(static_cast<int>(n));
        if (playback_) output_->push(outputs_.data(), static_cast<int>(n));
        done += n;
      }
      pulse_.pa_stream_drop(record_);
    }
  }

  void run(int frames) noexcept {
    callback_.process({inputs_.data(), static_cast<int>(in_.size()), outputs_.data(),
                       static_cast<int>(out_.size()), frames, dropout_.exchange(false)});
    blocks_.fetch_add(1, std::memory_order_relaxed);
  }

  /// The sink asks for more.
  void play(std::size_t bytes) noexcept {
    if (!record_) life_.called();
    const std::size_t channels = out_.size();
    std::size_t left = bytes / (sizeof(float) * channels);
    while (left > 0) {
      const std::size_t n = std::min(left, out_.front().size());
      if (record_) {
        output_->pull(played_.data(), static_cast<int>(n));
      } else {
        run(static_cast<int>(n));
        for (std::size_t i = 0; i < n; ++i)
          for (std::size_t c = 0; c < channels; ++c) played_[i * channels + c] = out_[c][i];
      }
      if (pulse_.pa_stream_write(playback_, played_.data(), n * channels * sizeof(float), nullptr, 0,
                                 PA_SEEK_RELATIVE) < 0)
        return;
      left -= n;
    }
  }

  DeviceSettings settings_;
  AudioCallback& callback_;
  EndPoint source_;
  EndPoint sink_;
  std::unique_ptr<ElasticOutput> output_;
  std::vector<std::vector<float>> in_;
  std::vector<std::vector<float>> out_;
  std::array<const float*, mostChannels> inputs_{};
  std::array<float*, mostChannels> outputs_{};
  std::vector<float> played_;
  int granted_ = 0;
  Frames buffered_;  // by the server, both ways
  std::atomic<std::int64_t> blocks_{0};
  std::atomic<bool> dropout_{false};
  std::atomic<bool> sourceMuted_{false};
  DeviceLife life_{Sentence("The PulseAudio server has stopped calling.")};
  pa_stream* record_ = nullptr;
  pa_stream* playback_ = nullptr;
  const PulseLibrary& pulse_;
  PulseConnection connection_;  // last: its thread ends before what it calls goes
};

class PulseWatch : public DriverWatch {
 public:
  explicit PulseWatch(std::function<void()> changed) : connection_(std::move(changed)) {}

 private:
  PulseConnection connection_;
};

}  // namespace

std::unique_ptr<AudioDriver> pulseDriver() {
  return std::make_unique<DriverOf<PulseDevice, PulseWatch>>("PulseAudio",
                                                             [] { return PulseConnection().listing(); });
}

}  // namespace yewdrift
