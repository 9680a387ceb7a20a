// SPDX-License-Identifier: GPL-3.0-or-later
#include "pipewire_server.h"

#include <pipewire/extensions/metadata.h>
#include <pipewire/filter.h>
#include <pipewire/pipewire.h>
#include <spa/control/control.h>
#include <spa/param/latency-utils.h>
#include <spa/param/props.h>
#include <spa/pod/builder.h>

#include <algorithm>
#include <chrono>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <thread>

namespace yewdrift::test {
namespace {

constexpr std::chrono::milliseconds turn{1};

std::recursive_mutex everything;  // the lock of every loop
std::unique_ptr<PipeWireServer> present = std::make_unique<PipeWireServer>();

struct Loop {
  std::condition_variable_any signal;
  std::deque<std::function<void()>> tasks;
  std::thread thread;
  bool ending = false;
  void run();
};

struct Context {
  Loop* loop = nullptr;
};

enum class Kind { Core, Registry, Metadata, Node, Link };

/// What a client has of the server; the interface is what its functions are called through.
struct Proxy {
  spa_interface interface {};
  Kind kind = Kind::Core;
  Loop* loop = nullptr;
  std::uint32_t object = 0;
  const void* events = nullptr;
  void* with = nullptr;
  std::pair<std::uint32_t, std::uint32_t> link;
  bool subscribed = false;
  template <typename Events>
  [[nodiscard]] const Events* told() const {
    return static_cast<const Events*>(events);
  }
};
std::list<Proxy> proxies;
int sequences = 0;

struct OpenFilter {
  PipeWireServer::Filter told;
  Loop* loop = nullptr;
  const pw_filter_events* events = nullptr;
  void* with = nullptr;
  bool connected = false;
};
std::list<OpenFilter> filters;

using Properties = PipeWireServer::Properties;

Properties propertiesOf(const spa_dict* dictionary) {
  Properties made;
  for (std::uint32_t i = 0; i < dictionary->n_items; ++i)
    made[dictionary->items[i].key] = dictionary->items[i].value;
  return made;
}

Properties taken(pw_properties* properties) {
  const std::unique_ptr<Properties> owned(reinterpret_cast<Properties*>(properties));
  return owned ? *owned : Properties();
}

struct Dictionary {
  explicit Dictionary(const Properties& properties) {
    for (const auto& [key, value] : properties) items.push_back({key.c_str(), value.c_str()});
    whole = {0, static_cast<std::uint32_t>(items.size()), items.data()};
  }
  std::vector<spa_dict_item> items;
  spa_dict whole{};
};

void tellOf(const Proxy& registry, std::uint32_t id, const PipeWireServer::Object& object) {
  const Dictionary dictionary(object.properties);
  registry.told<pw_registry_events>()->global(registry.with, id, PW_PERM_ALL,
                                              (PW_TYPE_INFO_INTERFACE_BASE + object.type).c_str(), 3,
                                              &dictionary.whole);
}

void tellMetadata(const Proxy& metadata, const char* key, const char* value) {
  metadata.told<pw_metadata_events>()->property(metadata.with, 0, key, "Spa:String:JSON", value);
}

Proxy* proxyOf(void* object) {
  for (Proxy& each : proxies)
    if (&each == object) return &each;
  return nullptr;
}

template <typename Methods>
void* made(Kind kind, Loop* loop, const Methods* methods, std::uint32_t object = 0) {
  Proxy& proxy = proxies.emplace_back();
  proxy.kind = kind;
  proxy.loop = loop;
  proxy.object = object;
  proxy.interface = {"", methods ? methods->version : 0, {methods, &proxy}};
  ++present->proxiesHeld;
  return &proxy;
}

template <typename Events>
int listen(void* object, spa_hook*, const Events* events, void* with) {
  Proxy& proxy = *static_cast<Proxy*>(object);
  proxy.events = events;
  proxy.with = with;
  return 0;
}

int listenToRegistry(void* object, spa_hook* hook, const pw_registry_events* events, void* with) {
  listen(object, hook, events, with);
  static_cast<Proxy*>(object)->loop->tasks.push_back([object] {
    const auto all = present->objects;
    for (const auto& [id, each] : all) tellOf(*static_cast<Proxy*>(object), id, each);
  });
  return 0;
}

int listenToMetadata(void* object, spa_hook* hook, const pw_metadata_events* events, void* with) {
  listen(object, hook, events, with);
  static_cast<Proxy*>(object)->loop->tasks.push_back([object] {
    const Proxy& metadata = *static_cast<Proxy*>(object);
    for (const auto& [key, value] : present->objects[metadata.object].says)
      tellMetadata(metadata, key.c_str(), value.c_str());
  });
  return 0;
}

int subscribe(void* object, std::uint32_t* ids, std::uint32_t count) {
  static_cast<Proxy*>(object)->subscribed = std::find(ids, ids + count, SPA_PARAM_Props) != ids + count;
  return 0;
}

void* bind(void* object, std::uint32_t id, const char* type, std::uint32_t, std::size_t) {
  static const pw_metadata_methods metadata{PW_VERSION_METADATA_METHODS, listenToMetadata, nullptr, nullptr};
  static const pw_node_methods node{
      PW_VERSION_NODE_METHODS, listen<pw_node_events>, subscribe, nullptr, nullptr, nullptr};
  Loop* const loop = static_cast<Proxy*>(object)->loop;
  return std::string(type) == PW_TYPE_INTERFACE_Metadata ? made(Kind::Metadata, loop, &metadata, id)
                                                         : made(Kind::Node, loop, &node, id);
}

int sync(void* object, std::uint32_t id, int) {
  const int sequence = ++sequences;
  static_cast<Proxy*>(object)->loop->tasks.push_back([object, id, sequence] {
    const Proxy& core = *static_cast<Proxy*>(object);
    core.told<pw_core_events>()->done(core.with, id + 1, sequence + 1000);  // somebody else's
    core.told<pw_core_events>()->done(core.with, id, sequence);
  });
  return sequence;
}

pw_registry* registry(void* object, std::uint32_t, std::size_t) {
  static const pw_registry_methods methods{PW_VERSION_REGISTRY_METHODS, listenToRegistry, bind, nullptr};
  return static_cast<pw_registry*>(made(Kind::Registry, static_cast<Proxy*>(object)->loop, &methods));
}

void* create(void* object, const char* factory, const char* type, std::uint32_t, const spa_dict* dictionary,
             std::size_t) {
  if (std::string(factory) != "link-factory" || std::string(type) != PW_TYPE_INTERFACE_Link) return nullptr;
  const Properties wanted = propertiesOf(dictionary);
  const auto number = [&](const char* key) { return static_cast<std::uint32_t>(std::stoul(wanted.at(key))); };
  auto* const link =
      static_cast<Proxy*>(made<pw_core_methods>(Kind::Link, static_cast<Proxy*>(object)->loop, nullptr));
  link->link = {number(PW_KEY_LINK_OUTPUT_PORT), number(PW_KEY_LINK_INPUT_PORT)};
  present->links.insert(link->link);
  return link;
}

OpenFilter* openFilter(const std::string& name) {
  for (OpenFilter& each : filters)
    if (each.told.name == name) return &each;
  return nullptr;
}

PipeWireServer::FilterPort* portAt(const void* memory) {
  for (OpenFilter& filter : filters)
    for (PipeWireServer::FilterPort& port : filter.told.ports)
      if (port.memory.data() == memory) return &port;
  return nullptr;
}

void call(const OpenFilter& filter) {
  spa_io_position at{};
  at.clock.id = present->clock;
  at.clock.rate = {1, present->rate};
  at.clock.position = present->position;
  at.clock.duration = present->frames;
  filter.events->process(filter.with, &at);
}

void Loop::run() {
  std::unique_lock lock(everything);
  while (!ending) {
    while (!tasks.empty()) {
      const auto task = std::move(tasks.front());
      tasks.pop_front();
      task();
    }
    const auto mine = [this](const OpenFilter& each) { return each.connected && each.loop == this; };
    if (present->pumps && std::any_of(filters.begin(), filters.end(), mine)) present->cycle();
    signal.wait_for(lock, turn);
  }
}

spa_pod_builder builderOver(void* bytes, std::size_t count) {
  spa_pod_builder builder{};
  spa_pod_builder_init(&builder, bytes, static_cast<std::uint32_t>(count));
  return builder;
}

/// Its node and its ports become known.
void settle(OpenFilter& filter) {
  PipeWireServer& server = *present;
  std::uint32_t id = 500;
  while (server.objects.contains(id)) id += 50;
  filter.told.id = id;
  filter.connected = true;
  server.add(id, {"Node", filter.told.properties});
  std::uint32_t number = 0;
  for (const PipeWireServer::FilterPort& port : filter.told.ports) {
    ++number;
    server.add(id + number, {"Port",
                             {{PW_KEY_NODE_ID, std::to_string(id)},
                              {PW_KEY_PORT_ID, std::to_string(number)},
                              {PW_KEY_PORT_NAME, port.name},
                              {PW_KEY_PORT_DIRECTION, port.output ? "out" : "in"},
                              {PW_KEY_FORMAT_DSP, port.format}}});
  }
}

}  // namespace

PipeWireServer& pipeWireServer() {
  return *present;
}

PipeWireServer& freshPipeWireServer() {
  const std::lock_guard guard(everything);
  present = std::make_unique<PipeWireServer>();
  return *present;
}

void PipeWireServer::within(const std::function<void()>& what) {
  const std::lock_guard guard(everything);
  what();
}

void PipeWireServer::add(std::uint32_t id, Object object) {
  const std::lock_guard guard(everything);
  objects[id] = std::move(object);
  std::vector<Proxy*> registries;
  for (Proxy& each : proxies)
    if (each.kind == Kind::Registry && each.events) registries.push_back(&each);
  for (const Proxy* each : registries) tellOf(*each, id, objects[id]);
}

void PipeWireServer::addPort(std::uint32_t id, std::uint32_t node, int number, bool output, bool monitor,
                             const std::string& format) {
  Properties properties{{PW_KEY_NODE_ID, std::to_string(node)},
                        {PW_KEY_PORT_ID, std::to_string(number)},
                        {PW_KEY_PORT_NAME, "port_" + std::to_string(number)},
                        {PW_KEY_PORT_DIRECTION, output ? "out" : "in"},
                        {PW_KEY_FORMAT_DSP, format}};
  if (monitor) properties[PW_KEY_PORT_MONITOR] = "true";
  add(id, {"Port", std::move(properties)});
}

void PipeWireServer::remove(std::uint32_t id) {
  const std::lock_guard guard(everything);
  objects.erase(id);
  for (Proxy& each : proxies)
    if (each.kind == Kind::Registry && each.events)
      each.told<pw_registry_events>()->global_remove(each.with, id);
}

PipeWireServer::Filter* PipeWireServer::filter(const std::string& name) const {
  OpenFilter* const open = openFilter(name);
  return open ? &open->told : nullptr;
}

PipeWireServer::FilterPort* PipeWireServer::port(const std::string& filterName,
                                                 const std::string& name) const {
  for (FilterPort& each : filter(filterName)->ports)
    if (each.name == name) return &each;
  return nullptr;
}

void PipeWireServer::cycle() {
  const std::lock_guard guard(everything);
  for (const OpenFilter& each : filters)
    if (each.connected) call(each);
  position += frames;
}

void PipeWireServer::send(const std::string& filterName, const std::string& portName,
                          const std::vector<std::pair<std::uint32_t, std::vector<std::uint8_t>>>& controls) {
  const std::lock_guard guard(everything);
  FilterPort& to = *port(filterName, portName);
  to.sequence.assign(4096, 0);
  spa_pod_builder builder = builderOver(to.sequence.data(), 4096);
  spa_pod_frame frame{};
  spa_pod_builder_push_sequence(&builder, &frame, 0);
  for (const auto& [type, bytes] : controls) {
    spa_pod_builder_control(&builder, 0, type);
    spa_pod_builder_bytes(&builder, bytes.data(), static_cast<std::uint32_t>(bytes.size()));
  }
  spa_pod_builder_pop(&builder, &frame);
  call(*openFilter(filterName));
  to.sequence.clear();
}

void PipeWireServer::tellLatency(const std::string& filterName, const std::string& portName, bool outputs,
                                 float quantum, int more, std::int64_t nanoseconds) {
  const std::lock_guard guard(everything);
  const OpenFilter& open = *openFilter(filterName);
  std::uint8_t bytes[1024];
  spa_pod_builder builder = builderOver(bytes, sizeof bytes);
  spa_latency_info info{};
  info.direction = outputs ? SPA_DIRECTION_OUTPUT : SPA_DIRECTION_INPUT;
  info.min_quantum = quantum / 2.0F;
  info.max_quantum = quantum;
  info.max_rate = static_cast<std::uint32_t>(more);
  info.max_ns = static_cast<std::uint64_t>(nanoseconds);
  const spa_pod* const pod = spa_latency_build(&builder, SPA_PARAM_Latency, &info);
  void* const memory = port(filterName, portName)->memory.data();
  // What is none, or of the whole node, or something else, says nothing of a port.
  open.events->param_changed(open.with, nullptr, SPA_PARAM_Latency, pod);
  open.events->param_changed(open.with, memory, SPA_PARAM_Latency, nullptr);
  open.events->param_changed(open.with, memory, SPA_PARAM_Latency, pod);
  std::uint8_t others[1024];
  spa_pod_builder another = builderOver(others, sizeof others);
  info.max_rate += 100'000;
  open.events->param_changed(open.with, memory, SPA_PARAM_Format,
                             spa_latency_build(&another, SPA_PARAM_Latency, &info));
}

void PipeWireServer::tellMuted(std::uint32_t node, bool muted) {
  const std::lock_guard guard(everything);
  std::uint8_t bytes[1024];
  spa_pod_builder builder = builderOver(bytes, sizeof bytes);
  const auto* const pod = static_cast<const spa_pod*>(spa_pod_builder_add_object(
      &builder, SPA_TYPE_OBJECT_Props, SPA_PARAM_Props, SPA_PROP_mute, SPA_POD_Bool(muted)));
  std::uint8_t others[1024];
  spa_pod_builder another = builderOver(others, sizeof others);
  const auto* const volume = static_cast<const spa_pod*>(spa_pod_builder_add_object(
      &another, SPA_TYPE_OBJECT_Props, SPA_PARAM_Props, SPA_PROP_volume, SPA_POD_Float(1.0F)));
  for (const Proxy& each : proxies) {
    if (each.kind != Kind::Node || !each.subscribed || each.object != node) continue;
    for (const spa_pod* param : {pod, volume, static_cast<const spa_pod*>(nullptr)})
      each.told<pw_node_events>()->param(each.with, 0, SPA_PARAM_Props, 0, 0, param);
  }
}

void PipeWireServer::metadataSays(std::uint32_t id, const char* key, const char* value) {
  const std::lock_guard guard(everything);
  for (const Proxy& each : proxies)
    if (each.kind == Kind::Metadata && each.object == id) tellMetadata(each, key, value);
}

void PipeWireServer::failCore(std::uint32_t id, int result) {
  const std::lock_guard guard(everything);
  for (const Proxy& each : proxies)
    if (each.kind == Kind::Core) each.told<pw_core_events>()->error(each.with, id, 0, result, "");
}

void PipeWireServer::become(const std::string& name, State state, const char* reason) {
  const std::lock_guard guard(everything);
  const OpenFilter& open = *openFilter(name);
  open.events->state_changed(open.with, PW_FILTER_STATE_PAUSED,
                             state == State::Error ? PW_FILTER_STATE_ERROR : PW_FILTER_STATE_STREAMING,
                             reason);
}

}  // namespace yewdrift::test

using namespace yewdrift::test;

namespace {

Loop& loopOf(void* loop) {
  return *static_cast<Loop*>(loop);
}

}  // namespace

extern "C" {

void pw_init(int*, char***) {}

pw_thread_loop* pw_thread_loop_new(const char*, const spa_dict*) {
  return reinterpret_cast<pw_thread_loop*>(new Loop);
}

void pw_thread_loop_destroy(pw_thread_loop* loop) {
  delete &loopOf(loop);
}

int pw_thread_loop_start(pw_thread_loop* loop) {
  if (!pipeWireServer().loopsStart) return -1;
  loopOf(loop).thread = std::thread([loop] { loopOf(loop).run(); });
  return 0;
}

void pw_thread_loop_stop(pw_thread_loop* loop) {
  {
    const std::lock_guard guard(everything);
    loopOf(loop).ending = true;
  }
  if (loopOf(loop).thread.joinable()) loopOf(loop).thread.join();
}

void pw_thread_loop_lock(pw_thread_loop*) {
  everything.lock();
}

void pw_thread_loop_unlock(pw_thread_loop*) {
  everything.unlock();
}

void pw_thread_loop_signal(pw_thread_loop* loop, bool) {
  loopOf(loop).signal.notify_all();
}

int pw_thread_loop_timed_wait(pw_thread_loop* loop, int seconds) {
  loopOf(loop).signal.wait_for(everything, std::chrono::seconds(seconds));
  return 0;
}

pw_loop* pw_thread_loop_get_loop(pw_thread_loop* loop) {
  return reinterpret_cast<pw_loop*>(loop);
}

pw_context* pw_context_new(pw_loop* loop, pw_properties* properties, std::size_t) {
  const Properties wanted = taken(properties);
  if (!pipeWireServer().contextsAreMade) return nullptr;
  pipeWireServer().configuration = wanted.contains(PW_KEY_CONFIG_NAME) ? wanted.at(PW_KEY_CONFIG_NAME) : "";
  ++pipeWireServer().clients;
  return reinterpret_cast<pw_context*>(new Context{reinterpret_cast<Loop*>(loop)});
}

void pw_context_destroy(pw_context* context) {
  --pipeWireServer().clients;
  delete reinterpret_cast<Context*>(context);
}

pw_core* pw_context_connect(pw_context* context, pw_properties*, std::size_t) {
  static const pw_core_methods methods{PW_VERSION_CORE_METHODS,
                                       listen<pw_core_events>,
                                       nullptr,
                                       sync,
                                       nullptr,
                                       nullptr,
                                       registry,
                                       create,
                                       nullptr};
  if (!pipeWireServer().runs) return nullptr;
  return static_cast<pw_core*>(made(Kind::Core, reinterpret_cast<Context*>(context)->loop, &methods));
}

void pw_proxy_destroy(pw_proxy* proxy) {
  const std::lock_guard guard(everything);
  const Proxy* const gone = proxyOf(proxy);
  if (gone->kind == Kind::Link) pipeWireServer().links.erase(gone->link);
  proxies.remove_if([&](const Proxy& each) { return &each == gone; });
  --pipeWireServer().proxiesHeld;
}

int pw_core_disconnect(pw_core* core) {
  pw_proxy_destroy(reinterpret_cast<pw_proxy*>(core));
  return 0;
}

pw_properties* pw_properties_new_dict(const spa_dict* dictionary) {
  return reinterpret_cast<pw_properties*>(new Properties(propertiesOf(dictionary)));
}

pw_filter* pw_filter_new(pw_core* core, const char* name, pw_properties* properties) {
  const Properties wanted = taken(properties);
  if (!pipeWireServer().filtersAreMade) return nullptr;
  OpenFilter& filter = filters.emplace_back();
  filter.told.name = name;
  filter.told.properties = wanted;
  filter.loop = reinterpret_cast<Proxy*>(core)->loop;
  ++pipeWireServer().filtersHeld;
  return reinterpret_cast<pw_filter*>(&filter);
}

void pw_filter_destroy(pw_filter* filter) {
  auto* const gone = reinterpret_cast<OpenFilter*>(filter);
  const std::uint32_t id = gone->told.id;
  const auto ports = static_cast<std::uint32_t>(gone->told.ports.size());
  const bool connected = gone->connected;
  filters.remove_if([&](const OpenFilter& each) { return &each == gone; });
  --pipeWireServer().filtersHeld;
  for (std::uint32_t i = 0; connected && i <= ports; ++i) pipeWireServer().remove(id + ports - i);
}

void pw_filter_add_listener(pw_filter* filter, spa_hook*, const pw_filter_events* events, void* with) {
  reinterpret_cast<OpenFilter*>(filter)->events = events;
  reinterpret_cast<OpenFilter*>(filter)->with = with;
}

void* pw_filter_add_port(pw_filter* filter, pw_direction direction, pw_filter_port_flags, std::size_t bytes,
                         pw_properties* properties, const spa_pod**, std::uint32_t) {
  const Properties wanted = taken(properties);
  if (--pipeWireServer().roomForPorts < 0) return nullptr;
  PipeWireServer::FilterPort& port = reinterpret_cast<OpenFilter*>(filter)->told.ports.emplace_back();
  port.name = wanted.at(PW_KEY_PORT_NAME);
  port.format = wanted.at(PW_KEY_FORMAT_DSP);
  port.output = direction == PW_DIRECTION_OUTPUT;
  port.memory.resize(bytes);
  return port.memory.data();
}

int pw_filter_connect(pw_filter* filter, pw_filter_flags flags, const spa_pod**, std::uint32_t) {
  if (!pipeWireServer().filtersConnect || (flags & PW_FILTER_FLAG_RT_PROCESS) == 0) return -1;
  auto* const connecting = reinterpret_cast<OpenFilter*>(filter);
  connecting->loop->tasks.push_back([connecting] {
    for (OpenFilter& each : filters)
      if (&each == connecting) settle(each);
  });
  return 0;
}

std::uint32_t pw_filter_get_node_id(pw_filter* filter) {
  return reinterpret_cast<OpenFilter*>(filter)->told.id;
}

void* pw_filter_get_dsp_buffer(void* memory, std::uint32_t frames) {
  PipeWireServer::FilterPort& port = *portAt(memory);
  if (!port.bufferThere) return nullptr;
  port.buffer.resize(frames);
  return port.buffer.data();
}

pw_buffer* pw_filter_dequeue_buffer(void* memory) {
  PipeWireServer::FilterPort& port = *portAt(memory);
  if (!port.bufferThere) return nullptr;
  static spa_chunk chunk{};
  static spa_data data{};
  static spa_buffer whole{};
  static pw_buffer buffer{};
  const auto bytes = static_cast<std::uint32_t>(port.sequence.size());
  chunk = {0, bytes, 0, 0};
  data = {};
  data.maxsize = bytes;
  data.data = port.sequence.empty() ? nullptr : port.sequence.data();
  data.chunk = &chunk;
  whole = {};
  whole.n_datas = 1;
  whole.datas = &data;
  buffer = {};
  buffer.buffer = &whole;
  ++pipeWireServer().buffersHeld;
  return &buffer;
}

int pw_filter_queue_buffer(void*, pw_buffer*) {
  --pipeWireServer().buffersHeld;
  return 0;
}
}
