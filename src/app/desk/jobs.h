// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QThreadPool>
#include <atomic>
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
  enum class Cancel { Possible, Never };
  void tell(const QString& what, double share, Cancel cancel = Cancel::Never) {
    emit progressed(what, share, cancel == Cancel::Possible);
  }
  /// Those that are under way and can be: they end as if they had not been begun, but for what is done of
  /// them.
  void cancel() { ++cancelled_; }
  /// To be asked by a job, on any thread: true once it is cancelled. Taken before it starts.
  [[nodiscard]] std::function<bool()> cancelled() const {
    return [this, then = cancelled_.load()] { return cancelled_ != then; };
  }
  void waitForAll() { pool_.waitForDone(); }
  [[nodiscard]] bool busy() const { return pool_.activeThreadCount() > 0; }

 signals:
  void progressed(const QString& what, double share, bool cancellable);  // 1: done

 private:
  std::atomic<int> cancelled_{0};
  QThreadPool pool_;  // last: its jobs ask the others
};

}  // namespace yewdrift::app
