// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <condition_variable>
#include <deque>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <string>
#include <thread>
#include <vector>

#include "core/analysis/file_analysis.h"
#include "core/signal/peaks.h"

namespace yewdrift {

/// Measures files in the background, on as many threads as there are cores; what was measured is kept as long
/// as it is wanted, and on disk. All of it any thread, but the destructor.
class AnalysisJobs {
 public:
  /// `changed` is called on the threads that measure, when something is there, or has come further.
  AnalysisJobs(SessionDisk disk, SampleRate rate, std::function<void()> changed = {}, int threads = 0);
  ~AnalysisJobs();
  AnalysisJobs(const AnalysisJobs&) = delete;
  AnalysisJobs& operator=(const AnalysisJobs&) = delete;

  /// These are wanted, the first ones first; those that are not are let go of, and not measured further.
  void want(const std::vector<PoolFile>& files);
  /// That file has grown: it is measured anew when it is wanted the next time.
  void forget(const std::string& path);
  /// Null while it is not there. What it points to stays as long as somebody holds it.
  [[nodiscard]] std::shared_ptr<const FileAnalysis> find(const std::string& path) const;
  /// How much of what is wanted is there, 0 to 1; 1 where nothing is wanted.
  [[nodiscard]] double share() const;
  /// Returns when all that is wanted is there.
  void wait();

 private:
  struct Job {
    PoolFile file;
    std::atomic<bool> cancelled{false};
    std::atomic<double> share{0.0};
    std::shared_ptr<const FileAnalysis> found;
    bool begun = false;
  };
  void work();

  SessionDisk disk_;
  SampleRate rate_;
  std::function<void()> changed_;
  mutable std::mutex mutex_;
  std::condition_variable asked_;
  std::condition_variable done_;
  std::map<std::string, std::shared_ptr<Job>> jobs_;
  std::deque<std::shared_ptr<Job>> waiting_;
  bool ends_ = false;
  std::vector<std::thread> threads_;
};

}  // namespace yewdrift
