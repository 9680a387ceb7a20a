// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/analysis_jobs.h"

#include <algorithm>
#include <set>

namespace yewdrift {

AnalysisJobs::AnalysisJobs(SessionDisk disk, SampleRate rate, std::function<void()> changed, int threads)
    : disk_(std::move(disk)), rate_(rate), changed_(std::move(changed)) {
  const int count =
      threads > 0 ? threads : std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
  for (int i = 0; i < count; ++i) threads_.emplace_back([this] { work(); });
}

AnalysisJobs::~AnalysisJobs() {
  {
    const std::lock_guard guard(mutex_);
    ends_ = true;
    for (auto& [path, job] : jobs_) job->cancelled = true;
  }
  asked_.notify_all();
  for (std::thread& thread : threads_) thread.join();
}

void AnalysisJobs::want(const std::vector<PoolFile>& files) {
  {
    const std::lock_guard guard(mutex_);
    std::set<std::string> wanted;
    for (const PoolFile& file : files) wanted.insert(file.path);
    std::erase_if(jobs_, [&wanted](const auto& entry) {
      const bool unwanted = !wanted.contains(entry.first);
      if (unwanted) entry.second->cancelled = true;
      return unwanted;
    });
    waiting_.clear();
    for (const PoolFile& file : files) {
      std::shared_ptr<Job>& job = jobs_[file.path];
      // One that is another by now, as it grew, is measured anew.
      if (job && job->file.length != file.length) {
        job->cancelled = true;
        job.reset();
      }
      if (!job) {
        job = std::make_shared<Job>();
        job->file = file;
      }
      if (!job->begun && std::find(waiting_.begin(), waiting_.end(), job) == waiting_.end())
        waiting_.push_back(job);
    }
  }
  asked_.notify_all();
  done_.notify_all();
}

void AnalysisJobs::forget(const std::string& path) {
  const std::lock_guard guard(mutex_);
  const auto job = jobs_.find(path);
  if (job == jobs_.end()) return;
  job->second->cancelled = true;
  std::erase(waiting_, job->second);
  jobs_.erase(job);
}

std::shared_ptr<const FileAnalysis> AnalysisJobs::find(const std::string& path) const {
  const std::lock_guard guard(mutex_);
  const auto job = jobs_.find(path);
  return job == jobs_.end() ? nullptr : job->second->found;
}

double AnalysisJobs::share() const {
  const std::lock_guard guard(mutex_);
  double all = 0.0;
  double done = 0.0;
  for (const auto& [path, job] : jobs_) {
    const auto length = static_cast<double>(std::max<std::int64_t>(1, job->file.length.count));
    all += length;
    done += length * (job->found ? 1.0 : std::min(0.999, job->share.load()));
  }
  return all > 0.0 ? done / all : 1.0;
}

void AnalysisJobs::wait() {
  std::unique_lock lock(mutex_);
  done_.wait(lock, [this] {
    return std::all_of(jobs_.begin(), jobs_.end(), [](const auto& entry) { return entry.second->found; });
  });
}

void AnalysisJobs::work() {
  for (;;) {
    std::shared_ptr<Job> job;
    {
      std::unique_lock lock(mutex_);
      asked_.wait(lock, [this] { return ends_ || !waiting_.empty(); });
      if (ends_) return;
      job = waiting_.front();
      waiting_.pop_front();
      job->begun = true;
    }
    auto found = std::make_shared<FileAnalysis>(
        analyseFile(disk_, job->file, rate_, job->cancelled, [&](double share) {
          job->share = share;
          if (changed_) changed_();
        }));
    {
      const std::lock_guard guard(mutex_);
      if (!job->cancelled) job->found = std::move(found);
    }
    done_.notify_all();
    if (changed_ && !job->cancelled) changed_();
  }
}

}  // namespace yewdrift
