// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "core/device/audio_driver.h"
#include "core/device/pipewire/pipewire_library.h"

namespace yewdrift {

/// What a PipeWire server has now, kept up to date by a connection with a thread of its own. The functions
/// may be called on any other thread.
class PipeWireGraph {
 public:
  struct Node {
    std::string name;
    std::string shown;
    std::string mediaClass;
  };
  struct Port {
    std::uint32_t node = 0;
    std::uint32_t number = 0;  // in its node
    std::string name;
    bool output = false;
    bool monitor = false;
    bool midi = false;
  };

  /// Connects and waits until all that is there is known. `changed` is called on the connection's thread,
  /// with its lock held. Throws Error where no server runs.
  explicit PipeWireGraph(std::function<void()> changed = {});
  ~PipeWireGraph();
  PipeWireGraph(const PipeWireGraph&) = delete;
  PipeWireGraph& operator=(const PipeWireGraph&) = delete;

  [[nodiscard]] DriverListing listing() const;

  // -- with lock() held
  [[nodiscard]] const std::map<std::uint32_t, Node>& nodes() const { return nodes_; }
  [[nodiscard]] const std::map<std::uint32_t, Port>& ports() const { return ports_; }
  /// The ids of a node's ports of one direction, in order. Virtual sources give what they capture through
  /// monitors: where a node has none but those, they are what `monitor` = false means.
  [[nodiscard]] std::vector<std::uint32_t> portsOf(std::uint32_t node, bool output, bool monitor) const;
  /// Connects two ports for as long as this connection lives.
  void link(std::uint32_t from, std::uint32_t to);
  /// Waits, at most that long, until something was heard of the server that makes `done` true.
  bool waitUntil(double seconds, const std::function<bool()>& done);
  [[nodiscard]] pw_core* core() const { return core_; }
  [[nodiscard]] pw_registry* registry() const { return registry_; }

  class Lock {
   public:
    explicit Lock(const PipeWireGraph& graph) : graph_(graph) {
      graph_.library_.pw_thread_loop_lock(graph_.loop_);
    }
    ~Lock() { graph_.library_.pw_thread_loop_unlock(graph_.loop_); }
    Lock(const Lock&) = delete;
    Lock& operator=(const Lock&) = delete;

   private:
    const PipeWireGraph& graph_;
  };
  [[nodiscard]] Lock lock() const { return Lock(*this); }
  void wake() { library_.pw_thread_loop_signal(loop_, false); }

 private:
  struct Events;
  void close();
  void tell();
  [[nodiscard]] std::vector<std::uint32_t> exactPortsOf(std::uint32_t node, bool output, bool monitor) const;

  const PipeWireLibrary& library_;
  std::function<void()> changed_;
  pw_thread_loop* loop_ = nullptr;
  pw_context* context_ = nullptr;
  pw_core* core_ = nullptr;
  pw_registry* registry_ = nullptr;
  std::vector<pw_proxy*> proxies_;  // metadata and links
  std::unique_ptr<Events> events_;
  std::map<std::uint32_t, Node> nodes_;
  std::map<std::uint32_t, Port> ports_;
  std::string defaultSource_;
  std::string defaultSink_;
  bool connected_ = true;
  int synced_ = 0;
};

}  // namespace yewdrift
