// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/audio_driver.h"

#include <algorithm>

#include "core/device/alsa/alsa_driver.h"
#include "core/device/jack/jack_driver.h"
#include "core/device/pipewire/pipewire_driver.h"
#include "core/device/pulse/pulse_driver.h"
#include "core/error.h"

namespace yewdrift {

const std::vector<std::unique_ptr<AudioDriver>>& audioDrivers() {
  static const auto drivers = [] {
    std::vector<std::unique_ptr<AudioDriver>> all;
    all.push_back(pipeWireDriver());
    all.push_back(jackDriver());
    all.push_back(pulseDriver());
    all.push_back(alsaDriver());
    return all;
  }();
  return drivers;
}

const AudioDriver& audioDriverNamed(const std::string& name) {
  for (const auto& driver : audioDrivers())
    if (driver->name() == name) return *driver;
  throw Error("There is no audio driver named \"%1\"; there are PipeWire, JACK, PulseAudio and ALSA.", name);
}

namespace {

/// Of one whose system is not there, nothing.
DriverListing listingOrNothing(const AudioDriver& driver) {
  try {
    return driver.list();
  } catch (const Error&) {
    return {};
  }
}

}  // namespace

std::vector<OfferedDriver> offeredDrivers() {
  std::vector<OfferedDriver> offered;
  for (const auto& driver : audioDrivers()) {
    DriverListing listing = listingOrNothing(*driver);
    if (!listing.sources.empty() || !listing.sinks.empty())
      offered.push_back({driver->name(), std::move(listing)});
  }
  return offered;
}

const EndPoint* findEndPoint(const std::vector<EndPoint>& among, const std::string& id) {
  auto first = [&](auto condition) -> const EndPoint* {
    const auto found = std::find_if(among.begin(), among.end(), condition);
    return found == among.end() ? nullptr : &*found;
  };
  if (!id.empty()) return first([&](const EndPoint& each) { return each.id == id; });
  if (const EndPoint* standard = first([](const EndPoint& each) { return each.isDefault; })) return standard;
  return first([](const EndPoint& each) { return !each.monitor; });
}

std::string distinctName(const EndPoint& point, const std::vector<EndPoint>& among) {
  const auto namesakes = std::count_if(among.begin(), among.end(),
                                       [&](const EndPoint& each) { return each.name == point.name; });
  return namesakes > 1 ? point.name + " (" + point.id + ")" : point.name;
}

const EndPoint& requireEndPoint(const std::vector<EndPoint>& among, const std::string& typed,
                                EndPointKind kind) {
  if (const EndPoint* found = findEndPoint(among, typed)) return *found;
  const bool source = kind == EndPointKind::Source;
  if (typed.empty())
    throw source ? Error("There is no source now; is it plugged in?")
                 : Error("There is no sink now; is it plugged in?");
  const EndPoint* named = nullptr;
  for (const EndPoint& each : among) {
    if (each.name != typed) continue;
    if (named)
      throw source ? Error("There are several sources named \"%1\"; say which by its id: %2 or %3.", typed,
                           named->id, each.id)
                   : Error("There are several sinks named \"%1\"; say which by its id: %2 or %3.", typed,
                           named->id, each.id);
    named = &each;
  }
  if (!named)
    throw source ? Error("The source \"%1\" is not there; is it plugged in?", typed)
                 : Error("The sink \"%1\" is not there; is it plugged in?", typed);
  return *named;
}

}  // namespace yewdrift
