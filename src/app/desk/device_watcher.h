// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QThreadPool>
#include <QTimer>
#include <atomic>
#include <memory>
#include <vector>

#include "core/device/audio_driver.h"

namespace yewdrift::app {

/// Knows which audio systems run here and what is plugged in, without making the interface wait: the systems
/// are asked in the background, again whenever one of them says that something has changed.
class DeviceWatcher : public QObject {
  Q_OBJECT
 public:
  explicit DeviceWatcher(QObject* parent = nullptr);
  ~DeviceWatcher() override;

  /// As of the last look; empty before the first.
  [[nodiscard]] const std::vector<OfferedDriver>& offers() const { return offers_; }
  [[nodiscard]] bool looked() const { return looked_; }
  [[nodiscard]] const DriverListing* listingOf(const QString& driver) const;
  /// Looks now; changed() follows where there is news, and always after the first look.
  void look();
  /// The same, but changed() follows in any case: for who could not follow what was told before.
  void lookAndTell();
  /// Also notices systems that begin to run: while a device is missing, or is being chosen.
  void setEager(bool eager);

 signals:
  void changed();

 private:
  struct Found;
  void finish(const std::shared_ptr<Found>& found);

  std::vector<OfferedDriver> offers_;
  std::vector<std::pair<std::string, std::unique_ptr<DriverWatch>>> watches_;
  bool looked_ = false;
  bool looking_ = false;
  bool lookAgain_ = false;
  bool tell_ = false;
  QTimer eager_;
  QTimer soon_;
  QThreadPool work_;
};

}  // namespace yewdrift::app
