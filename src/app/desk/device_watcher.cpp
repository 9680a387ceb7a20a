// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/device_watcher.h"

#include <algorithm>

#include "core/error.h"

namespace yewdrift::app {
namespace {

constexpr int eagerMilliseconds = 1500;
constexpr int soonMilliseconds = 150;  // a plug brings several changes at once

bool same(const std::vector<OfferedDriver>& a, const std::vector<OfferedDriver>& b) {
  return std::equal(a.begin(), a.end(), b.begin(), b.end(),
                    [](const OfferedDriver& x, const OfferedDriver& y) {
                      return x.name == y.name && x.listing == y.listing;
                    });
}

}  // namespace

struct DeviceWatcher::Found {
  std::vector<OfferedDriver> offers;
  std::vector<std::pair<std::string, std::unique_ptr<DriverWatch>>> watches;  // of drivers that had none
};

DeviceWatcher::DeviceWatcher(QObject* parent) : QObject(parent) {
  work_.setMaxThreadCount(1);
  eager_.setInterval(eagerMilliseconds);
  soon_.setInterval(soonMilliseconds);
  soon_.setSingleShot(true);
  connect(&eager_, &QTimer::timeout, this, &DeviceWatcher::look);
  connect(&soon_, &QTimer::timeout, this, &DeviceWatcher::look);
}

DeviceWatcher::~DeviceWatcher() {
  work_.waitForDone();
  watches_.clear();
}

const DriverListing* DeviceWatcher::listingOf(const QString& driver) const {
  for (const OfferedDriver& each : offers_)
    if (each.name == driver.toStdString()) return &each.listing;
  return nullptr;
}

void DeviceWatcher::setEager(bool eager) {
  if (eager == eager_.isActive()) return;
  if (eager)
    eager_.start();
  else
    eager_.stop();
}

void DeviceWatcher::look() {
  if (std::exchange(looking_, true)) {
    lookAgain_ = true;
    return;
  }
  std::vector<std::string> watched;
  for (const auto& [name, watch] : watches_) watched.push_back(name);
  work_.start([this, watched] {
    auto found = std::make_shared<Found>();
    found->offers = offeredDrivers();
    for (const OfferedDriver& each : found->offers) {
      if (std::find(watched.begin(), watched.end(), each.name) != watched.end()) continue;
      try {
        auto watch = audioDriverNamed(each.name).watch(
            [this] { QMetaObject::invokeMethod(this, [this] { soon_.start(); }); });
        found->watches.emplace_back(each.name, std::move(watch));
      } catch (const Error&) {
        continue;  // gone again already; the next look will tell
      }
    }
    QMetaObject::invokeMethod(this, [this, found] { finish(found); });
  });
}

void DeviceWatcher::lookAndTell() {
  tell_ = true;
  look();
}

void DeviceWatcher::finish(const std::shared_ptr<Found>& found) {
  looking_ = false;
  // What changed before somebody watched was told to nobody.
  const bool again = std::exchange(lookAgain_, false) || !found->watches.empty();
  for (auto& watch : found->watches) watches_.push_back(std::move(watch));
  // The watch of a system that ended is made anew when it is back.
  std::erase_if(watches_, [&](const auto& watch) {
    return std::none_of(found->offers.begin(), found->offers.end(),
                        [&](const OfferedDriver& each) { return each.name == watch.first; });
  });
  const bool news = !looked_ || !same(offers_, found->offers) || (!again && std::exchange(tell_, false));
  looked_ = true;
  offers_ = std::move(found->offers);
  if (news) emit changed();
  if (again) look();
}

}  // namespace yewdrift::app
