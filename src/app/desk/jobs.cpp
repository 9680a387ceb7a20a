// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/jobs.h"

#include <algorithm>

namespace yewdrift::app {

bool Jobs::Run::tell(double share) {
  // Not more often than it can be seen.
  const int percent = static_cast<int>(share * 100.0);
  if (std::exchange(shown_, percent) != percent)
    QMetaObject::invokeMethod(&jobs_, [jobs = &jobs_, id = id_, share] { jobs->progressed(id, share); });
  return !cancelled();
}

int Jobs::start(const QString& label, Cancel cancel, std::function<void(Run&)> work) {
  all_.push_back({++made_, label, 0.0, cancel, std::make_shared<std::atomic<bool>>(false)});
  pool_.start([this, run = Run(*this, all_.back()), work = std::move(work)]() mutable {
    work(run);
    QMetaObject::invokeMethod(this, [this, id = run.id_] { ended(id); });
  });
  const int id = made_;
  emit changed();
  return id;
}

void Jobs::cancel(int id) {
  for (const Job& job : all_)
    if (job.id == id && job.cancel == Cancel::Possible) *job.cancelled = true;
}

void Jobs::cancelAll() {
  for (const Job& job : all_) cancel(job.id);
}

void Jobs::progressed(int id, double share) {
  for (Job& job : all_)
    if (job.id == id) job.share = share;
  emit changed();
}

void Jobs::ended(int id) {
  std::erase_if(all_, [id](const Job& job) { return job.id == id; });
  emit changed();
}

}  // namespace yewdrift::app
