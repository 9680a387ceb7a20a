// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/join_desk.h"

#include <QMetaObject>
#include <algorithm>
#include <utility>

#include "app/look/spoken.h"
#include "core/edit/edit.h"

namespace yewdrift::app {

JoinDesk::JoinDesk(SessionDesk& desk, InHand& inHand, Jobs& jobs, Messages& messages)
    : desk_(desk), inHand_(inHand), jobs_(jobs), messages_(messages) {
  pool_.setMaxThreadCount(1);
}

JoinDesk::~JoinDesk() {
  if (looking_) *looking_ = true;
  pool_.waitForDone();
}

std::optional<JoinDesk::Sought> JoinDesk::sought() const {
  for (const auto& track : desk_.session().tracks)
    if (track->id == inHand_.trackId()) return Sought{track, inHand_.join()};
  return std::nullopt;
}

void JoinDesk::want() {
  // While something is dragged it changes with every movement.
  if (desk_.holding()) return;
  const auto now = sought();
  if (!now || (known_ && known_->same(*now))) return;
  begin(*now);
}

const MeasuredJoin* JoinDesk::joinAt(Frames at) const {
  const auto there =
      std::find_if(joins_.begin(), joins_.end(), [at](const MeasuredJoin& one) { return one.join.at == at; });
  return there == joins_.end() ? nullptr : &*there;
}

const std::vector<JoinFinding>& JoinDesk::findings() const {
  static const std::vector<JoinFinding> none;
  return findingsOf_ && findingsOf_ == inHand_.join() ? findings_ : none;
}

void JoinDesk::begin(const Sought& wanted) {
  if (looking_) *looking_ = true;
  if (known_ && known_->track->id != wanted.track->id) joins_.clear();
  // Another join in hand of the same track: what is known of the others stays as it is.
  const bool all = !known_ || !known_->track.same(wanted.track) || looking_;
  known_ = wanted;
  findings_.clear();
  findingsOf_.reset();
  looking_ = std::make_shared<std::atomic<bool>>(false);
  pool_.start([this, wanted, all, givenUp = looking_, session = desk_.session(), disk = desk_.disk(),
               leaks = leaks_]() mutable {
    if (*givenUp) return;
    if (!leaks) leaks = std::make_shared<const FadeLeaks>(session.rate);
    const Track& track = *wanted.track;
    const ResolvedComposite composite = resolve(track, session.rate);
    const JoinWish wish = defaultWish(session.rate);
    std::vector<MeasuredJoin> joins;
    std::vector<JoinFinding> findings;
    try {
      JoinFinder finder(disk, session.rate, leaks);
      if (const Join* const inHand = wanted.join ? composite.joinAt(*wanted.join) : nullptr) {
        const JoinView view = finder.view(session, track, composite, *inHand, wish);
        findings = finder.better(session, track, view, wish);
      }
      for (const Join& join : composite.joins) {
        if (!all || *givenUp) break;
        joins.push_back(measured(finder.view(session, track, composite, join, {})));
      }
    } catch (const std::exception&) {
      // A file that cannot be read is silent; whoever plays it says so.
    }
    std::stable_sort(joins.begin(), joins.end(),
                     [](const MeasuredJoin& a, const MeasuredJoin& b) { return a.risk > b.risk; });
    QMetaObject::invokeMethod(this, [this, givenUp, all, leaks, join = wanted.join, joins = std::move(joins),
                                     findings = std::move(findings)]() mutable {
      leaks_ = leaks;
      if (*givenUp) return;
      looking_.reset();
      if (all) joins_ = std::move(joins);
      findings_ = std::move(findings);
      findingsOf_ = join;
      emit found();
      if (std::exchange(improvesWhenFound_, std::nullopt) == inHand_.join() && inHand_.join())
        improveInHand();
      want();
    });
  });
}

std::optional<Frames> JoinDesk::nextUnsettled() const {
  const auto now = inHand_.join();
  const auto here =
      std::find_if(joins_.begin(), joins_.end(), [&](const MeasuredJoin& one) { return now == one.join.at; });
  const auto open = [](const MeasuredJoin& one) { return !one.join.settled; };
  auto next = here == joins_.end() ? joins_.end() : std::find_if(here + 1, joins_.end(), open);
  if (next == joins_.end()) next = std::find_if(joins_.begin(), joins_.end(), open);
  if (next == joins_.end()) return std::nullopt;
  return next->join.at;
}

int JoinDesk::unsettled() const {
  return static_cast<int>(
      std::count_if(joins_.begin(), joins_.end(), [](const MeasuredJoin& one) { return !one.join.settled; }));
}

void JoinDesk::take(std::size_t index) {
  const Track* const track = inHand_.track();
  const auto at = inHand_.join();
  if (!track || !at || index >= findings().size()) return;
  const JoinFinding finding = findings()[index];
  if (desk_.apply(tr("A better place for a join"), [id = track->id, at = *at, finding](const Session& s) {
        return takeFinding(s, id, at, finding);
      })) {
    inHand_.takeJoin(finding.at);
    messages_.say(spoken(finding.why));
  }
}

void JoinDesk::improveInHand() {
  want();
  if (looking_) {
    improvesWhenFound_ = inHand_.join();
    return messages_.say(tr("Listening to the takes around this join…"));
  }
  if (findings().empty())
    return messages_.say(tr("Nothing near this join is plainly better than what is there."));
  take(0);
}

void JoinDesk::improveAll() {
  const Track* const track = inHand_.track();
  if (!track) return;
  const TrackId id = track->id;
  jobs_.start(
      tr("Searching better places for joins"), Jobs::Cancel::Possible,
      [this, id, session = desk_.session(), disk = desk_.disk()](Jobs::Run& job) {
        try {
          Improvement improvement = improveJoins(disk, session, id, defaultWish(session.rate), std::nullopt,
                                                 [&](double share) { return job.tell(share); });
          QMetaObject::invokeMethod(
              this, [this, id, improvement = std::move(improvement)] { takeImprovement(id, improvement); });
        } catch (const std::exception& e) {
          if (job.cancelled()) return;
          QMetaObject::invokeMethod(this, [this, problem = spoken(e)] { messages_.warn(problem); });
        }
      });
}

void JoinDesk::takeImprovement(TrackId id, const Improvement& improvement) {
  int taken = 0;
  // Into the session as it is by now: a join that was changed meanwhile stays as it was changed.
  const bool applied =
      !improvement.joins.empty() && desk_.apply(tr("Better places for joins"), [&](const Session& present) {
        Session next = present;
        for (const ImprovedJoin& one : improvement.joins) {
          const ResolvedComposite composite = resolve(requireTrack(next, id), next.rate);
          const Join* const there = composite.joinAt(one.was.at);
          if (!there || !(*there == one.was)) continue;
          next = takeFinding(std::move(next), id, one.was.at, one.now);
          ++taken;
        }
        return next;
      });
  if (!applied || taken == 0) return messages_.say(tr("No join could be made plainly better."));
  messages_.say(tr("%n join(s) of %L1 have a better place now.", nullptr, taken)
                    .arg(static_cast<qlonglong>(improvement.looked)));
}

void JoinDesk::settle() {
  const Track* const track = inHand_.track();
  const auto at = inHand_.join();
  const Join* const join = track && at ? inHand_.composite(*track).joinAt(*at) : nullptr;
  if (!join) return;
  const bool settled = !join->settled;
  desk_.apply(
      settled ? tr("Settle a join") : tr("Take a join up again"),
      [id = track->id, at = *at, settled](const Session& s) { return settleJoin(s, id, at, settled); });
}

}  // namespace yewdrift::app
