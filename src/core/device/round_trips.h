// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <filesystem>
#include <optional>
#include <string>

#include "core/device/audio_device.h"

namespace yewdrift {

/// Measured round trips, kept for the user between sessions and shared by the window and the tool: one for
/// each driver, source, sink, rate and block.
class RoundTrips {
 public:
  /// `file`: JSON; it and its folder are made when something is stored.
  explicit RoundTrips(std::filesystem::path file) : file_(std::move(file)) {}
  /// Where the user's are: $XDG_CONFIG_HOME/yewdrift/round-trips.json.
  static RoundTrips ofUser();

  /// What was measured for a device opened with these settings, moved by what the device's own figure has
  /// changed since; none where nothing was measured. A damaged file counts as empty.
  [[nodiscard]] std::optional<Frames> find(const DeviceSettings& settings, Frames reported) const;
  /// Throws Error where it cannot be written.
  void store(const DeviceSettings& settings, Frames reported, Frames measured) const;

 private:
  std::filesystem::path file_;
};

}  // namespace yewdrift
