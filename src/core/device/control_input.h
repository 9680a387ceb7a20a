// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <chrono>
#include <functional>
#include <memory>
#include <mutex>
#include <span>
#include <string>
#include <vector>

namespace yewdrift {

/// What a foot switch or a MIDI control sent. A note, a controller or a program change of one channel is one
/// control; how hard or how far it was moved is its value.
struct ControlMessage {
  enum class Kind { Note, Controller, Program } kind = Kind::Controller;
  int channel = 0;  // 0..15
  int number = 0;   // 0..127
  int value = 0;    // 0..127; of a program change 127

  /// Pressed rather than let go: a note-on with velocity, a controller at 64 or above (MIDI 1.0: switches are
  /// on from 64).
  [[nodiscard]] bool pressed() const { return kind == Kind::Controller ? value >= 64 : value > 0; }
  /// The same control, whatever its value.
  [[nodiscard]] bool sameControl(const ControlMessage& other) const {
    return kind == other.kind && channel == other.channel && number == other.number;
  }
};

/// From the bytes of a MIDI message; false where it is none that a control would send.
bool controlFromBytes(const std::vector<unsigned char>& bytes, ControlMessage& message);

/// "controller 64 on channel 1", and back ("cc 0 64"): how bindings are stored.
std::string controlText(const ControlMessage& control);
std::string controlKey(const ControlMessage& control);
bool controlFromKey(const std::string& key, ControlMessage& control);

class ControlSource;

/// Tells a press that one system passes on from the press itself, which another system has brought already.
class PressEchoes {
 public:
  using Time = std::chrono::steady_clock::time_point;
  /// The same control and value, from another system than the last, within `window` of it.
  bool isEcho(int system, const ControlMessage& message, Time now);
  static constexpr std::chrono::milliseconds window{30};

 private:
  int system_ = 0;  // 0: nothing was heard yet
  ControlMessage last_;
  Time at_;
};

/// Listens to every MIDI output of PipeWire, JACK and ALSA's sequencer, as they come and go, and to an input
/// of its own, named "Yewdrift control", that others can be patched to. `received` is called on a thread of
/// the MIDI system. A press that several systems bring counts once.
class ControlInput {
 public:
  explicit ControlInput(std::function<void(ControlMessage)> received);
  ~ControlInput();
  ControlInput(const ControlInput&) = delete;
  ControlInput& operator=(const ControlInput&) = delete;

  /// What it listens to now, as shown to the user; empty where the system has no MIDI.
  [[nodiscard]] std::vector<std::string> sources() const;

 private:
  void hear(int system, std::span<const unsigned char> bytes);

  std::function<void(ControlMessage)> received_;
  std::mutex mutex_;
  PressEchoes echoes_;
  std::vector<std::unique_ptr<ControlSource>> sources_;  // last: they end before what they call goes
};

}  // namespace yewdrift
