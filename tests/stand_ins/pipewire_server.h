// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <functional>
#include <list>
#include <map>
#include <memory>
#include <set>
#include <string>
#include <utility>
#include <vector>

namespace yewdrift::test {

/// A PipeWire server that is none. The library beside it has the name of PipeWire's, so that this program
/// loads it in its place; it does what PipeWire's documentation says of its functions (pipewire/core.h,
/// filter.h, thread-loop.h, extensions/metadata.h), and says what is set here. All members are read with its
/// lock held, which within() takes.
struct PipeWireServer {
  using Properties = std::map<std::string, std::string>;
  struct Object {
    std::string type;  // "Node", "Port", "Metadata", or what else there may be
    Properties properties;
    std::vector<std::pair<std::string, std::string>> says{};  // of metadata
  };
  struct FilterPort {
    std::string name;
    bool output = false;
    std::string format;
    std::vector<char> memory{};  // the client's
    std::vector<float> buffer{};
    bool bufferThere = true;
    std::vector<std::uint8_t> sequence{};  // of controls, for the coming cycle
  };
  struct Filter {
    std::string name;
    Properties properties;
    std::list<FilterPort> ports{};
    std::uint32_t id = 0xFFFFFFFF;  // of its node, once it is connected
  };
  enum class State { Error, Streaming };

  bool runs = false;
  bool loopsStart = true;
  bool contextsAreMade = true;
  bool filtersAreMade = true;
  int roomForPorts = 1000;
  bool filtersConnect = true;
  bool pumps = true;  // filters that are connected are called
  std::map<std::uint32_t, Object> objects;
  std::set<std::pair<std::uint32_t, std::uint32_t>> links;
  std::uint32_t frames = 256;  // of a cycle
  std::uint32_t rate = 48000;
  std::uint32_t clock = 7;
  std::uint64_t position = 1000;
  int clients = 0;
  int filtersHeld = 0;
  int proxiesHeld = 0;
  int buffersHeld = 0;
  std::string configuration;  // that the last client asked for

  void within(const std::function<void()>& what);
  void add(std::uint32_t id, Object object);
  void addPort(std::uint32_t id, std::uint32_t node, int number, bool output, bool monitor = false,
               const std::string& format = "32 bit float mono audio");
  void remove(std::uint32_t id);
  [[nodiscard]] Filter* filter(const std::string& name) const;
  [[nodiscard]] FilterPort* port(const std::string& filter, const std::string& name) const;
  /// Every filter that is connected is called once, and the clock goes on.
  void cycle();
  /// Controls of that type each, as MIDI is 2 among SPA's.
  void send(const std::string& filter, const std::string& port,
            const std::vector<std::pair<std::uint32_t, std::vector<std::uint8_t>>>& controls);
  /// What lies before (`outputs`) or behind a port of a filter.
  void tellLatency(const std::string& filter, const std::string& port, bool outputs, float quantum,
                   int frames, std::int64_t nanoseconds);
  void tellMuted(std::uint32_t node, bool muted);
  void metadataSays(std::uint32_t id, const char* key, const char* value);
  void failCore(std::uint32_t id, int result);
  void become(const std::string& filter, State state, const char* reason);
};

PipeWireServer& pipeWireServer();
/// The same as at the beginning: none runs.
PipeWireServer& freshPipeWireServer();

}  // namespace yewdrift::test
