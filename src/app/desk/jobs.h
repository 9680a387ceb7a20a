// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QThreadPool>
#include <functional>

namespace yewdrift::app {

/// What takes its time goes on in the background, one job after the other, and tells how far it has come.
class Jobs : public QObject {
  Q_OBJECT
 public:
  Jobs() { pool_.setMaxThreadCount(1); }
  /// `work` runs on a thread of its own; what it has for the desks it brings by QMetaObject::invokeMethod.
  void start(std::function<void()> work) { pool_.start(std::move(work)); }
  /// On the interface thread.
  void tell(const QString& what, double share) { emit progressed(what, share); }
  void waitForAll() { pool_.waitForDone(); }
  [[nodiscard]] bool busy() const { return pool_.activeThreadCount() > 0; }

 signals:
  void progressed(const QString& what, double share);  // 1: done

 private:
  QThreadPool pool_;
};

}  // namespace yewdrift::app
