// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/pitch_desk.h"

#include <QMetaObject>
#include <algorithm>

#include "app/look/spoken.h"

namespace yewdrift::app {

PitchDesk::PitchDesk(SessionDesk& desk, Transport& transport, Jobs& jobs, Messages& messages)
    : desk_(desk), transport_(transport), jobs_(jobs), messages_(messages) {
  connect(&desk, &SessionDesk::committed, this, &PitchDesk::follow);
  follow();
}

void PitchDesk::follow() {
  const std::vector<PitchedFile> wanted = pitchedFilesOf(desk_.session());
  std::set<Key> missing;
  std::optional<PitchedFile> next;
  for (const PitchedFile& file : wanted) {
    const Key key = keyOf(file);
    if (there_.contains(key)) continue;
    missing.insert(key);
    if (!next && !givenUp_.contains(key)) next = file;
  }
  // What nobody wants any more may be wanted again.
  std::erase_if(givenUp_, [&](const Key& key) { return !missing.contains(key); });
  transport_.setPlain(missing);
  if (making_ && !missing.contains(*making_)) jobs_.cancel(job_);
  if (!making_ && next) make(*next);
}

void PitchDesk::make(const PitchedFile& file) {
  making_ = keyOf(file);
  const QString label = tr("Shifting %1 by %2 cents")
                            .arg(QString::fromStdString(file.file.path).section('/', -1))
                            .arg(numberLocale().toString(file.by.value, 'g', 6));
  job_ = jobs_.start(label, Jobs::Cancel::Possible,
                     [this, file, disk = desk_.disk(), rate = desk_.session().rate](Jobs::Run& job) {
                       bool done = false;
                       QString problem;
                       try {
                         done = PitchedFiles::make(disk, rate, file,
                                                   [&](double share) { return job.tell(share); });
                       } catch (const std::exception& e) {
                         problem = spoken(e);
                       }
                       QMetaObject::invokeMethod(this, [this, file, done, problem] {
                         if (!problem.isEmpty())
                           messages_.warn(tr("%1 The take plays at its own pitch.").arg(problem));
                         made(file, done);
                       });
                     });
}

void PitchDesk::made(const PitchedFile& file, bool done) {
  making_.reset();
  if (done) {
    there_.insert(keyOf(file));
    transport_.pitchedAreThere();
  } else {
    givenUp_.insert(keyOf(file));
  }
  follow();
}

}  // namespace yewdrift::app
