// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/device/audio_device.h"

namespace yewdrift {

/// The system's drivers that this machine offers now: of "JACK", "PulseAudio", "ALSA".
std::vector<std::string> systemDrivers();
/// The devices of a driver; empty where its server does not run.
std::vector<DeviceDescription> systemDevices(const std::string& driver);
/// Opens a real device. Throws Error where it cannot be opened with these settings.
std::unique_ptr<AudioDevice> openSystemDevice(const DeviceSettings& settings, AudioCallback& callback);

}  // namespace yewdrift
