// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QPointer>

#include "app/window/main_window.h"
#include "app/window/start_page.h"

namespace yewdrift::app {

/// Which session has a window: one at a time. Another one that is asked for opens once the present one is
/// closed and saved; where it cannot be opened, the present one comes back and says so. Without one, the
/// start page is shown.
class SessionWindows : public QObject {
  Q_OBJECT
 public:
  /// `Driven`: tests drive the devices.
  explicit SessionWindows(DeviceDesk::Mode mode = DeviceDesk::Mode::Normal) : mode_(mode) {}
  ~SessionWindows() override;

  /// Opens a session, made first where it is given. Throws Error.
  void open(const QString& folder, const std::optional<Session>& fresh);
  /// Shows the start page; with a sentence where something went wrong.
  void start(const QString& wrong = {});
  [[nodiscard]] MainWindow* window() const { return window_; }
  [[nodiscard]] StartPage* startPage() const { return start_.get(); }

 private:
  struct Asked {
    QString folder;  // empty: the start page
    std::optional<Session> fresh;
  };
  void closed();
  void openFromStart(const QString& folder, const std::optional<Session>& fresh);

  DeviceDesk::Mode mode_;
  QPointer<MainWindow> window_;
  std::unique_ptr<StartPage> start_;
  QString folder_;
  std::optional<Asked> next_;
};

}  // namespace yewdrift::app
