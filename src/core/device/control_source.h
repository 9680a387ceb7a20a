// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace yewdrift {

/// One MIDI system, listened to as long as this lives.
class ControlSource {
 public:
  /// The bytes of one message, on a thread of the system.
  using Heard = std::function<void(std::span<const unsigned char>)>;
  virtual ~ControlSource() = default;
  /// What it listens to now: the system's name and what is plugged in.
  [[nodiscard]] virtual std::vector<std::string> names() const = 0;
};

/// Each is null where its system does not run here.
std::unique_ptr<ControlSource> openPipeWireControl(ControlSource::Heard heard);
std::unique_ptr<ControlSource> openJackControl(ControlSource::Heard heard);
std::unique_ptr<ControlSource> openAlsaControl(ControlSource::Heard heard);

}  // namespace yewdrift
