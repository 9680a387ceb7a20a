// SPDX-License-Identifier: GPL-3.0-or-later
#include <spa/param/latency-utils.h>
#include <spa/param/props.h>
#include <spa/pod/iter.h>

#include <array>
#include <chrono>
#include <cmath>
#include <mutex>
#include <thread>

#include "core/device/device_life.h"
#include "core/device/driver_of.h"
#include "core/device/pipewire/pipewire_driver.h"
#include "core/device/pipewire/pipewire_graph.h"
#include "core/device/rate_bridge.h"
#include "core/error.h"

namespace yewdrift {
namespace {

constexpr const char* ownName = "Yewdrift";
constexpr double patience = 3.0;

/// A port of our node; PipeWire keeps the memory, `latency` is what lies beyond the port.
struct OwnPort {
  spa_latency_info latency{};
};

std::string withoutMonitor(const std::string& id) {
  return id.ends_with(".monitor") ? id.substr(0, id.size() - 8) : id;
}

class PipeWireDevice : public AudioDevice {
 public:
  PipeWireDevice(DeviceSettings settings, AudioCallback& callback)
      : settings_(std::move(settings)), library_(), graph_([this] { graphChanged(); }) {
    const DriverListing listing = graph_.listing();
    if (listing.sources.empty() && listing.sinks.empty())
      throw Error("PipeWire runs here but has neither source nor sink; is a sound card plugged in?");
    if (!settings_.source.empty() || findEndPoint(listing.sources, {}))
      source_ = requireEndPoint(listing.sources, settings_.source, EndPointKind::Source);
    if (!settings_.sink.empty() || findEndPoint(listing.sinks, {}))
      sink_ = requireEndPoint(listing.sinks, settings_.sink, EndPointKind::Sink);
    settings_.source = source_.id;
    settings_.sink = sink_.id;
    settings_.inputs = std::min(source_.channels, RateBridge::mostChannels);
    settings_.outputs = std::min(settings_.outputs, sink_.channels);
    bridge_ = std::make_unique<RateBridge>(callback, settings_.rate, settings_.inputs, settings_.outputs);
    makeNode();
  }

  ~PipeWireDevice() override { PipeWireDevice::stop(); }

  void start() override {
    connectNode();
    life_.called();
    const auto until = std::chrono::steady_clock::now() + std::chrono::duration<double>(patience);
    // The first blocks come before the graph has settled on a block; the pace counts from there on.
    while (blocks_.load() < 4 && std::chrono::steady_clock::now() < until)
      std::this_thread::sleep_for(std::chrono::milliseconds(5));
    if (blocks_.load() == 0) throw Error("PipeWire accepted the connection but does not run it.");
    settings_.blockFrames = granted_.load();
    life_.begin();
  }

  void stop() override {
    if (!filter_) return;
    {
      const PipeWireGraph::Lock guard(graph_);
      library_->pw_filter_destroy(filter_);
      filter_ = nullptr;
      if (sourceNode_) library_->pw_proxy_destroy(sourceNode_);
      sourceNode_ = nullptr;
    }
  }

  [[nodiscard]] const DeviceSettings& settings() const override { return settings_; }
  [[nodiscard]] DeviceReport report() const override {
    DeviceReport report;
    report.sourceName = source_.name;
    report.sinkName = sink_.name;
    report.deviceRate = bridge_->deviceRate();
    if (report.deviceRate != settings_.rate.hertz)
      addSentence(report.notes, "The graph runs at %1 Hz; what the session records and plays is converted.",
                  report.deviceRate);
    if (sourceMuted_)
      report.silence = Sentence("\"%1\" is muted; unmute it in the desktop's sound settings.", source_.name);
    return report;
  }
  [[nodiscard]] Frames reportedRoundTrip() const override {
    const PipeWireGraph::Lock guard(graph_);
    const double rate = std::max(1, bridge_->deviceRate());
    auto worst = [&](const std::vector<OwnPort*>& ports) {
      double frames = 0.0;
      for (const OwnPort* port : ports)
        frames = std::max(frames, static_cast<double>(port->latency.max_quantum) * granted_.load() +
                                      port->latency.max_rate +
                                      static_cast<double>(port->latency.max_ns) * rate / 1e9);
      return frames;
    };
    const double frames = worst(inputPorts_) + worst(outputPorts_);
    return Frames{std::llround(frames * settings_.rate.hertz / rate)} + bridge_->delay();
  }
  [[nodiscard]] bool alive() const override { return life_.alive(); }
  [[nodiscard]] Sentence lossReason() const override { return life_.reason(); }

 private:
  void makeNode() {
    const std::string rate = std::to_string(settings_.rate.hertz);
    const std::string latency = std::to_string(settings_.blockFrames) + "/" + rate;
    const std::string wantedRate = "1/" + rate;
    const spa_dict_item items[] = {
        {PW_KEY_MEDIA_TYPE, "Audio"},           {PW_KEY_MEDIA_CATEGORY, "Duplex"},
        {PW_KEY_MEDIA_ROLE, "Production"},      {PW_KEY_NODE_NAME, ownName},
        {PW_KEY_NODE_DESCRIPTION, ownName},     {PW_KEY_NODE_LATENCY, latency.c_str()},
        {PW_KEY_NODE_RATE, wantedRate.c_str()}, {PW_KEY_NODE_ALWAYS_PROCESS, "true"},
        {PW_KEY_NODE_WANT_DRIVER, "true"}};
    const spa_dict properties{0, 9, items};
    const PipeWireGraph::Lock guard(graph_);
    filter_ = library_->pw_filter_new(graph_.core(), ownName, library_->pw_properties_new_dict(&properties));
    if (!filter_) throw Error("PipeWire refused to make a node for Yewdrift.");
    static const pw_filter_events events = [] {
      pw_filter_events made{};
      made.version = PW_VERSION_FILTER_EVENTS;
      made.process = &PipeWireDevice::process;
      made.param_changed = &PipeWireDevice::paramChanged;
      made.state_changed = &PipeWireDevice::stateChanged;
      return made;
    }();
    library_->pw_filter_add_listener(filter_, &filterHook_, &events, this);
    for (int i = 0; i < settings_.inputs; ++i)
      inputPorts_.push_back(addPort(PW_DIRECTION_INPUT, "input_" + std::to_string(i + 1)));
    for (int i = 0; i < settings_.outputs; ++i)
      outputPorts_.push_back(addPort(PW_DIRECTION_OUTPUT, i == 0 ? "output_left" : "output_right"));
  }

  OwnPort* addPort(pw_direction direction, const std::string& name) {
    const spa_dict_item items[] = {{PW_KEY_FORMAT_DSP, "32 bit float mono audio"},
                                   {PW_KEY_PORT_NAME, name.c_str()}};
    const spa_dict properties{0, 2, items};
    void* port =
        library_->pw_filter_add_port(filter_, direction, PW_FILTER_PORT_FLAG_MAP_BUFFERS, sizeof(OwnPort),
                                     library_->pw_properties_new_dict(&properties), nullptr, 0);
    if (!port) throw Error("PipeWire refused to make a port for Yewdrift.");
    return new (port) OwnPort;  // PipeWire owns its memory. NOLINT(cppcoreguidelines-owning-memory)
  }

  void connectNode() {
    const PipeWireGraph::Lock guard(graph_);
    if (library_->pw_filter_connect(filter_, PW_FILTER_FLAG_RT_PROCESS, nullptr, 0) < 0)
      throw Error("PipeWire refused to run Yewdrift's node.");
    std::vector<std::uint32_t> ins;
    std::vector<std::uint32_t> outs;
    graph_.waitUntil(patience, [&] {
      const std::uint32_t own = library_->pw_filter_get_node_id(filter_);
      ins = graph_.portsOf(own, false, false);
      outs = graph_.portsOf(own, true, false);
      return ins.size() == inputPorts_.size() && outs.size() == outputPorts_.size();
    });
    for (const auto& [id, node] : graph_.nodes()) {
      if (node.name == withoutMonitor(source_.id) && !source_.id.empty()) {
        const auto from = graph_.portsOf(id, true, source_.monitor);
        for (std::size_t i = 0; i < std::min(from.size(), ins.size()); ++i) graph_.link(from[i], ins[i]);
        watchMute(id);
      }
      if (node.name == sink_.id && !sink_.id.empty()) {
        const auto to = graph_.portsOf(id, false, false);
        for (std::size_t i = 0; i < std::min(to.size(), outs.size()); ++i) graph_.link(outs[i], to[i]);
      }
    }
  }

  /// Follows whether the source is muted.
  void watchMute(std::uint32_t id) {
    auto* node = static_cast<pw_node*>(
        pw_registry_bind(graph_.registry(), id, PW_TYPE_INTERFACE_Node, PW_VERSION_NODE, 0));
    if (!node) return;
    sourceNode_ = reinterpret_cast<pw_proxy*>(node);
    static const pw_node_events events = [] {
      pw_node_events made{};
      made.version = PW_VERSION_NODE_EVENTS;
      made.param = &PipeWireDevice::sourceParam;
      return made;
    }();
    pw_node_add_listener(node, &sourceHook_, &events, this);
    std::uint32_t wanted[] = {SPA_PARAM_Props};
    pw_node_subscribe_params(node, wanted, 1);
  }

  static void sourceParam(void* self, int, std::uint32_t, std::uint32_t, std::uint32_t, const spa_pod* pod) {
    bool muted = false;
    const spa_pod_prop* property = pod ? spa_pod_find_prop(pod, nullptr, SPA_PROP_mute) : nullptr;
    if (property && spa_pod_get_bool(&property->value, &muted) == 0)
      static_cast<PipeWireDevice*>(self)->sourceMuted_ = muted;
  }

  static void paramChanged(void* self, void* port, std::uint32_t id, const spa_pod* pod) {
    if (!port || id != SPA_PARAM_Latency || !pod) return;
    const auto* me = static_cast<PipeWireDevice*>(self);
    spa_latency_info info{};
    if (spa_latency_parse(pod, &info) < 0) return;
    // At an input port what counts is how long the sound has been under way, at an output how long it will
    // be.
    const bool input =
        std::find(me->inputPorts_.begin(), me->inputPorts_.end(), port) != me->inputPorts_.end();
    if (info.direction == (input ? SPA_DIRECTION_OUTPUT : SPA_DIRECTION_INPUT))
      static_cast<OwnPort*>(port)->latency = info;
  }

  static void stateChanged(void* self, pw_filter_state, pw_filter_state state, const char* error) {
    auto* me = static_cast<PipeWireDevice*>(self);
    if (state == PW_FILTER_STATE_ERROR)
      me->life_.lose(error ? Sentence("PipeWire stopped Yewdrift's node: %1.", error)
                           : Sentence("PipeWire stopped Yewdrift's node without a reason."));
  }

  /// On the connection's thread.
  void graphChanged() {
    if (!life_.begun()) return;
    auto gone = [&](const EndPoint& point) {
      if (point.id.empty()) return false;
      const std::string name = withoutMonitor(point.id);
      return std::none_of(graph_.nodes().begin(), graph_.nodes().end(),
                          [&](const auto& node) { return node.second.name == name; });
    };
    if (gone(source_))
      life_.lose(Sentence("\"%1\" is gone.", source_.name));
    else if (gone(sink_))
      life_.lose(Sentence("\"%1\" is gone.", sink_.name));
  }

  static void process(void* self, spa_io_position* position) {
    static_cast<PipeWireDevice*>(self)->process(*position);
  }

  void process(const spa_io_position& position) noexcept {
    life_.called();
    const auto frames = static_cast<int>(position.clock.duration);
    if (frames <= 0 || position.clock.rate.denom == 0) return;
    granted_.store(frames, std::memory_order_relaxed);
    const bool follows = blocks_.load(std::memory_order_relaxed) > 0 && position.clock.id == clock_;
    const bool dropout = follows && position.clock.position != expected_;
    clock_ = position.clock.id;
    expected_ = position.clock.position + position.clock.duration;
    const auto n = static_cast<std::uint32_t>(frames);
    if (n > silence_.size()) return;
    for (std::size_t i = 0; i < inputPorts_.size(); ++i) {
      const auto* from = static_cast<const float*>(library_->pw_filter_get_dsp_buffer(inputPorts_[i], n));
      inputs_[i] = from ? from : silence_.data();
    }
    for (std::size_t i = 0; i < outputPorts_.size(); ++i) {
      auto* to = static_cast<float*>(library_->pw_filter_get_dsp_buffer(outputPorts_[i], n));
      outputs_[i] = to ? to : thrownAway_.data();
    }
    bridge_->process({inputs_.data(), static_cast<int>(inputPorts_.size()), outputs_.data(),
                      static_cast<int>(outputPorts_.size()), frames, dropout},
                     static_cast<int>(position.clock.rate.denom));
    blocks_.fetch_add(1, std::memory_order_relaxed);
  }

  DeviceSettings settings_;
  struct Library {
    const PipeWireLibrary* operator->() const { return PipeWireLibrary::get(); }
  } library_;
  EndPoint source_;
  EndPoint sink_;
  std::unique_ptr<RateBridge> bridge_;
  std::vector<OwnPort*> inputPorts_;
  std::vector<OwnPort*> outputPorts_;
  std::atomic<bool> sourceMuted_{false};
  DeviceLife life_{Sentence("PipeWire has stopped calling.")};
  std::atomic<int> granted_{0};
  std::atomic<std::int64_t> blocks_{0};
  std::uint32_t clock_ = 0;
  std::uint64_t expected_ = 0;
  std::array<const float*, RateBridge::mostChannels> inputs_{};
  std::array<float*, RateBridge::mostChannels> outputs_{};
  std::vector<float> silence_ = std::vector<float>(16384);
  std::vector<float> thrownAway_ = std::vector<float>(16384);
  spa_hook filterHook_{};
  spa_hook sourceHook_{};
  pw_filter* filter_ = nullptr;
  pw_proxy* sourceNode_ = nullptr;
  PipeWireGraph graph_;  // last: its thread ends before what it calls goes
};

class PipeWireWatch : public DriverWatch {
 public:
  explicit PipeWireWatch(std::function<void()> changed) : graph_(std::move(changed)) {}

 private:
  PipeWireGraph graph_;
};

}  // namespace

std::unique_ptr<AudioDriver> pipeWireDriver() {
  return std::make_unique<DriverOf<PipeWireDevice, PipeWireWatch>>("PipeWire",
                                                                   [] { return PipeWireGraph().listing(); });
}

}  // namespace yewdrift
