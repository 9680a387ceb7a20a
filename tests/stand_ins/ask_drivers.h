// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <string>

#include "core/device/audio_driver.h"
#include "support.h"

namespace yewdrift::test {

inline DeviceSettings askedOf(const std::string& driver, const std::string& source, const std::string& sink) {
  DeviceSettings settings;
  settings.driver = driver;
  settings.source = source;
  settings.sink = sink;
  settings.rate = {48000};
  settings.blockFrames = 256;
  return settings;
}

inline bool soon(const std::function<bool()>& holds) {
  return comesTrue(10.0, holds);
}

}  // namespace yewdrift::test
