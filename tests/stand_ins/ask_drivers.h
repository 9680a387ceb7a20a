// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <chrono>
#include <functional>
#include <string>
#include <thread>

#include "core/device/audio_driver.h"
#include "core/error.h"

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

/// The sentence with which it is refused; nothing where it is not.
inline std::string refusal(const std::function<void()>& what) {
  try {
    what();
  } catch (const Error& error) {
    return error.what();
  }
  return "";
}

/// Within two seconds.
inline bool soon(const std::function<bool()>& holds) {
  for (int i = 0; i < 400; ++i) {
    if (holds()) return true;
    std::this_thread::sleep_for(std::chrono::milliseconds(5));
  }
  return false;
}

}  // namespace yewdrift::test
