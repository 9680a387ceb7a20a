// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/views/span_gestures.h"

#include "core/edit/edit.h"

namespace yewdrift::app {
namespace {

struct NearestGrip {
  SpanGestures::Part part = SpanGestures::Part::None;
  std::int64_t away = 0;  // frames; of an edge
};

/// An edge in reach rather than a body, and of two edges the nearer.
NearestGrip gripOf(std::optional<Frames> start, std::optional<Frames> end, Frames at, Frames reach) {
  NearestGrip found;
  const auto offer = [&](std::optional<Frames> edge, SpanGestures::Part part) {
    if (!edge) return;
    const std::int64_t away = std::abs((*edge - at).count);
    if (away > reach.count || (found.part != SpanGestures::Part::None && away >= found.away)) return;
    found = {part, away};
  };
  offer(start, SpanGestures::Part::Start);
  offer(end, SpanGestures::Part::End);
  if (found.part == SpanGestures::Part::None && (!start || at >= *start) && (!end || at < *end))
    found.part = SpanGestures::Part::Body;
  return found;
}

}  // namespace

SpanGestures::Grip SpanGestures::gripAt(Row row, Frames at, Frames reach) const {
  if (row == Row::Loop) {
    const auto& loop = desk_.session().loop;
    return loop ? Grip{gripOf(loop->start, loop->end, at, reach).part, 0} : Grip{};
  }
  Grip found;
  NearestGrip nearest;
  const auto& punches = desk_.session().punches;
  for (std::size_t i = 0; i < punches.size(); ++i) {
    const NearestGrip here = gripOf(punches[i].in, punches[i].out, at, reach);
    if (here.part == Part::None) continue;
    const bool edge = here.part != Part::Body;
    const bool edgeBefore = found.part != Part::None && found.part != Part::Body;
    // Where two spans meet in one frame, the side of the pointer says which is meant.
    const bool mine =
        here.part == Part::Start ? at >= *punches[i].in : here.part == Part::End && at < *punches[i].out;
    if (found.part == Part::None || (edge && !edgeBefore) ||
        (edge && (here.away < nearest.away || (here.away == nearest.away && mine)))) {
      found = {here.part, i};
      nearest = here;
    }
  }
  return found;
}

void SpanGestures::begin(Row row, Frames at, Frames reach, bool moves, HeldEdit::OnEnded ended) {
  row_ = row;
  // With Ctrl the body counts right up to its edges; without, a drag inside it draws.
  grip_ = gripAt(row, at, moves ? Frames{-1} : reach);
  if (!moves && grip_.part == Part::Body) grip_ = {};
  from_ = at;
  drawn_ = true;
  loopBefore_ = desk_.session().loop;
  punchesBefore_ = desk_.session().punches;
  held_.begin(row == Row::Loop ? QObject::tr("Set the loop") : QObject::tr("Set a punch"),
              [this, ended = std::move(ended)](HeldEdit::Ended how) {
                over();
                ended(how);
              });
}

Frames SpanGestures::snap(Frames at, bool free) const {
  return std::max(Frames{}, free ? at : inHand_.snapped(at));
}

void SpanGestures::drag(Frames now, bool free) {
  if (!held_.held()) return;
  if (row_ == Row::Loop)
    dragLoop(now, free);
  else
    dragPunch(now, free);
}

void SpanGestures::dragLoop(Frames now, bool free) {
  Span to{snap(std::min(now, from_), free), snap(std::max(now, from_), free)};
  if (grip_.part == Part::None) drawn_ = !to.empty();
  if (grip_.part == Part::Start) to = {snap(now, free), loopBefore_->end};
  if (grip_.part == Part::End) to = {loopBefore_->start, snap(now, free)};
  if (grip_.part == Part::Body) {
    const Frames start = snap(loopBefore_->start + now - from_, free);
    to = {start, start + loopBefore_->length()};
  }
  held_.show([to](const Session& s) { return to.empty() ? s : setLoop(s, to); });
}

void SpanGestures::dragPunch(Frames now, bool free) {
  if (grip_.part == Part::None) {
    const Span drawn{snap(std::min(now, from_), free), snap(std::max(now, from_), free)};
    drawn_ = !drawn.empty();
    return held_.show([drawn](const Session& s) { return drawn.empty() ? s : addPunch(s, drawn); });
  }
  std::vector<Punch> punches = punchesBefore_;
  Punch& punch = punches[grip_.punch];
  // A span gives way to its neighbours.
  const Frames least = grip_.punch > 0 ? punches[grip_.punch - 1].span().end : Frames{};
  const Frames most =
      grip_.punch + 1 < punches.size() ? punches[grip_.punch + 1].span().start : maximumPosition;
  if (grip_.part == Part::Start) {
    punch.in = std::max(least, snap(now, free));
  } else if (grip_.part == Part::End) {
    punch.out = std::min(most, snap(now, free));
  } else {
    const Frames anchor = punch.in ? *punch.in : *punch.out;
    Frames by = snap(anchor + now - from_, free) - anchor;
    if (punch.in) by = std::max(by, least - *punch.in);
    if (punch.out) by = std::min(by, most - *punch.out);
    if (punch.in) *punch.in += by;
    if (punch.out) *punch.out += by;
  }
  held_.show([punches](const Session& s) { return setPunches(s, punches); });
}

QString SpanGestures::finish() {
  if (!held_.held()) return {};
  held_.keep();
  over();
  return drawn_ ? QString() : inHand_.tooShortToSnap();
}

/// Who has drawn or moved a punch means to record in it.
void SpanGestures::over() {
  if (row_ == Row::Punch && desk_.session().punches != punchesBefore_) recording_.setAutoPunch(true);
}

}  // namespace yewdrift::app
