// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/control_input.h"

#include <cstdio>

#include "core/device/control_source.h"

namespace yewdrift {
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

ControlInput::ControlInput(std::function<void(ControlMessage)> received) : received_(std::move(received)) {
  using Heard = ControlSource::Heard;
  const auto heardBy = [this](int system) -> Heard {
    return [this, system](std::span<const unsigned char> bytes) { hear(system, bytes); };
  };
  int system = 0;
  for (const auto& open : {&openPipeWireControl, &openJackControl, &openAlsaControl}) {
    if (auto source = open(heardBy(++system))) sources_.push_back(std::move(source));
  }
}

ControlInput::~ControlInput() = default;

std::vector<std::string> ControlInput::sources() const {
  std::vector<std::string> names;
  for (const auto& source : sources_)
    for (std::string& name : source->names()) names.push_back(std::move(name));
  return names;
}

bool PressEchoes::isEcho(int system, const ControlMessage& message, Time now) {
  const bool echo = system_ != 0 && system != system_ && last_.sameControl(message) &&
                    last_.value == message.value && now - at_ < window;
  if (echo) return true;
  system_ = system;
  last_ = message;
  at_ = now;
  return false;
}

void ControlInput::hear(int system, std::span<const unsigned char> bytes) {
  ControlMessage message;
  if (!controlFromBytes({bytes.begin(), bytes.end()}, message)) return;
  {
    const std::lock_guard guard(mutex_);
    if (echoes_.isEcho(system, message, std::chrono::steady_clock::now())) return;
  }
  received_(message);
}

}  // namespace yewdrift
