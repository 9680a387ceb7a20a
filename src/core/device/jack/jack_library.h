// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <jack/jack.h>
#include <jack/midiport.h>

#include <memory>
#include <string>
#include <vector>

#include "core/device/shared_library.h"

namespace yewdrift {

// clang-format off
#define YEWDRIFT_JACK_FUNCTIONS(USE) \
  USE(jack_client_open) USE(jack_client_close) USE(jack_activate) USE(jack_deactivate) \
  USE(jack_port_register) USE(jack_port_name) USE(jack_port_flags) USE(jack_port_by_name) \
  USE(jack_port_get_buffer) USE(jack_port_get_all_connections) USE(jack_port_get_latency_range) \
  USE(jack_get_ports) USE(jack_get_client_name) USE(jack_connect) USE(jack_free) USE(jack_get_sample_rate) \
  USE(jack_get_buffer_size) USE(jack_set_process_callback) USE(jack_set_xrun_callback) USE(jack_last_frame_time) \
  USE(jack_set_sample_rate_callback) USE(jack_on_info_shutdown) USE(jack_set_port_registration_callback) \
  USE(jack_set_port_connect_callback) USE(jack_set_error_function) USE(jack_set_info_function) \
  USE(jack_midi_get_event_count) USE(jack_midi_event_get)
// clang-format on

/// The functions of JACK's library that are used here, called as it names them; PipeWire has a library of the
/// same name.
struct JackLibrary {
// A name that is declared cannot stand in parentheses. NOLINTNEXTLINE(bugprone-macro-parentheses)
#define USE(name) decltype(&::name) name = nullptr;
  YEWDRIFT_JACK_FUNCTIONS(USE)
#undef USE

  /// Null where this machine has no JACK.
  static const JackLibrary* get() {
    static const JackLibrary loaded;
    return loaded.library_.open() ? &loaded : nullptr;
  }

  /// The names of ports, in the server's order.
  [[nodiscard]] std::vector<std::string> ports(jack_client_t* client, const char* type,
                                               unsigned long flags) const {
    return taken(this->jack_get_ports(client, nullptr, type, flags));
  }
  /// The names of the ports that a port is connected to.
  [[nodiscard]] std::vector<std::string> connectionsOf(jack_client_t* client, jack_port_t* port) const {
    return taken(this->jack_port_get_all_connections(client, port));
  }

  struct Close {
    const JackLibrary* library = nullptr;
    void operator()(jack_client_t* client) const {
      library->jack_deactivate(client);
      library->jack_client_close(client);
    }
  };
  using Client = std::unique_ptr<jack_client_t, Close>;
  /// A client of the running server; null where none runs.
  [[nodiscard]] Client open(const char* name) const {
    return Client(this->jack_client_open(name, JackNoStartServer, nullptr), Close{this});
  }

 private:
  [[nodiscard]] std::vector<std::string> taken(const char** names) const {
    std::vector<std::string> all;
    for (int i = 0; names && names[i]; ++i) all.emplace_back(names[i]);
    if (names) this->jack_free(names);
    return all;
  }
  JackLibrary() {
#define USE(name) library_.load(#name, this->name);
    YEWDRIFT_JACK_FUNCTIONS(USE)
#undef USE
    if (!library_.open()) return;
    // The library complains on standard error where there is no server; that is no error here.
    this->jack_set_error_function([](const char*) {});
    this->jack_set_info_function([](const char*) {});
  }
  SharedLibrary library_{"libjack.so.0"};
};

}  // namespace yewdrift
