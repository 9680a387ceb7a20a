// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <cstdint>
#include <functional>
#include <memory>
#include <mutex>
#include <set>
#include <string>
#include <utility>
#include <vector>

namespace yewdrift::test {

/// A JACK server that is none. The library beside it has the name of JACK's, so that this program loads it in
/// its place, and says what is set here, as JACK's documentation tells of its functions (jack.h, midiport.h).
/// Its clock is turned by hand.
struct JackServer {
  struct Port {
    std::string name;  // whole
    bool midi = false;
    unsigned long flags = 0;
    unsigned captureLatency = 0;
    unsigned playbackLatency = 0;
    std::vector<float> buffer{};
    std::vector<std::vector<unsigned char>> messages{};  // in the coming cycle
  };
  struct Client {
    std::string name;
    bool active = false;
    std::function<void(unsigned)> process;
    std::function<void()> xrun;
    std::function<void(unsigned)> rateChanged;
    std::function<void(const char*)> ended;
    std::function<void(bool)> portRegistered;
    std::function<void()> portConnected;
  };
  using Connection = std::pair<std::string, std::string>;  // from an output to an input

  bool runs = false;
  bool activates = true;
  bool calls = true;  // two cycles when a client is activated
  unsigned rate = 48000;
  unsigned frames = 64;     // of a cycle
  unsigned clock = 1000;    // of the coming cycle
  int roomForPorts = 1000;  // registered by clients
  std::vector<std::unique_ptr<Port>> ports;
  std::vector<std::unique_ptr<Client>> clients;
  std::set<Connection> connections;
  int closed = 0;                  // clients
  std::atomic<int> arraysHeld{0};  // given out and not freed yet
  std::mutex mutex;                // ports and connections

  void addPort(const std::string& name, unsigned long flags, bool midi = false);
  void removePort(const std::string& name);
  [[nodiscard]] Port* port(const std::string& name);
  [[nodiscard]] Client* client(const std::string& name);
  [[nodiscard]] std::vector<Connection> connected();
  /// Every active client is called once, and the clock goes on.
  void cycle();
  void connect(const std::string& from, const std::string& to);
};

/// The one there is.
JackServer& jackServer();
/// The same as at the beginning: none runs.
JackServer& freshJackServer();

}  // namespace yewdrift::test
