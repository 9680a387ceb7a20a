// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/line_up_desk.h"

#include <QLocale>

#include "app/look/spoken.h"
#include "core/edit/edit_takes.h"

namespace yewdrift::app {

LineUpDesk::LineUpDesk(SessionDesk& desk, InHand& inHand) : desk_(desk), inHand_(inHand) {
  pool_.setMaxThreadCount(1);
}

LineUpDesk::~LineUpDesk() {
  pool_.waitForDone();
}

void LineUpDesk::look(LaneNumber take, std::optional<LaneNumber> reference) {
  looking_ = true;
  proposal_.reset();
  const int asked = ++asked_;
  pool_.start([this, asked, session = desk_.session(), id = inHand_.trackId(), take, reference,
               span = inHand_.selection()] {
    Proposal made{id, take, reference, {}, {}};
    try {
      const Track& track = requireTrack(session, id);
      const Frames within = framesFromSeconds(0.5, session.rate);
      FileSampleSource source(desk_.disk(), *session.pool);
      made.found = reference ? lineUpTakes(session, track, requireLane(track, take),
                                           requireLane(track, *reference), span, within, source)
                             : lineUpToGrid(session, track, requireLane(track, take), span, within, source);
    } catch (const std::exception& e) {
      made.problem = spoken(e);
    }
    QMetaObject::invokeMethod(this, [this, asked, made] {
      if (asked != asked_) return;
      looking_ = false;
      proposal_ = made;
      emit changed();
    });
  });
  emit changed();
}

QString LineUpDesk::words() const {
  if (looking_) return tr("Looking …");
  if (!proposal_) return {};
  if (!proposal_->problem.isEmpty()) return proposal_->problem;
  const LineUp& found = proposal_->found;
  const QLocale locale;
  const QString sure = tr("sureness %1").arg(locale.toString(found.sureness, 'f', 2));
  if (found.sureness < leastSureness)
    return tr("The two are not alike enough to tell (%1, at least %2 is needed).")
        .arg(sure, locale.toString(leastSureness, 'f', 2));
  const auto frames = static_cast<int>(std::abs(found.offset.count));
  if (frames == 0) return tr("It lies right where it should (%1).").arg(sure);
  const QString by =
      tr("%1 ms (%n frame(s))", nullptr, frames)
          .arg(locale.toString(1000.0 * secondsFromFrames(Frames{frames}, desk_.session().rate), 'f', 2));
  const QString what = found.offset.count > 0 ? tr("It lies %1 early.") : tr("It lies %1 late.");
  return what.arg(by) + " " +
         (found.samePerformance ? tr("The same performance: good to the frame, %1.").arg(sure)
                                : tr("From where sounds begin: good to a few milliseconds, %1.").arg(sure));
}

void LineUpDesk::take() {
  if (!proposal_ || !proposal_->problem.isEmpty() || proposal_->found.sureness < leastSureness) return;
  const Proposal taken = *proposal_;
  forget();
  if (taken.found.offset.count != 0)
    desk_.apply(tr("Line up lane %1").arg(taken.take.value), [&](const Session& session) {
      return nudgeLane(session, taken.track, taken.take, taken.found.offset);
    });
}

void LineUpDesk::forget() {
  ++asked_;
  looking_ = false;
  proposal_.reset();
  emit changed();
}

}  // namespace yewdrift::app
