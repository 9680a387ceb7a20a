// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/control_input.h"

#include <RtMidi.h>
#include <jack/jack.h>
#include <jack/midiport.h>

#include <cstdio>
#include <filesystem>

namespace yewdrift {
namespace {

constexpr const char* clientName = "Yewdrift";
constexpr const char* ownPort = "control";

void ignoreErrors(RtMidiError::Type, const std::string&, void*) {}

/// A client of the JACK server with one MIDI input. The MIDI library has one too, but closes its port while
/// messages may still be read from it.
class JackControl {
 public:
  using Heard = std::function<void(const std::vector<unsigned char>&)>;

  /// Null where no server is running.
  static std::unique_ptr<JackControl> open(Heard heard) {
    // The library complains on standard error where there is no server; that is no error here.
    jack_set_error_function([](const char*) {});
    jack_set_info_function([](const char*) {});
    jack_client_t* client = jack_client_open(clientName, JackNoStartServer, nullptr);
    return client ? std::unique_ptr<JackControl>(new JackControl(client, std::move(heard))) : nullptr;
  }
  ~JackControl() {
    jack_deactivate(client_);
    jack_client_close(client_);
  }
  JackControl(const JackControl&) = delete;
  JackControl& operator=(const JackControl&) = delete;

 private:
  JackControl(jack_client_t* client, Heard heard) : client_(client), heard_(std::move(heard)) {
    port_ = jack_port_register(client_, ownPort, JACK_DEFAULT_MIDI_TYPE, JackPortIsInput, 0);
    jack_set_process_callback(client_, &JackControl::process, this);
    jack_activate(client_);
    const char** sources =
        jack_get_ports(client_, nullptr, JACK_DEFAULT_MIDI_TYPE, JackPortIsOutput | JackPortIsPhysical);
    for (int i = 0; port_ && sources && sources[i]; ++i)
      jack_connect(client_, sources[i], jack_port_name(port_));
    jack_free(sources);
  }

  static int process(jack_nframes_t frames, void* self) {
    auto* me = static_cast<JackControl*>(self);
    void* buffer = me->port_ ? jack_port_get_buffer(me->port_, frames) : nullptr;
    if (!buffer) return 0;
    for (jack_nframes_t i = 0; i < jack_midi_get_event_count(buffer); ++i) {
      jack_midi_event_t event;
      if (jack_midi_event_get(&event, buffer, i) == 0) me->heard_({event.buffer, event.buffer + event.size});
    }
    return 0;
  }

  jack_client_t* client_;
  Heard heard_;
  jack_port_t* port_ = nullptr;
};

}  // namespace

bool controlFromBytes(const std::vector<unsigned char>& bytes, ControlMessage& message) {
  if (bytes.size() < 2) return false;
  const int status = bytes[0] & 0xF0;
  message.channel = bytes[0] & 0x0F;
  message.number = bytes[1] & 0x7F;
  if (status == 0xC0) {
    message.kind = ControlMessage::Kind::Program;
    message.value = 127;
    return true;
  }
  if (bytes.size() < 3) return false;
  message.value = bytes[2] & 0x7F;
  if (status == 0x90 || status == 0x80) {
    message.kind = ControlMessage::Kind::Note;
    if (status == 0x80) message.value = 0;
    return true;
  }
  if (status != 0xB0) return false;
  message.kind = ControlMessage::Kind::Controller;
  return message.number < 120;  // above are mode messages, which no pedal sends
}

std::string controlText(const ControlMessage& control) {
  const char* kind = control.kind == ControlMessage::Kind::Note      ? "note"
                     : control.kind == ControlMessage::Kind::Program ? "program"
                                                                     : "controller";
  return std::string(kind) + " " + std::to_string(control.number) + " on channel " +
         std::to_string(control.channel + 1);
}

std::string controlKey(const ControlMessage& control) {
  const char* kind = control.kind == ControlMessage::Kind::Note      ? "note"
                     : control.kind == ControlMessage::Kind::Program ? "pc"
                                                                     : "cc";
  return std::string(kind) + " " + std::to_string(control.channel) + " " + std::to_string(control.number);
}

bool controlFromKey(const std::string& key, ControlMessage& control) {
  char kind[8] = {};
  if (std::sscanf(key.c_str(), "%7s %d %d", kind, &control.channel, &control.number) != 3) return false;
  const std::string name = kind;
  if (name != "note" && name != "cc" && name != "pc") return false;
  control.kind = name == "note" ? ControlMessage::Kind::Note
                 : name == "pc" ? ControlMessage::Kind::Program
                                : ControlMessage::Kind::Controller;
  return control.channel >= 0 && control.channel < 16 && control.number >= 0 && control.number < 128;
}

struct ControlInput::Ports {
  std::function<void(ControlMessage)> received;
  std::vector<std::unique_ptr<RtMidiIn>> open;
  std::unique_ptr<JackControl> jack;
  std::vector<std::string> names;

  void hear(const std::vector<unsigned char>& bytes) const {
    ControlMessage message;
    if (controlFromBytes(bytes, message)) received(message);
  }
  static void heard(double, std::vector<unsigned char>* bytes, void* self) {
    if (bytes) static_cast<const Ports*>(self)->hear(*bytes);
  }

  std::unique_ptr<RtMidiIn> alsaClient() {
    auto made = std::make_unique<RtMidiIn>(RtMidi::LINUX_ALSA, clientName);
    made->setErrorCallback(&ignoreErrors, nullptr);
    made->setCallback(&Ports::heard, this);
    return made;
  }

  void openAlsa() {
    auto own = alsaClient();
    own->openVirtualPort(ownPort);
    names.push_back(std::string("ALSA: ") + clientName + " " + ownPort);
    for (unsigned i = 0; i < own->getPortCount(); ++i) {
      const std::string name = own->getPortName(i);
      if (name.find(clientName) != std::string::npos) continue;
      auto port = alsaClient();
      port->openPort(i);
      names.push_back("ALSA: " + name);
      open.push_back(std::move(port));
    }
    open.push_back(std::move(own));
  }
};

ControlInput::ControlInput(std::function<void(ControlMessage)> received) : ports_(std::make_unique<Ports>()) {
  ports_->received = std::move(received);
  ports_->jack = JackControl::open([ports = ports_.get()](const auto& bytes) { ports->hear(bytes); });
  if (ports_->jack) ports_->names.push_back(std::string("JACK: ") + clientName + " " + ownPort);
  // Without its sequencer the library would only complain.
  if (!std::filesystem::exists("/dev/snd/seq")) return;
  try {
    ports_->openAlsa();
  } catch (const RtMidiError&) {
    ports_->open.clear();  // a system without it has JACK
  }
}

ControlInput::~ControlInput() = default;

std::vector<std::string> ControlInput::sources() const {
  return ports_->names;
}

}  // namespace yewdrift
