// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/line_up_desk.h"

#include <QLocale>
#include <utility>

#include "app/look/spoken.h"
#include "core/edit/edit_takes.h"

namespace yewdrift::app {

LineUpDesk::LineUpDesk(SessionDesk& desk, InHand& inHand) : desk_(desk), inHand_(inHand) {
  pool_.setMaxThreadCount(1);
  connect(&desk, &SessionDesk::changed, this, &LineUpDesk::lookAgainIfChanged);
}

LineUpDesk::~LineUpDesk() {
  giveUp();
  pool_.waitForDone();
}

void LineUpDesk::look(LaneNumber take, std::optional<LaneNumber> reference, double withinSeconds) {
  const TrackId id = inHand_.trackId();
  ask({id, take, reference, inHand_.selection(), framesFromSeconds(withinSeconds, desk_.session().rate),
       lanesOf(id, take, reference)});
}

void LineUpDesk::ask(Question question) {
  giveUp();
  looking_ = std::make_shared<std::atomic<bool>>(false);
  proposal_.reset();
  question_ = std::move(question);
  pool_.start([this, givenUp = looking_, session = desk_.session(), of = *question_] {
    Proposal made{of.track, of.take, of.reference, {}, {}};
    try {
      const Track& track = requireTrack(session, of.track);
      const Lane& take = requireLane(track, of.take);
      FileSampleSource source(desk_.disk(), *session.pool);
      made.found = of.reference
                       ? lineUpTakes(session, track, take, requireLane(track, *of.reference), of.span,
                                     of.within, source, givenUp.get())
                       : lineUpToGrid(session, track, take, of.span, of.within, source, givenUp.get());
    } catch (const std::exception& e) {
      made.problem = spoken(e);
    }
    QMetaObject::invokeMethod(this, [this, givenUp, made] {
      if (*givenUp) return;
      looking_.reset();
      proposal_ = made;
      emit changed();
    });
  });
  emit changed();
}

/// While a take is dragged one question waits, not one for each of its moves.
void LineUpDesk::giveUp() {
  pool_.clear();
  if (looking_) *std::exchange(looking_, nullptr) = true;
}

std::vector<Shared<Lane>> LineUpDesk::lanesOf(TrackId id, LaneNumber take,
                                              std::optional<LaneNumber> reference) const {
  std::vector<Shared<Lane>> lanes;
  const Track* const track = desk_.session().track(id);
  if (!track) return lanes;
  for (const LaneNumber number : {take, reference.value_or(take)})
    for (const Shared<Lane>& lane : track->lanes)
      if (lane->number == number) lanes.push_back(lane);
  return lanes;
}

void LineUpDesk::lookAgainIfChanged() {
  if (!question_) return;
  Question now = *question_;
  now.lanes = lanesOf(now.track, now.take, now.reference);
  if (now.lanes != question_->lanes) ask(std::move(now));
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
  giveUp();
  proposal_.reset();
  question_.reset();
  emit changed();
}

}  // namespace yewdrift::app
