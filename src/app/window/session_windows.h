// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QPointer>

#include "app/window/main_window.h"

namespace yewdrift::app {

/// Which session has a window: one at a time. Another one that is asked for opens once the present one is
/// closed and saved; where it cannot be opened, the present one comes back and says so.
class SessionWindows : public QObject {
  Q_OBJECT
 public:
  /// `Driven`: tests drive the devices.
  explicit SessionWindows(DeviceDesk::Mode mode = DeviceDesk::Mode::Normal) : mode_(mode) {}
  ~SessionWindows() override;

  /// Opens a session, made first where it is given. Throws Error.
  void open(const QString& folder, const std::optional<Session>& fresh);
  [[nodiscard]] MainWindow* window() const { return window_; }

 private:
  struct Asked {
    QString folder;
    std::optional<Session> fresh;
  };
  void closed();

  DeviceDesk::Mode mode_;
  QPointer<MainWindow> window_;
  QString folder_;
  std::optional<Asked> next_;
};

}  // namespace yewdrift::app
