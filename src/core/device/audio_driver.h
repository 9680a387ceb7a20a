// SPDX-License-Identifier: GPL-3.0-or-later
//
// The audio systems a machine may have: what they offer, and opening a pair of source and sink of theirs.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "core/device/audio_device.h"

namespace yewdrift {

/// Something to record from, or to play to.
struct EndPoint {
  std::string id;    // stays the same as long as it is there; what settings store
  std::string name;  // as the desktop shows it
  int channels = 0;
  bool isDefault = false;
  bool monitor = false;  // a source that hears what a sink plays
  bool operator==(const EndPoint&) const = default;
};

struct DriverListing {
  std::vector<EndPoint> sources;
  std::vector<EndPoint> sinks;
  bool operator==(const DriverListing&) const = default;
};

/// Keeps an eye on a driver as long as it lives.
class DriverWatch {
 public:
  virtual ~DriverWatch() = default;
};

/// One audio system. Holds nothing open by itself. Functions throw Error with a sentence where its server
/// does not run or its library is not there.
class AudioDriver {
 public:
  virtual ~AudioDriver() = default;
  [[nodiscard]] virtual std::string name() const = 0;
  [[nodiscard]] virtual DriverListing list() const = 0;
  [[nodiscard]] virtual std::unique_ptr<AudioDevice> open(const DeviceSettings& settings,
                                                          AudioCallback& callback) const = 0;
  /// Calls `changed`, on a thread of its own, whenever what is offered may have changed: something came, went
  /// or became the default, or the server ended.
  [[nodiscard]] virtual std::unique_ptr<DriverWatch> watch(std::function<void()> changed) const = 0;
};

/// All that Yewdrift knows, the best first: PipeWire, JACK, PulseAudio, ALSA.
const std::vector<std::unique_ptr<AudioDriver>>& audioDrivers();
/// Throws Error where there is none of that name.
const AudioDriver& audioDriverNamed(const std::string& name);

/// A driver that is there, with what it offers.
struct OfferedDriver {
  std::string name;
  DriverListing listing;
};
/// The drivers whose systems run here now and have something to play to or record from.
std::vector<OfferedDriver> offeredDrivers();

/// The end point of that id; without an id the default, else the first that is no monitor. Null: none.
const EndPoint* findEndPoint(const std::vector<EndPoint>& among, const std::string& id);
/// Its name, with the id behind it where another has the same name.
std::string distinctName(const EndPoint& point, const std::vector<EndPoint>& among);
enum class EndPointKind { Source, Sink };
/// The end point of what a person typed: an id, or a name that only one has. Throws Error.
const EndPoint& requireEndPoint(const std::vector<EndPoint>& among, const std::string& typed,
                                EndPointKind kind);

}  // namespace yewdrift
