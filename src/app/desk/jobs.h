// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QThreadPool>
#include <atomic>
#include <functional>
#include <memory>
#include <vector>

namespace yewdrift::app {

/// What takes its time goes on in the background, one job after the other; each tells how far it has come,
/// and can be cancelled where that makes sense.
class Jobs : public QObject {
  Q_OBJECT
 public:
  enum class Cancel { Possible, Never };
  /// One that waits or is under way.
  struct Job {
    int id = 0;
    QString label;
    double share = 0.0;  // 0 to 1
    Cancel cancel = Cancel::Never;
    std::shared_ptr<std::atomic<bool>> cancelled;
  };
  /// What a job's work has of it; on any thread.
  class Run {
   public:
    /// How far it has come, 0 to 1. False once it is cancelled: it then ends as if it had not been begun.
    bool tell(double share);
    [[nodiscard]] bool cancelled() const { return *cancelled_; }

   private:
    friend class Jobs;
    Run(Jobs& jobs, const Job& job) : jobs_(jobs), id_(job.id), cancelled_(job.cancelled) {}
    Jobs& jobs_;
    int id_;
    std::shared_ptr<std::atomic<bool>> cancelled_;
    int shown_ = 0;  // per cent
  };

  Jobs() { pool_.setMaxThreadCount(1); }
  /// `work` runs on a thread of its own; what it has for the desks it brings by QMetaObject::invokeMethod,
  /// which comes before the job is seen to have ended. Work that has not begun when it is cancelled runs
  /// all the same, and finds itself cancelled.
  /// Returns its id.
  int start(const QString& label, Cancel cancel, std::function<void(Run&)> work);
  void cancel(int id);
  void cancelAll();
  /// In the order in which they are done; the first is under way.
  [[nodiscard]] const std::vector<Job>& all() const { return all_; }
  [[nodiscard]] bool busy() const { return !all_.empty(); }
  /// As long as any work has not returned; what it brought may still have to be taken in.
  [[nodiscard]] bool running() const { return pool_.activeThreadCount() > 0; }
  void waitForAll() { pool_.waitForDone(); }

 signals:
  void changed();

 private:
  void progressed(int id, double share);
  void ended(int id);

  int made_ = 0;
  std::vector<Job> all_;
  QThreadPool pool_;  // last: its jobs ask the others
};

}  // namespace yewdrift::app
