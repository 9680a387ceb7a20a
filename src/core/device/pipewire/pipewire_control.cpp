// SPDX-License-Identifier: GPL-3.0-or-later
#include <spa/control/control.h>
#include <spa/pod/iter.h>

#include <mutex>
#include <set>
#include <utility>

#include "core/device/control_source.h"
#include "core/device/pipewire/pipewire_graph.h"
#include "core/error.h"

namespace yewdrift {
namespace {

constexpr const char* ownName = "Yewdrift control";

class PipeWireControl : public ControlSource {
 public:
  explicit PipeWireControl(Heard heard) : heard_(std::move(heard)), graph_([this] { look(); }) {
    const PipeWireGraph::Lock guard(graph_);
    const spa_dict_item items[] = {{PW_KEY_MEDIA_TYPE, "Midi"},          {PW_KEY_MEDIA_CATEGORY, "Capture"},
                                   {PW_KEY_NODE_NAME, ownName},          {PW_KEY_NODE_DESCRIPTION, ownName},
                                   {PW_KEY_NODE_ALWAYS_PROCESS, "true"}, {PW_KEY_NODE_WANT_DRIVER, "true"}};
    const spa_dict properties{0, 6, items};
    filter_ = library().pw_filter_new(graph_.core(), ownName, library().pw_properties_new_dict(&properties));
    if (!filter_) throw Error("PipeWire refused to listen for controls.");
    static const pw_filter_events events = [] {
      pw_filter_events made{};
      made.version = PW_VERSION_FILTER_EVENTS;
      made.process = &PipeWireControl::process;
      return made;
    }();
    library().pw_filter_add_listener(filter_, &hook_, &events, this);
    const spa_dict_item portItems[] = {{PW_KEY_FORMAT_DSP, "8 bit raw midi"}, {PW_KEY_PORT_NAME, "control"}};
    const spa_dict portProperties{0, 2, portItems};
    port_ = library().pw_filter_add_port(filter_, PW_DIRECTION_INPUT, PW_FILTER_PORT_FLAG_MAP_BUFFERS,
                                         sizeof(int), library().pw_properties_new_dict(&portProperties),
                                         nullptr, 0);
    if (!port_ || library().pw_filter_connect(filter_, PW_FILTER_FLAG_RT_PROCESS, nullptr, 0) < 0) {
      library().pw_filter_destroy(std::exchange(filter_, nullptr));
      throw Error("PipeWire refused to listen for controls.");
    }
    look();
  }
  ~PipeWireControl() override {
    const PipeWireGraph::Lock guard(graph_);
    // What goes with it is told of meanwhile, and asks for it no more.
    library().pw_filter_destroy(std::exchange(filter_, nullptr));
  }
  PipeWireControl(const PipeWireControl&) = delete;
  PipeWireControl& operator=(const PipeWireControl&) = delete;

  [[nodiscard]] std::vector<std::string> names() const override {
    const PipeWireGraph::Lock guard(graph_);
    std::vector<std::string> names{std::string("PipeWire: ") + ownName};
    for (const std::uint32_t id : linked_) {
      const PipeWireGraph::Port& port = graph_.ports().at(id);
      const auto node = graph_.nodes().find(port.node);
      names.push_back("PipeWire: " +
                      (node == graph_.nodes().end() ? std::string() : node->second.shown + " ") + port.name);
    }
    return names;
  }

 private:
  static const PipeWireLibrary& library() { return *PipeWireLibrary::get(); }

  /// On the connection's thread, or with its lock: every MIDI output that has come is linked to our input.
  void look() {
    if (!filter_) return;
    const std::uint32_t own = library().pw_filter_get_node_id(filter_);
    std::uint32_t input = 0;
    for (const auto& [id, port] : graph_.ports())
      if (port.node == own && port.midi && !port.output) input = id;
    std::erase_if(linked_, [&](std::uint32_t id) { return !graph_.ports().contains(id); });
    if (input == 0) return;
    for (const auto& [id, port] : graph_.ports())
      if (port.midi && port.output && !port.monitor && linked_.insert(id).second) graph_.link(id, input);
  }

  static void process(void* self, spa_io_position*) {
    auto* me = static_cast<PipeWireControl*>(self);
    pw_buffer* buffer = library().pw_filter_dequeue_buffer(me->port_);
    if (!buffer) return;
    const spa_data& data = buffer->buffer->datas[0];
    auto* pod = data.data ? static_cast<spa_pod*>(spa_pod_from_data(data.data, data.maxsize,
                                                                    data.chunk->offset, data.chunk->size))
                          : nullptr;
    if (pod && spa_pod_is_sequence(pod)) {
      auto* sequence = reinterpret_cast<spa_pod_sequence*>(pod);
      spa_pod_control* control = nullptr;
      SPA_POD_SEQUENCE_FOREACH(sequence, control) {
        if (control->type != SPA_CONTROL_Midi) continue;
        me->heard_({static_cast<const unsigned char*>(SPA_POD_BODY(&control->value)),
                    SPA_POD_BODY_SIZE(&control->value)});
      }
    }
    library().pw_filter_queue_buffer(me->port_, buffer);
  }

  Heard heard_;
  std::set<std::uint32_t> linked_;
  spa_hook hook_{};
  pw_filter* filter_ = nullptr;
  void* port_ = nullptr;
  PipeWireGraph graph_;
};

}  // namespace

std::unique_ptr<ControlSource> openPipeWireControl(ControlSource::Heard heard) {
  try {
    return std::make_unique<PipeWireControl>(std::move(heard));
  } catch (const Error&) {
    return nullptr;
  }
}

}  // namespace yewdrift
