// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>

namespace CLI {
class App;
}

namespace yewdrift::tool {

/// What the commands on real devices were given.
struct DeviceCommandOptions {
  std::string driver;
  std::string source;
  std::string sink;
  int block = 256;
  int input = 1;
  int rate = 48000;
  bool json = false;
};

/// Adds the commands devices and measure.
void describeDeviceCommands(CLI::App& app, DeviceCommandOptions& options);

}  // namespace yewdrift::tool
