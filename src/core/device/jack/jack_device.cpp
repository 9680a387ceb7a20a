// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <array>
#include <mutex>
#include <set>
#include <thread>

#include "core/device/device_life.h"
#include "core/device/driver_of.h"
#include "core/device/jack/jack_driver.h"
#include "core/device/jack/jack_library.h"
#include "core/device/rate_bridge.h"
#include "core/error.h"

namespace yewdrift {
namespace {

constexpr const char* ownName = "Yewdrift";

std::string clientOf(const std::string& port) {
  return port.substr(0, port.find(':'));
}

const JackLibrary& library() {
  if (const JackLibrary* found = JackLibrary::get()) return *found;
  throw Error("This machine has no JACK.");
}

/// A client for as long as something is looked at or done.
JackLibrary::Client visitor() {
  JackLibrary::Client client = library().open("Yewdrift-look");
  if (!client) throw Error("No JACK server is running.");
  return client;
}

/// The audio ports of one direction by client: those of hardware where a client has such, else all it has.
std::vector<std::pair<std::string, std::vector<std::string>>> portsByClient(jack_client_t* client,
                                                                            bool outputs) {
  const JackLibrary& jack = library();
  std::vector<std::pair<std::string, std::vector<std::string>>> grouped;
  const unsigned long direction = outputs ? JackPortIsOutput : JackPortIsInput;
  auto gather = [&](unsigned long flags, bool onlyNew) {
    std::set<std::string> known;
    for (const auto& [name, ports] : grouped) known.insert(name);
    for (const std::string& port : jack.ports(client, JACK_DEFAULT_AUDIO_TYPE, flags)) {
      const std::string owner = clientOf(port);
      if (owner.starts_with(ownName) || (onlyNew && known.contains(owner))) continue;
      const auto at =
          std::find_if(grouped.begin(), grouped.end(), [&](const auto& each) { return each.first == owner; });
      if (at == grouped.end())
        grouped.push_back({owner, {port}});
      else
        at->second.push_back(port);
    }
  };
  gather(direction | JackPortIsPhysical, false);
  gather(direction, true);
  return grouped;
}

DriverListing listingOf(jack_client_t* client) {
  const JackLibrary& jack = library();
  DriverListing listing;
  auto fill = [&](std::vector<EndPoint>& points, bool outputs) {
    for (const auto& [name, ports] : portsByClient(client, outputs)) {
      jack_port_t* first = jack.jack_port_by_name(client, ports.front().c_str());
      const bool physical = first && (jack.jack_port_flags(first) & JackPortIsPhysical) != 0;
      points.push_back({name, name, static_cast<int>(ports.size()), physical && points.empty(), !physical});
    }
  };
  fill(listing.sources, true);
  fill(listing.sinks, false);
  return listing;
}

class JackDevice : public AudioDevice {
 public:
  JackDevice(DeviceSettings settings, AudioCallback& callback)
      : settings_(std::move(settings)), jack_(library()), client_(jack_.open(ownName)) {
    if (!client_) throw Error("No JACK server is running.");
    const DriverListing listing = listingOf(client_.get());
    if (!settings_.source.empty() || findEndPoint(listing.sources, {}))
      source_ = requireEndPoint(listing.sources, settings_.source, EndPointKind::Source);
    if (!settings_.sink.empty() || findEndPoint(listing.sinks, {}))
      sink_ = requireEndPoint(listing.sinks, settings_.sink, EndPointKind::Sink);
    settings_.source = source_.id;
    settings_.sink = sink_.id;
    settings_.inputs = std::clamp(std::max(settings_.inputs, source_.channels), 0, RateBridge::mostChannels);
    settings_.outputs = std::clamp(settings_.outputs, 0, RateBridge::mostChannels);
    bridge_ = std::make_unique<RateBridge>(callback, settings_.rate, settings_.inputs, settings_.outputs);
    rate_ = static_cast<int>(jack_.jack_get_sample_rate(client_.get()));
    for (int i = 0; i < settings_.inputs; ++i)
      inputPorts_.push_back(registerPort("input_" + std::to_string(i + 1), JackPortIsInput));
    for (int i = 0; i < settings_.outputs; ++i)
      outputPorts_.push_back(registerPort(i == 0 ? "output_left" : "output_right", JackPortIsOutput));
    jack_.jack_set_process_callback(client_.get(), &JackDevice::process, this);
    jack_.jack_set_xrun_callback(
        client_.get(),
        [](void* self) {
          static_cast<JackDevice*>(self)->xrun_ = true;
          return 0;
        },
        this);
    jack_.jack_set_sample_rate_callback(
        client_.get(),
        [](jack_nframes_t rate, void* self) {
          static_cast<JackDevice*>(self)->rate_ = static_cast<int>(rate);
          return 0;
        },
        this);
    jack_.jack_on_info_shutdown(
        client_.get(),
        [](jack_status_t, const char* reason, void* self) {
          static_cast<JackDevice*>(self)->life_.lose(reason && *reason
                                                         ? Sentence("The JACK server has ended: %1.", reason)
                                                         : Sentence("The JACK server has ended."));
        },
        this);
    jack_.jack_set_port_registration_callback(
        client_.get(),
        [](jack_port_id_t, int registered, void* self) {
          if (!registered) static_cast<JackDevice*>(self)->portsGone_ = true;
        },
        this);
  }
  ~JackDevice() override { JackDevice::stop(); }

  void start() override {
    life_.called();
    if (jack_.jack_activate(client_.get()) != 0) throw Error("The JACK server refused to run Yewdrift.");
    connectPorts();
    for (int i = 0; i < 400 && blocks_.load() < 2; ++i)
      std::this_thread::sleep_for(std::chrono::milliseconds(5));
    if (blocks_.load() == 0) throw Error("The JACK server accepted Yewdrift but does not run it.");
    settings_.blockFrames = granted_.load();
    life_.begin();
  }
  void stop() override { client_.reset(); }

  [[nodiscard]] const DeviceSettings& settings() const override { return settings_; }
  [[nodiscard]] DeviceReport report() const override {
    DeviceReport report;
    report.sourceName = source_.name;
    report.sinkName = sink_.name;
    report.deviceRate = rate_;
    if (rate_ != settings_.rate.hertz)
      addSentence(report.notes,
                  "The JACK server runs at %1 Hz; what the session records and plays is converted.",
                  rate_.load());
    if (client_ && settings_.inputs > 0 && !anyConnected(inputPorts_))
      report.silence =
          Sentence("Nothing is connected to Yewdrift's inputs in JACK; connect the source to them.");
    return report;
  }
  [[nodiscard]] Frames reportedRoundTrip() const override {
    if (!client_) return {};
    auto worst = [&](const std::vector<jack_port_t*>& ports, jack_latency_callback_mode_t mode) {
      jack_nframes_t most = 0;
      for (jack_port_t* port : ports) {
        jack_latency_range_t range{};
        jack_.jack_port_get_latency_range(port, mode, &range);
        most = std::max(most, range.max);
      }
      return static_cast<std::int64_t>(most);
    };
    const std::int64_t frames =
        worst(inputPorts_, JackCaptureLatency) + worst(outputPorts_, JackPlaybackLatency);
    return Frames{frames * settings_.rate.hertz / std::max(1, rate_.load())} + bridge_->delay();
  }
  [[nodiscard]] bool alive() const override {
    if (client_ && portsGone_.exchange(false)) lookForPorts();
    return client_ && life_.alive();
  }
  [[nodiscard]] Sentence lossReason() const override { return life_.reason(); }
  [[nodiscard]] std::vector<Patch> patches() const override {
    std::vector<Patch> found;
    if (!client_ || life_.lost()) return found;
    auto look = [&](const std::vector<jack_port_t*>& ports, bool input) {
      for (jack_port_t* port : ports) {
        const std::string own = jack_.jack_port_name(port);
        for (const std::string& other : jack_.connectionsOf(client_.get(), port))
          found.push_back(input ? Patch{other, own} : Patch{own, other});
      }
    };
    look(inputPorts_, true);
    look(outputPorts_, false);
    return found;
  }

 private:
  jack_port_t* registerPort(const std::string& name, unsigned long flags) {
    jack_port_t* port =
        jack_.jack_port_register(client_.get(), name.c_str(), JACK_DEFAULT_AUDIO_TYPE, flags, 0);
    if (!port) throw Error("The JACK server has no room for more ports.");
    return port;
  }

  void connectPorts() {
    if (!settings_.patches.empty()) {
      for (const Patch& patch : settings_.patches)
        jack_.jack_connect(client_.get(), patch.from.c_str(), patch.to.c_str());
      return;
    }
    auto connect = [&](const std::string& other, bool outputs, const std::vector<jack_port_t*>& own) {
      for (const auto& [name, ports] : portsByClient(client_.get(), outputs)) {
        if (name != other) continue;
        for (std::size_t i = 0; i < std::min(ports.size(), own.size()); ++i) {
          const char* mine = jack_.jack_port_name(own[i]);
          jack_.jack_connect(client_.get(), outputs ? ports[i].c_str() : mine,
                             outputs ? mine : ports[i].c_str());
        }
      }
    };
    if (!source_.id.empty()) connect(source_.id, true, inputPorts_);
    if (!sink_.id.empty()) connect(sink_.id, false, outputPorts_);
  }

  [[nodiscard]] bool anyConnected(const std::vector<jack_port_t*>& ports) const {
    return std::any_of(ports.begin(), ports.end(),
                       [&](jack_port_t* port) { return !jack_.connectionsOf(client_.get(), port).empty(); });
  }

  /// Some port is gone: was it one of what was chosen?
  void lookForPorts() const {
    if (!life_.begun() || life_.lost()) return;
    auto there = [&](const EndPoint& point, bool outputs) {
      if (point.id.empty()) return true;
      const auto all = portsByClient(client_.get(), outputs);
      return std::any_of(all.begin(), all.end(), [&](const auto& each) { return each.first == point.id; });
    };
    if (!there(source_, true))
      life_.lose(Sentence("\"%1\" is gone.", source_.name));
    else if (!there(sink_, false))
      life_.lose(Sentence("\"%1\" is gone.", sink_.name));
  }

  static int process(jack_nframes_t frames, void* self) {
    static_cast<JackDevice*>(self)->process(frames);
    return 0;
  }
  void process(jack_nframes_t frames) noexcept {
    life_.called();
    granted_.store(static_cast<int>(frames), std::memory_order_relaxed);
    for (std::size_t i = 0; i < inputPorts_.size(); ++i)
      inputs_[i] = static_cast<const float*>(jack_.jack_port_get_buffer(inputPorts_[i], frames));
    for (std::size_t i = 0; i < outputPorts_.size(); ++i)
      outputs_[i] = static_cast<float*>(jack_.jack_port_get_buffer(outputPorts_[i], frames));
    // Before the first blocks the server reports the silence in which it started us.
    const bool reported = xrun_.exchange(false) && blocks_.load(std::memory_order_relaxed) > 1;
    // Not every server tells a client that was held up itself: then its clock has gone on without it.
    const jack_nframes_t now = jack_.jack_last_frame_time(client_.get());
    const bool skipped = blocks_.load(std::memory_order_relaxed) > 0 && now != expected_;
    expected_ = now + frames;
    const bool dropout = reported || skipped;
    bridge_->process({inputs_.data(), static_cast<int>(inputPorts_.size()), outputs_.data(),
                      static_cast<int>(outputPorts_.size()), static_cast<int>(frames), dropout},
                     rate_.load(std::memory_order_relaxed));
    blocks_.fetch_add(1, std::memory_order_relaxed);
  }

  DeviceSettings settings_;
  const JackLibrary& jack_;
  EndPoint source_;
  EndPoint sink_;
  std::unique_ptr<RateBridge> bridge_;
  std::vector<jack_port_t*> inputPorts_;
  std::vector<jack_port_t*> outputPorts_;
  std::array<const float*, RateBridge::mostChannels> inputs_{};
  std::array<float*, RateBridge::mostChannels> outputs_{};
  std::atomic<int> rate_{0};
  std::atomic<int> granted_{0};
  std::atomic<std::int64_t> blocks_{0};
  std::atomic<bool> xrun_{false};
  jack_nframes_t expected_ = 0;  // the server's clock at the next block
  mutable std::atomic<bool> portsGone_{false};
  mutable DeviceLife life_{Sentence("The JACK server has stopped calling.")};
  JackLibrary::Client client_;  // last: it stops calling before what it calls goes
};

class JackWatch : public DriverWatch {
 public:
  explicit JackWatch(std::function<void()> changed)
      : changed_(std::move(changed)), client_(library().open("Yewdrift-watch")) {
    if (!client_) throw Error("No JACK server is running.");
    const JackLibrary& jack = library();
    jack.jack_set_port_registration_callback(
        client_.get(), [](jack_port_id_t, int, void* self) { static_cast<JackWatch*>(self)->changed_(); },
        this);
    jack.jack_on_info_shutdown(
        client_.get(),
        [](jack_status_t, const char*, void* self) { static_cast<JackWatch*>(self)->changed_(); }, this);
    jack.jack_activate(client_.get());
  }

 private:
  std::function<void()> changed_;
  JackLibrary::Client client_;
};

}  // namespace

std::unique_ptr<AudioDriver> jackDriver() {
  return std::make_unique<DriverOf<JackDevice, JackWatch>>("JACK", [] { return listingOf(visitor().get()); });
}

}  // namespace yewdrift
