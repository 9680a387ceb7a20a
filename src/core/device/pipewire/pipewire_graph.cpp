// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/pipewire/pipewire_graph.h"

#include <algorithm>
#include <chrono>
#include <nlohmann/json.hpp>

#include "core/error.h"

namespace yewdrift {
namespace {

constexpr double patience = 3.0;  // seconds, for a server to say what it has

std::string text(const spa_dict* properties, const char* key) {
  const char* value = properties ? spa_dict_lookup(properties, key) : nullptr;
  return value ? value : "";
}

std::uint32_t number(const spa_dict* properties, const char* key) {
  return static_cast<std::uint32_t>(std::strtoul(text(properties, key).c_str(), nullptr, 10));
}

/// `{"name": "speakers"}`, as the default's metadata has it.
std::string nameIn(const char* value) {
  const auto json = nlohmann::json::parse(value ? value : "", nullptr, false);
  return json.is_object() && json.contains("name") && json["name"].is_string()
             ? json["name"].get<std::string>()
             : std::string();
}

const std::string monitorEnding = ".monitor";

}  // namespace

struct PipeWireGraph::Events {
  explicit Events(PipeWireGraph& owner) : graph(owner) {}
  PipeWireGraph& graph;
  spa_hook coreHook{};
  spa_hook registryHook{};
  std::vector<std::unique_ptr<spa_hook>> metadataHooks;

  static Events& of(void* self) { return *static_cast<Events*>(self); }

  static void done(void* self, std::uint32_t id, int sequence) {
    if (id != PW_ID_CORE) return;
    of(self).graph.synced_ = sequence;
    of(self).graph.wake();
  }
  static void error(void* self, std::uint32_t id, int, int result, const char*) {
    if (id != PW_ID_CORE || result != -EPIPE) return;
    of(self).graph.connected_ = false;
    of(self).graph.tell();
  }

  static void added(void* self, std::uint32_t id, std::uint32_t, const char* type, std::uint32_t,
                    const spa_dict* properties) {
    PipeWireGraph& graph = of(self).graph;
    const std::string kind = type;
    if (kind == PW_TYPE_INTERFACE_Node) {
      Node node{text(properties, PW_KEY_NODE_NAME), text(properties, PW_KEY_NODE_DESCRIPTION),
                text(properties, PW_KEY_MEDIA_CLASS)};
      if (node.shown.empty()) node.shown = text(properties, PW_KEY_NODE_NICK);
      if (node.shown.empty()) node.shown = node.name;
      graph.nodes_[id] = std::move(node);
    } else if (kind == PW_TYPE_INTERFACE_Port) {
      const std::string format = text(properties, PW_KEY_FORMAT_DSP);
      graph.ports_[id] = {number(properties, PW_KEY_NODE_ID),
                          number(properties, PW_KEY_PORT_ID),
                          text(properties, PW_KEY_PORT_NAME),
                          text(properties, PW_KEY_PORT_DIRECTION) == "out",
                          text(properties, PW_KEY_PORT_MONITOR) == "true",
                          format.find("midi") != std::string::npos};
    } else if (kind == PW_TYPE_INTERFACE_Metadata) {
      of(self).listenTo(id, text(properties, PW_KEY_METADATA_NAME));
    } else {
      return;
    }
    graph.tell();
  }

  static void removed(void* self, std::uint32_t id) {
    PipeWireGraph& graph = of(self).graph;
    if (graph.nodes_.erase(id) + graph.ports_.erase(id) > 0) graph.tell();
  }

  void listenTo(std::uint32_t id, const std::string& name) {
    if (name != "default") return;
    static const pw_metadata_events events = [] {
      pw_metadata_events made{};
      made.version = PW_VERSION_METADATA_EVENTS;
      made.property = &Events::property;
      return made;
    }();
    auto* metadata = static_cast<pw_metadata*>(
        pw_registry_bind(graph.registry_, id, PW_TYPE_INTERFACE_Metadata, PW_VERSION_METADATA, 0));
    if (!metadata) return;
    metadataHooks.push_back(std::make_unique<spa_hook>());
    pw_metadata_add_listener(metadata, metadataHooks.back().get(), &events, this);
    graph.proxies_.push_back(reinterpret_cast<pw_proxy*>(metadata));
  }

  static int property(void* self, std::uint32_t, const char* key, const char*, const char* value) {
    PipeWireGraph& graph = of(self).graph;
    const std::string name = key ? key : "";
    if (name == "default.audio.source")
      graph.defaultSource_ = nameIn(value);
    else if (name == "default.audio.sink")
      graph.defaultSink_ = nameIn(value);
    else
      return 0;
    graph.tell();
    return 0;
  }
};

PipeWireGraph::PipeWireGraph(std::function<void()> changed)
    : library_([]() -> const PipeWireLibrary& {
        if (const PipeWireLibrary* library = PipeWireLibrary::get()) return *library;
        throw Error("This machine has no PipeWire.");
      }()),
      events_(std::make_unique<Events>(*this)) {
  loop_ = library_.pw_thread_loop_new("yewdrift-pipewire", nullptr);
  // The configuration that gives the thread that calls us real-time priority.
  const spa_dict_item items[] = {{PW_KEY_CONFIG_NAME, "client-rt.conf"}};
  const spa_dict properties{0, 1, items};
  context_ = loop_ ? library_.pw_context_new(library_.pw_thread_loop_get_loop(loop_),
                                             library_.pw_properties_new_dict(&properties), 0)
                   : nullptr;
  if (!context_ || library_.pw_thread_loop_start(loop_) < 0) {
    close();
    throw Error("PipeWire's client library cannot be started.");
  }
  bool reached = false;
  {
    const Lock guard(*this);
    core_ = library_.pw_context_connect(context_, nullptr, 0);
    if (core_) {
      static const pw_core_events coreEvents = [] {
        pw_core_events made{};
        made.version = PW_VERSION_CORE_EVENTS;
        made.done = &Events::done;
        made.error = &Events::error;
        return made;
      }();
      static const pw_registry_events registryEvents = [] {
        pw_registry_events made{};
        made.version = PW_VERSION_REGISTRY_EVENTS;
        made.global = &Events::added;
        made.global_remove = &Events::removed;
        return made;
      }();
      pw_core_add_listener(core_, &events_->coreHook, &coreEvents, events_.get());
      registry_ = pw_core_get_registry(core_, PW_VERSION_REGISTRY, 0);
      pw_registry_add_listener(registry_, &events_->registryHook, &registryEvents, events_.get());
      // Twice: what the first answer brought is bound, and says what it holds before the second.
      reached = true;
      for (int round = 0; round < 2 && reached; ++round) {
        const int wanted = pw_core_sync(core_, PW_ID_CORE, 0);
        reached = waitUntil(patience, [&] { return synced_ == wanted || !connected_; }) && connected_;
      }
    }
    if (reached) changed_ = std::move(changed);
  }
  if (!reached) {
    close();
    throw Error("No PipeWire server is running, or it does not answer.");
  }
}

PipeWireGraph::~PipeWireGraph() {
  close();
}

void PipeWireGraph::close() {
  if (loop_) library_.pw_thread_loop_stop(loop_);
  for (pw_proxy* proxy : proxies_) library_.pw_proxy_destroy(proxy);
  if (registry_) library_.pw_proxy_destroy(reinterpret_cast<pw_proxy*>(registry_));
  if (core_) library_.pw_core_disconnect(core_);
  if (context_) library_.pw_context_destroy(context_);
  if (loop_) library_.pw_thread_loop_destroy(loop_);
}

void PipeWireGraph::tell() {
  if (changed_) changed_();
  wake();
}

bool PipeWireGraph::waitUntil(double seconds, const std::function<bool()>& done) {
  const auto until = std::chrono::steady_clock::now() + std::chrono::duration<double>(seconds);
  while (!done()) {
    if (std::chrono::steady_clock::now() > until) return false;
    library_.pw_thread_loop_timed_wait(loop_, 1);
  }
  return true;
}

std::vector<std::uint32_t> PipeWireGraph::portsOf(std::uint32_t node, bool output, bool monitor) const {
  const auto found = exactPortsOf(node, output, monitor);
  const auto owner = nodes_.find(node);
  const bool source = owner != nodes_.end() && owner->second.mediaClass.starts_with("Audio/Source");
  return found.empty() && output && source ? exactPortsOf(node, true, true) : found;
}

std::vector<std::uint32_t> PipeWireGraph::exactPortsOf(std::uint32_t node, bool output, bool monitor) const {
  std::vector<std::uint32_t> found;
  for (const auto& [id, port] : ports_)
    if (port.node == node && port.output == output && port.monitor == monitor && !port.midi)
      found.push_back(id);
  std::sort(found.begin(), found.end(),
            [&](auto a, auto b) { return ports_.at(a).number < ports_.at(b).number; });
  return found;
}

DriverListing PipeWireGraph::listing() const {
  const Lock guard(*this);
  DriverListing found;
  std::vector<EndPoint> monitors;
  for (const auto& [id, node] : nodes_) {
    const bool duplex = node.mediaClass == "Audio/Duplex";
    if (node.mediaClass == "Audio/Sink" || duplex) {
      found.sinks.push_back({node.name, node.shown, static_cast<int>(portsOf(id, false, false).size()),
                             node.name == defaultSink_, false});
      if (const auto ports = portsOf(id, true, true); !ports.empty())
        monitors.push_back({node.name + monitorEnding, "What " + node.shown + " plays",
                            static_cast<int>(ports.size()), node.name == defaultSource_, true});
    }
    if (node.mediaClass.starts_with("Audio/Source") || duplex)
      found.sources.push_back({node.name, node.shown, static_cast<int>(portsOf(id, true, false).size()),
                               node.name == defaultSource_, false});
  }
  found.sources.insert(found.sources.end(), monitors.begin(), monitors.end());
  return found;
}

void PipeWireGraph::link(std::uint32_t from, std::uint32_t to) {
  const std::string output = std::to_string(from);
  const std::string input = std::to_string(to);
  const spa_dict_item items[] = {{PW_KEY_LINK_OUTPUT_PORT, output.c_str()},
                                 {PW_KEY_LINK_INPUT_PORT, input.c_str()}};
  const spa_dict properties{0, 2, items};
  auto* made = static_cast<pw_proxy*>(
      pw_core_create_object(core_, "link-factory", PW_TYPE_INTERFACE_Link, PW_VERSION_LINK, &properties, 0));
  if (made) proxies_.push_back(made);
}

}  // namespace yewdrift
