// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/join_desk.h"

#include <QMetaObject>
#include <QSettings>
#include <algorithm>
#include <utility>

#include "app/look/spoken.h"
#include "core/edit/edit.h"

namespace yewdrift::app {

JoinDesk::JoinDesk(SessionDesk& desk, InHand& inHand, Jobs& jobs, Messages& messages)
    : desk_(desk), inHand_(inHand), jobs_(jobs), messages_(messages) {
  pool_.setMaxThreadCount(1);
  const QSettings settings;
  const auto kept = [&](const char* key, double otherwise, double lowest, double highest) {
    const double value = settings.value(key, otherwise).toDouble();
    return value >= lowest && value <= highest ? value : otherwise;
  };
  habits_ = {kept("joins/within", habits_.within, 1.0, JoinHabits::mostWithin),
             kept("joins/slip", habits_.slip, 0.0, JoinHabits::mostSlip),
             kept("joins/around", habits_.around, JoinHabits::leastAround, JoinHabits::mostAround)};
}

void JoinDesk::setHabits(const JoinHabits& habits) {
  if (habits == habits_) return;
  const bool otherWish = habits.within != habits_.within || habits.slip != habits_.slip;
  habits_ = habits;
  QSettings settings;
  settings.setValue("joins/within", habits.within);
  settings.setValue("joins/slip", habits.slip);
  settings.setValue("joins/around", habits.around);
  if (!otherWish) return;
  // Of the join in hand it is looked for anew; the measures of all stay.
  if (known_) known_->join.reset();
  want();
}

JoinWish JoinDesk::wish() const {
  const SampleRate rate = desk_.session().rate;
  return {framesFromSeconds(habits_.within / 1000.0, rate), framesFromSeconds(habits_.slip / 1000.0, rate)};
}

Frames JoinDesk::around() const {
  return framesFromSeconds(habits_.around, desk_.session().rate);
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

std::vector<Frames> JoinDesk::goodPlaces(Frames join) const {
  std::vector<Frames> places;
  if (findingsOf_ != join) return places;
  for (const JoinFinding& finding : findings_)
    if (finding.slip.count == 0) places.push_back(finding.at);
  return places;
}

/// What was measured of a join counts on as long as it is the same join of the same takes.
bool JoinDesk::Remembered::isOf(const Track& track, const ResolvedComposite& composite,
                                const Join& join) const {
  const auto sameTake = [&](const Piece& now, const Piece& then) {
    if (!playTheSame(now, then)) return false;
    return std::all_of(track.lanes.begin(), track.lanes.end(), [&](const Shared<Lane>& lane) {
      return !now.plays(lane->number) ||
             std::any_of(lanes.begin(), lanes.end(),
                         [&](const Shared<Lane>& known) { return known.same(lane); });
    });
  };
  return measured.join == join && level == track.composite.level &&
         sameTake(*composite.pieceAt(join.at - Frames{1}), left) &&
         sameTake(*composite.pieceAt(join.at), right);
}

void JoinDesk::begin(const Sought& wanted) {
  if (looking_) *looking_ = true;
  if (known_ && known_->track->id != wanted.track->id) {
    joins_.clear();
    remembered_.clear();
  }
  known_ = wanted;
  findings_.clear();
  findingsOf_.reset();
  looking_ = std::make_shared<std::atomic<bool>>(false);
  pool_.start([this, wanted, givenUp = looking_, session = desk_.session(), disk = desk_.disk(),
               leaks = leaks_, wish = wish(), remembered = remembered_]() mutable {
    if (*givenUp) return;
    if (!leaks) leaks = std::make_shared<const FadeLeaks>(session.rate);
    const Track& track = *wanted.track;
    const ResolvedComposite composite = resolve(track, session.rate);
    try {
      JoinFinder finder(disk, session.rate, leaks);
      if (const Join* const inHand = wanted.join ? composite.joinAt(*wanted.join) : nullptr) {
        const JoinView view = finder.view(session, track, composite, *inHand, wish);
        QMetaObject::invokeMethod(this, [this, givenUp, leaks, join = wanted.join,
                                         findings = finder.better(session, track, view, wish)]() mutable {
          leaks_ = leaks;
          if (!*givenUp) takeFindings(join, std::move(findings));
        });
      }
      measureAll(finder, session, track, composite, remembered, *givenUp);
    } catch (const std::exception&) {
      // A file that cannot be read is silent; whoever plays it says so.
    }
    QMetaObject::invokeMethod(this, [this, givenUp, leaks, remembered = std::move(remembered)]() mutable {
      leaks_ = leaks;
      if (!*givenUp) takeMeasures(std::move(remembered));
    });
  });
}

/// Those that are known already are not measured again.
void JoinDesk::measureAll(JoinFinder& finder, const Session& session, const Track& track,
                          const ResolvedComposite& composite, std::vector<Remembered>& remembered,
                          const std::atomic<bool>& givenUp) {
  const std::vector<Remembered> before = std::exchange(remembered, {});
  for (const Join& join : composite.joins) {
    if (givenUp) return;
    const auto known = std::find_if(before.begin(), before.end(), [&](const Remembered& each) {
      return each.measured.join.at == join.at && each.isOf(track, composite, join);
    });
    if (known != before.end())
      remembered.push_back(*known);
    else
      remembered.push_back({measured(finder.view(session, track, composite, join, {})),
                            *composite.pieceAt(join.at - Frames{1}), *composite.pieceAt(join.at), track.lanes,
                            track.composite.level});
  }
}

void JoinDesk::takeFindings(std::optional<Frames> join, std::vector<JoinFinding> findings) {
  findings_ = std::move(findings);
  findingsOf_ = join;
  emit found();
  const auto asked = std::exchange(improvesWhenFound_, std::nullopt);
  if (asked && asked == inHand_.join()) improveInHand();
}

void JoinDesk::takeMeasures(std::vector<Remembered> remembered) {
  looking_.reset();
  // Where a file could not be read nothing was found.
  if (!findingsOf_ && known_ && known_->join) takeFindings(known_->join, {});
  remembered_ = std::move(remembered);
  joins_.clear();
  for (const Remembered& each : remembered_) joins_.push_back(each.measured);
  std::stable_sort(joins_.begin(), joins_.end(),
                   [](const MeasuredJoin& a, const MeasuredJoin& b) { return a.risk > b.risk; });
  emit found();
  want();
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
  if (!findingsOf_ || findingsOf_ != inHand_.join()) {
    improvesWhenFound_ = inHand_.join();
    return messages_.say(tr("Listening to the takes around this join…"));
  }
  if (findings().empty())
    return messages_.say(tr("Nothing near this join is plainly better than what is there."));
  take(0);
}

void JoinDesk::improveAll(std::optional<Span> within) {
  const Track* const track = inHand_.track();
  if (!track) return;
  const TrackId id = track->id;
  jobs_.start(
      tr("Searching better places for joins"), Jobs::Cancel::Possible,
      [this, id, within, session = desk_.session(), disk = desk_.disk(), wish = wish()](Jobs::Run& job) {
        try {
          Improvement improvement = improveJoins(disk, session, id, wish, std::nullopt,
                                                 [&](double share) { return job.tell(share); });
          QMetaObject::invokeMethod(this, [this, id, within, improvement = std::move(improvement)] {
            takeImprovement(id, improvement, within);
          });
        } catch (const std::exception& e) {
          if (job.cancelled()) return;
          QMetaObject::invokeMethod(this, [this, problem = spoken(e)] { messages_.warn(problem); });
        }
      });
}

void JoinDesk::takeImprovement(TrackId id, const Improvement& improvement, std::optional<Span> within) {
  int moved = 0;
  int changed = 0;  // without being moved
  // Into the session as it is by now: a join that was changed meanwhile stays as it was changed.
  const bool applied =
      !improvement.joins.empty() && desk_.apply(tr("Better places for joins"), [&](const Session& present) {
        Session next = present;
        for (const ImprovedJoin& one : improvement.joins) {
          if (within && !within->contains(one.was.at)) continue;
          const ResolvedComposite composite = resolve(requireTrack(next, id), next.rate);
          const Join* const there = composite.joinAt(one.was.at);
          if (!there || !(*there == one.was)) continue;
          next = takeFinding(std::move(next), id, one.was.at, one.now);
          ++(one.now.at == one.was.at ? changed : moved);
        }
        return next;
      });
  if (!applied || moved + changed == 0) return messages_.say(tr("No join could be made plainly better."));
  QStringList said;
  if (moved > 0)
    said << tr("%n joins lie at a better place now.|One join lies at a better place now.", nullptr, moved);
  if (changed > 0)
    said << tr(
        "%n joins stay where they are and fade better now.|"
        "One join stays where it is and fades better now.",
        nullptr, changed);
  if (const auto rest = static_cast<int>(improvement.looked) - moved - changed; !within && rest > 0)
    said << tr(
        "For %n others nothing plainly better was found.|For one other nothing plainly better was found.",
        nullptr, rest);
  messages_.say(said.join(QLatin1Char(' ')));
}

void JoinDesk::setAllLikeInHand(std::optional<Span> within) {
  const Track* const track = inHand_.track();
  const auto at = inHand_.join();
  const Join* const join = track && at ? inHand_.composite(*track).joinAt(*at) : nullptr;
  if (!join) return;
  const JoinShape shape = join->shape;
  const TrackId id = track->id;
  if (!desk_.apply(tr("Set all joins"), [id, shape, within](const Session& s) {
        return changeJoins(s, id, {shape.before, shape.after, shape.curve, shape.bend}, within);
      }))
    return;
  // A take that has no more material, and a piece that is short, leave room for less.
  int alike = 0;
  int shorter = 0;
  int settled = 0;
  for (const Join& each : inHand_.composite(*desk_.session().track(id)).joins)
    if (!within || within->contains(each.at))
      ++(each.settled ? settled : each.shape == shape ? alike : shorter);
  QStringList said{
      tr("%n joins have this length and curve now.|One join has this length and curve now.", nullptr, alike)};
  if (shorter > 0)
    said << tr(
        "%n have this curve, but there is room for a shorter crossfade only.|"
        "One has this curve, but there is room for a shorter crossfade only.",
        nullptr, shorter);
  if (settled > 0)
    said << tr("%n settled ones stay as they are.|A settled one stays as it is.", nullptr, settled);
  messages_.say(said.join(QLatin1Char(' ')));
}

void JoinDesk::compareBefore() {
  const auto at = inHand_.join();
  if (!at) return;
  // What was taken back to compare is done again.
  if (compared_ && compared_->undone == desk_.history().at() && desk_.history().redoLabel()) {
    desk_.redo();
    inHand_.takeJoin(compared_->now);
    messages_.say(tr("As it is now."));
    return compared_.reset();
  }
  const Track* const track = inHand_.track();
  History before = desk_.history();
  if (!track || !before.undoLabel()) return;
  try {
    before.undo();
  } catch (const std::exception& e) {
    return messages_.say(e);
  }
  const Track* const was = before.now().track(track->id);
  if (!was || was->composite == track->composite)
    return messages_.say(tr("The last step changed nothing of the composite: there is no before to hear."));
  desk_.undo();
  if (desk_.history().at() != before.at()) return;  // it may not be undone now, which was said
  compared_ = Compared{desk_.history().at(), *at};
  // The join may have been elsewhere.
  const Track* const there = inHand_.track();
  if (there && !inHand_.join())
    if (const Join* nearest = inHand_.composite(*there).nearestJoin(*at)) inHand_.takeJoin(nearest->at);
  messages_.say(tr("As it was before."));
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
