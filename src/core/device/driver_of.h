// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>
#include <string>
#include <utility>

#include "core/device/audio_driver.h"

namespace yewdrift {

/// The driver of an audio system whose devices are `Device`, made from settings and a callback, and whose
/// changes are told by `Watch`, made from what is to be called.
template <class Device, class Watch>
class DriverOf : public AudioDriver {
 public:
  DriverOf(std::string called, DriverListing (*listing)()) : name_(std::move(called)), list_(listing) {}
  [[nodiscard]] std::string name() const override { return name_; }
  [[nodiscard]] DriverListing list() const override { return list_(); }
  [[nodiscard]] std::unique_ptr<AudioDevice> open(const DeviceSettings& settings,
                                                  AudioCallback& callback) const override {
    return std::make_unique<Device>(settings, callback);
  }
  [[nodiscard]] std::unique_ptr<DriverWatch> watch(std::function<void()> changed) const override {
    return std::make_unique<Watch>(std::move(changed));
  }

 private:
  std::string name_;
  DriverListing (*list_)();
};

}  // namespace yewdrift
