// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/views/span_gestures.h"

#include "core/edit/edit.h"

namespace yewdrift::app {
namespace {

SpanGestures::Part partAt(std::optional<Frames> start, std::optional<Frames> end, Frames at, Frames reach) {
  auto near = [&](std::optional<Frames> edge) { return edge && std::abs((*edge - at).count) <= reach.count; };
  if (near(start)) return SpanGestures::Part::Start;
  if (near(end)) return SpanGestures::Part::End;
  const bool inside = (!start || at >= *start) && (!end || at < *end);
  return inside ? SpanGestures::Part::Body : SpanGestures::Part::None;
}

}  // namespace

SpanGestures::Grip SpanGestures::gripAt(Row row, Frames at, Frames reach) const {
  if (row == Row::Loop) {
    const auto& loop = desk_.session().loop;
    return loop ? Grip{partAt(loop->start, loop->end, at, reach), 0} : Grip{};
  }
  Grip found;
  const auto& punches = desk_.session().punches;
  for (std::size_t i = 0; i < punches.size(); ++i) {
    const Part part = partAt(punches[i].in, punches[i].out, at, reach);
    // Where two spans meet, an edge is meant rather than a body.
    if (part != Part::None && (found.part == Part::None || found.part == Part::Body)) found = {part, i};
  }
  return found;
}

void SpanGestures::begin(Row row, Frames at, Frames reach) {
  active_ = true;
  row_ = row;
  grip_ = gripAt(row, at, reach);
  from_ = at;
  loopBefore_ = desk_.session().loop;
  punchesBefore_ = desk_.session().punches;
}

Frames SpanGestures::snap(Frames at, bool free) const {
  return std::max(Frames{}, free ? at : inHand_.snapped(at));
}

void SpanGestures::drag(Frames now, bool free) {
  if (!active_) return;
  if (row_ == Row::Loop)
    dragLoop(now, free);
  else
    dragPunch(now, free);
}

void SpanGestures::dragLoop(Frames now, bool free) {
  Span to{snap(std::min(now, from_), free), snap(std::max(now, from_), free)};
  if (grip_.part == Part::Start) to = {snap(now, free), loopBefore_->end};
  if (grip_.part == Part::End) to = {loopBefore_->start, snap(now, free)};
  if (grip_.part == Part::Body) {
    const Frames start = snap(loopBefore_->start + now - from_, free);
    to = {start, start + loopBefore_->length()};
  }
  desk_.preview([to](const Session& s) { return setLoop(s, to); });
}

void SpanGestures::dragPunch(Frames now, bool free) {
  if (grip_.part == Part::None) {
    const Span drawn{snap(std::min(now, from_), free), snap(std::max(now, from_), free)};
    return desk_.preview([drawn](const Session& s) { return drawn.empty() ? s : addPunch(s, drawn); });
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
  desk_.preview([punches](const Session& s) { return setPunches(s, punches); });
}

void SpanGestures::finish() {
  if (!active_) return;
  active_ = false;
  desk_.finishPreview(row_ == Row::Loop ? QObject::tr("Set the loop") : QObject::tr("Set a punch"));
  if (row_ == Row::Punch && desk_.session().punches != punchesBefore_) recording_.setAutoPunch(true);
}

void SpanGestures::cancel() {
  if (!active_) return;
  active_ = false;
  desk_.cancelPreview();
}

}  // namespace yewdrift::app
