// SPDX-License-Identifier: GPL-3.0-or-later
#include "tool/device_commands.h"

#include <CLI/CLI.hpp>
#include <chrono>
#include <iostream>
#include <nlohmann/json.hpp>
#include <thread>

#include "core/device/audio_driver.h"
#include "core/device/round_trips.h"
#include "core/engine/engine.h"
#include "core/engine/loop_back.h"
#include "core/error.h"
#include "tool/arguments.h"

namespace yewdrift::tool {
namespace {

using nlohmann::json;

json pointsReport(const std::string& driver, const std::vector<EndPoint>& points) {
  json report = json::array();
  for (const EndPoint& point : points)
    report.push_back({{"driver", driver},
                      {"name", point.name},
                      {"id", point.id},
                      {"channels", point.channels},
                      {"default", point.isDefault},
                      {"monitor", point.monitor}});
  return report;
}

void printPoints(const char* what, const std::vector<EndPoint>& points) {
  for (const EndPoint& point : points)
    std::cout << "  " << what << " \"" << point.name << "\", " << point.channels
              << (point.channels == 1 ? " channel" : " channels") << (point.isDefault ? ", the default" : "")
              << " (" << point.id << ")\n";
}

void devices(const DeviceCommandOptions& options) {
  const std::vector<OfferedDriver> offered = offeredDrivers();
  if (options.json) {
    json drivers = json::array();
    for (const OfferedDriver& driver : offered)
      drivers.push_back({{"driver", driver.name},
                         {"inputs", pointsReport(driver.name, driver.listing.sources)},
                         {"outputs", pointsReport(driver.name, driver.listing.sinks)}});
    std::cout << json{{"drivers", drivers}}.dump(1, ' ', false, json::error_handler_t::replace) << "\n";
    return;
  }
  if (offered.empty()) std::cout << "No audio system runs here; the simulated interface is always there.\n";
  for (const OfferedDriver& driver : offered) {
    std::cout << driver.name << "\n";
    printPoints("in ", driver.listing.sources);
    printPoints("out", driver.listing.sinks);
  }
}

void measure(const DeviceCommandOptions& options) {
  DeviceSettings settings;
  settings.driver = options.driver;
  settings.source = options.source;
  settings.sink = options.sink;
  settings.blockFrames = options.block;
  settings.rate = {options.rate};
  checkRate(settings.rate);
  Engine engine(settings.rate, 4096);
  const auto device = audioDriverNamed(settings.driver).open(settings, engine);
  if (options.input > device->settings().inputs)
    throw Error("There is no input %1; the source has %2.", options.input, device->settings().inputs);
  if (device->settings().outputs < 1) throw Error("There is nothing to play to, so nothing can come back.");
  device->start();
  auto probe = std::make_shared<LoopBackProbe>();
  prepareProbe(*probe, options.input - 1, settings.rate);
  engine.startProbe(probe);
  while (!probe->finished.load(std::memory_order_acquire)) {
    if (!device->alive()) throw Error("%1 Nothing was measured.", device->lossReason());
    std::this_thread::sleep_for(std::chrono::milliseconds(10));
  }
  const Frames reported = device->reportedRoundTrip();
  const DeviceSettings opened = device->settings();
  device->stop();
  const LoopBackResult result = measureRoundTrip(*probe, settings.rate);
  if (!result.good) throw Error(result.sentence);
  RoundTrips::ofUser().store(opened, reported, result.roundTrip);
  if (options.json)
    std::cout << json{{"frames", result.roundTrip.count},
                      {"sureness", result.sureness},
                      {"reported", reported.count},
                      {"block", opened.blockFrames}}
                     .dump(1)
              << "\n";
  else
    std::cout << result.sentence << " Recordings from this pair at this block use it from now on.\n";
}

}  // namespace

void describeDeviceCommands(CLI::App& app, DeviceCommandOptions& o) {
  CLI::App* c =
      app.add_subcommand("devices", "The audio systems that run here, with their inputs and outputs");
  c->add_flag("--json", o.json, "As JSON");
  c->callback([&o] { devices(o); });
  c = app.add_subcommand("measure", "Plays and listens for the round trip of a real device; stores it");
  c->add_option("--driver", o.driver, "PipeWire, JACK, PulseAudio or ALSA")->required()->type_name("NAME");
  c->add_option("--in", o.source, "What is listened to (default: the system's)")->type_name("NAME");
  c->add_option("--out", o.sink, "What is played to (default: the system's)")->type_name("NAME");
  c->add_option("--block", o.block, "Frames a block")->check(between(16, 8192))->type_name("FRAMES");
  c->add_option("--input", o.input, "Of the source, from 1")->check(between(1, 128))->type_name("N");
  c->add_option("--rate", o.rate, "The session's frames a second")->type_name("HZ");
  c->add_flag("--json", o.json, "As JSON");
  c->callback([&o] { measure(o); });
}

}  // namespace yewdrift::tool
