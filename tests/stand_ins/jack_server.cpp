// SPDX-License-Identifier: GPL-3.0-or-later
#include "jack_server.h"

#include <jack/jack.h>
#include <jack/midiport.h>

#include <algorithm>

namespace yewdrift::test {
namespace {

std::unique_ptr<JackServer>& present() {
  static auto server = std::make_unique<JackServer>();
  return server;
}

JackServer::Port* portOf(const jack_port_t* port) {
  return reinterpret_cast<JackServer::Port*>(const_cast<jack_port_t*>(port));
}
JackServer::Client* clientOf(const jack_client_t* client) {
  return reinterpret_cast<JackServer::Client*>(const_cast<jack_client_t*>(client));
}

/// Null where there is nothing, as JACK has it.
const char** arrayOf(const std::vector<std::string>& names) {
  if (names.empty()) return nullptr;
  ++jackServer().arraysHeld;
  auto* const array = new std::vector<std::string>(names);
  // What was given out is found again by the pointer before its first.
  auto** const out = new const char*[names.size() + 2];
  out[0] = reinterpret_cast<const char*>(array);
  for (std::size_t i = 0; i < names.size(); ++i) out[i + 1] = (*array)[i].c_str();
  out[names.size() + 1] = nullptr;
  return out + 1;
}

void tellOfPorts(bool registered) {
  for (const auto& client : jackServer().clients)
    if (client->active && client->portRegistered) client->portRegistered(registered);
}

}  // namespace

JackServer& jackServer() {
  return *present();
}

JackServer& freshJackServer() {
  present() = std::make_unique<JackServer>();
  return *present();
}

void JackServer::addPort(const std::string& name, unsigned long flags, bool midi) {
  {
    const std::lock_guard guard(mutex);
    ports.push_back(std::make_unique<Port>(Port{name, midi, flags}));
  }
  tellOfPorts(true);
}

void JackServer::removePort(const std::string& name) {
  {
    const std::lock_guard guard(mutex);
    std::erase_if(ports, [&](const auto& each) { return each->name == name; });
    std::erase_if(connections,
                  [&](const Connection& each) { return each.first == name || each.second == name; });
  }
  tellOfPorts(false);
}

JackServer::Port* JackServer::port(const std::string& name) {
  const auto found =
      std::find_if(ports.begin(), ports.end(), [&](const auto& each) { return each->name == name; });
  return found == ports.end() ? nullptr : found->get();
}

JackServer::Client* JackServer::client(const std::string& name) {
  const auto found =
      std::find_if(clients.begin(), clients.end(), [&](const auto& each) { return each->name == name; });
  return found == clients.end() ? nullptr : found->get();
}

std::vector<JackServer::Connection> JackServer::connected() {
  const std::lock_guard guard(mutex);
  return {connections.begin(), connections.end()};
}

void JackServer::cycle() {
  for (const auto& client : clients)
    if (client->active && client->process) client->process(frames);
  clock += frames;
  for (const auto& each : ports) each->messages.clear();
}

void JackServer::connect(const std::string& from, const std::string& to) {
  {
    const std::lock_guard guard(mutex);
    connections.insert({from, to});
  }
  for (const auto& client : clients)
    if (client->active && client->portConnected) client->portConnected();
}

}  // namespace yewdrift::test

using namespace yewdrift::test;

extern "C" {

jack_client_t* jack_client_open(const char* name, jack_options_t options, jack_status_t*, ...) {
  if (!jackServer().runs || (options & JackNoStartServer) == 0) return nullptr;
  auto client = std::make_unique<JackServer::Client>();
  client->name = name;
  jackServer().clients.push_back(std::move(client));
  return reinterpret_cast<jack_client_t*>(jackServer().clients.back().get());
}

int jack_client_close(jack_client_t* client) {
  JackServer& server = jackServer();
  const std::string own = clientOf(client)->name + ":";
  {
    const std::lock_guard guard(server.mutex);
    std::erase_if(server.ports, [&](const auto& port) { return port->name.starts_with(own); });
    std::erase_if(server.connections, [&](const JackServer::Connection& each) {
      return each.first.starts_with(own) || each.second.starts_with(own);
    });
  }
  std::erase_if(server.clients, [&](const auto& each) { return each.get() == clientOf(client); });
  ++server.closed;
  return 0;
}

int jack_activate(jack_client_t* client) {
  if (!jackServer().activates) return -1;
  clientOf(client)->active = true;
  for (int i = 0; i < 2 && jackServer().calls; ++i) jackServer().cycle();
  return 0;
}

int jack_deactivate(jack_client_t* client) {
  clientOf(client)->active = false;
  return 0;
}

char* jack_get_client_name(jack_client_t* client) {
  return clientOf(client)->name.data();
}

jack_port_t* jack_port_register(jack_client_t* client, const char* name, const char* type,
                                unsigned long flags, unsigned long) {
  JackServer& server = jackServer();
  if (--server.roomForPorts < 0) return nullptr;
  const std::lock_guard guard(server.mutex);
  server.ports.push_back(std::make_unique<JackServer::Port>(JackServer::Port{
      clientOf(client)->name + ":" + name, std::string(type) == JACK_DEFAULT_MIDI_TYPE, flags}));
  return reinterpret_cast<jack_port_t*>(server.ports.back().get());
}

const char* jack_port_name(const jack_port_t* port) {
  return portOf(port)->name.c_str();
}

int jack_port_flags(const jack_port_t* port) {
  return static_cast<int>(portOf(port)->flags);
}

jack_port_t* jack_port_by_name(jack_client_t*, const char* name) {
  const std::lock_guard guard(jackServer().mutex);
  return reinterpret_cast<jack_port_t*>(jackServer().port(name));
}

void* jack_port_get_buffer(jack_port_t* port, jack_nframes_t frames) {
  JackServer::Port& at = *portOf(port);
  if (at.midi) return &at;
  at.buffer.resize(frames);
  return at.buffer.data();
}

const char** jack_port_get_all_connections(const jack_client_t*, const jack_port_t* port) {
  std::vector<std::string> others;
  const std::string& own = portOf(port)->name;
  for (const auto& [from, to] : jackServer().connected()) {
    if (from == own) others.push_back(to);
    if (to == own) others.push_back(from);
  }
  return arrayOf(others);
}

void jack_port_get_latency_range(jack_port_t* port, jack_latency_callback_mode_t mode,
                                 jack_latency_range_t* range) {
  const JackServer::Port& at = *portOf(port);
  const unsigned most = mode == JackCaptureLatency ? at.captureLatency : at.playbackLatency;
  *range = {most / 2, most};
}

const char** jack_get_ports(jack_client_t*, const char*, const char* type, unsigned long flags) {
  const std::lock_guard guard(jackServer().mutex);
  std::vector<std::string> names;
  for (const auto& port : jackServer().ports)
    if (port->midi == (std::string(type) == JACK_DEFAULT_MIDI_TYPE) && (port->flags & flags) == flags)
      names.push_back(port->name);
  return arrayOf(names);
}

int jack_connect(jack_client_t* client, const char* from, const char* to) {
  JackServer& server = jackServer();
  // Only an active client's ports can be connected.
  if (!clientOf(client)->active) return -1;
  const std::lock_guard guard(server.mutex);
  const JackServer::Port* const source = server.port(from);
  const JackServer::Port* const sink = server.port(to);
  if (!source || !sink || (source->flags & JackPortIsOutput) == 0 || (sink->flags & JackPortIsInput) == 0 ||
      source->midi != sink->midi)
    return -1;
  server.connections.insert({from, to});
  return 0;
}

void jack_free(void* array) {
  auto** const whole = static_cast<const char**>(array) - 1;
  delete reinterpret_cast<const std::vector<std::string>*>(whole[0]);
  delete[] whole;
  --jackServer().arraysHeld;
}

jack_nframes_t jack_get_sample_rate(jack_client_t*) {
  return jackServer().rate;
}

jack_nframes_t jack_get_buffer_size(jack_client_t*) {
  return jackServer().frames;
}

jack_nframes_t jack_last_frame_time(const jack_client_t*) {
  return jackServer().clock;
}

int jack_set_process_callback(jack_client_t* client, JackProcessCallback call, void* with) {
  clientOf(client)->process = [=](unsigned frames) { call(frames, with); };
  return 0;
}

int jack_set_xrun_callback(jack_client_t* client, JackXRunCallback call, void* with) {
  clientOf(client)->xrun = [=] { call(with); };
  return 0;
}

int jack_set_sample_rate_callback(jack_client_t* client, JackSampleRateCallback call, void* with) {
  clientOf(client)->rateChanged = [=](unsigned rate) { call(rate, with); };
  return 0;
}

void jack_on_info_shutdown(jack_client_t* client, JackInfoShutdownCallback call, void* with) {
  clientOf(client)->ended = [=](const char* reason) { call(JackServerFailed, reason, with); };
}

int jack_set_port_registration_callback(jack_client_t* client, JackPortRegistrationCallback call,
                                        void* with) {
  clientOf(client)->portRegistered = [=](bool registered) { call(0, registered ? 1 : 0, with); };
  return 0;
}

int jack_set_port_connect_callback(jack_client_t* client, JackPortConnectCallback call, void* with) {
  clientOf(client)->portConnected = [=] { call(0, 0, 1, with); };
  return 0;
}

void jack_set_error_function(void (*)(const char*)) {}
void jack_set_info_function(void (*)(const char*)) {}

jack_nframes_t jack_midi_get_event_count(void* buffer) {
  return static_cast<jack_nframes_t>(static_cast<JackServer::Port*>(buffer)->messages.size());
}

int jack_midi_event_get(jack_midi_event_t* event, void* buffer, uint32_t index) {
  auto& messages = static_cast<JackServer::Port*>(buffer)->messages;
  if (index >= messages.size() || messages[index].empty()) return -1;
  *event = {0, messages[index].size(), messages[index].data()};
  return 0;
}
}
