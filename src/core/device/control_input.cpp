// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/control_input.h"

#include <RtMidi.h>
#include <jack/jack.h>

#include <cstdio>
#include <filesystem>

namespace yewdrift {
namespace {

constexpr const char* clientName = "Yewdrift";
constexpr const char* ownPort = "control";

void ignoreErrors(RtMidiError::Type, const std::string&, void*) {}

/// The libraries complain on standard error where their system is not there; so it is asked first.
bool isThere(RtMidi::Api api) {
  if (api == RtMidi::LINUX_ALSA) return std::filesystem::exists("/dev/snd/seq");
  if (api != RtMidi::UNIX_JACK) return false;
  jack_set_error_function([](const char*) {});
  jack_set_info_function([](const char*) {});
  jack_client_t* client = jack_client_open("yewdrift-probe", JackNoStartServer, nullptr);
  if (!client) return false;
  jack_client_close(client);
  return true;
}

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
  std::vector<std::string> names;

  static void heard(double, std::vector<unsigned char>* bytes, void* self) {
    ControlMessage message;
    if (bytes && controlFromBytes(*bytes, message)) static_cast<Ports*>(self)->received(message);
  }

  std::unique_ptr<RtMidiIn> client(RtMidi::Api api) {
    auto made = std::make_unique<RtMidiIn>(api, clientName);
    made->setErrorCallback(&ignoreErrors, nullptr);
    made->setCallback(&Ports::heard, this);
    return made;
  }

  void openAll(RtMidi::Api api) {
    auto own = client(api);
    own->openVirtualPort(ownPort);
    names.push_back(RtMidi::getApiDisplayName(api) + ": " + clientName + " " + ownPort);
    for (unsigned i = 0; i < own->getPortCount(); ++i) {
      const std::string name = own->getPortName(i);
      if (name.find(clientName) != std::string::npos) continue;
      auto port = client(api);
      port->openPort(i);
      names.push_back(RtMidi::getApiDisplayName(api) + ": " + name);
      open.push_back(std::move(port));
    }
    open.push_back(std::move(own));
  }
};

ControlInput::ControlInput(std::function<void(ControlMessage)> received) : ports_(std::make_unique<Ports>()) {
  ports_->received = std::move(received);
  std::vector<RtMidi::Api> apis;
  RtMidi::getCompiledApi(apis);
  for (const RtMidi::Api api : apis) {
    if (!isThere(api)) continue;
    try {
      ports_->openAll(api);
    } catch (const RtMidiError&) {
      continue;  // a system without it has other ways
    }
  }
}

ControlInput::~ControlInput() = default;

std::vector<std::string> ControlInput::sources() const {
  return ports_->names;
}

}  // namespace yewdrift
