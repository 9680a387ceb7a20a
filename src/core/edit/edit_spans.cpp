// SPDX-License-Identifier: GPL-3.0-or-later
//
// Loop, punches, markers, tempo and recording options.
#include "core/edit/edit.h"

#include <algorithm>
#include <cmath>

#include "core/error.h"
#include "core/session/limits.h"

namespace yewdrift {
namespace {

void requirePosition(Frames at) {
  if (at.count < 0 || at > maximumPosition) throw Error("That position lies outside the session.");
}

/// Where the bar line, or beat, that lies at `at` lies in another tempo; none where no line lies there, or
/// where that bar has no such beat then.
std::optional<Frames> sameLine(Frames at, const TempoMap& before, const TempoMap& after, SampleRate rate) {
  if (before.nearestBeat(at, rate) != at) return std::nullopt;
  MusicalPosition line = before.positionOf(at, rate);
  line.beat = std::round(line.beat);
  // Half a frame before a bar line is the last beat's end.
  if (line.beat > before.changeAt(line.bar).meter.beats) line = {line.bar + 1, 1.0};
  if (line.beat > after.changeAt(line.bar).meter.beats) return std::nullopt;
  return after.frameOf(line, rate);
}

}  // namespace

Session setTempo(Session session, TempoMap tempo) {
  if (session.loop) {
    const auto start = sameLine(session.loop->start, session.tempo, tempo, session.rate);
    const auto end = sameLine(session.loop->end, session.tempo, tempo, session.rate);
    if (start && end && *end - *start >= shortestLoop && *end <= maximumPosition)
      session.loop = Span{*start, *end};
  }
  session.tempo = std::move(tempo);
  return session;
}

Session setTempoChange(Session session, TempoChange change) {
  if (change.bar < 1) throw Error("Bars are numbered from 1.");
  std::vector<TempoChange> changes = session.tempo.changes();
  std::erase_if(changes, [&](const TempoChange& old) { return old.bar == change.bar; });
  changes.push_back(change);
  std::ranges::sort(changes, {}, &TempoChange::bar);
  return setTempo(std::move(session), TempoMap(changes));
}

Session removeTempoChange(Session session, int bar) {
  if (bar == 1) throw Error("At bar 1 there has to be a tempo; change it instead.");
  std::vector<TempoChange> changes = session.tempo.changes();
  if (std::erase_if(changes, [bar](const TempoChange& old) { return old.bar == bar; }) == 0)
    throw Error("There is no tempo change at bar %1.", bar);
  return setTempo(std::move(session), TempoMap(changes));
}

Session addMarker(Session session, Frames at, std::string name, MarkerKind kind) {
  requirePosition(at);
  name = readableText(name);
  if (name.empty()) {
    int count = 1;
    for (const Marker& marker : session.markers) count += marker.kind == kind ? 1 : 0;
    name = (kind == MarkerKind::Dropout ? "Dropout " : "Marker ") + std::to_string(count);
  }
  const auto place = std::ranges::upper_bound(session.markers, at, {}, &Marker::at);
  session.markers.insert(place, {at, std::move(name), kind});
  return session;
}

Session renameMarker(Session session, std::size_t index, std::string name) {
  if (index >= session.markers.size()) throw Error("There is no such marker.");
  name = readableText(name);
  if (name.empty()) throw Error("A marker needs a name.");
  session.markers[index].name = std::move(name);
  return session;
}

Session removeMarkers(Session session, const std::vector<std::size_t>& indices) {
  std::vector<Marker> kept;
  for (std::size_t i = 0; i < session.markers.size(); ++i)
    if (std::find(indices.begin(), indices.end(), i) == indices.end()) kept.push_back(session.markers[i]);
  session.markers = std::move(kept);
  return session;
}

Session setLoop(Session session, std::optional<Span> loop) {
  if (loop && loop->length() < shortestLoop)
    throw Error("A loop needs at least %1 frames; this one has %2.", shortestLoop.count,
                std::max<std::int64_t>(loop->length().count, 0));
  if (loop && (loop->start.count < 0 || loop->end > maximumPosition))
    throw Error("The loop lies outside the session.");
  session.loop = loop;
  return session;
}

Session widenLoop(Session session, double barsBefore, double barsBehind) {
  if (!session.loop) throw Error("There is no loop span yet; draw one on the ruler first.");
  const auto within = [](double bars) { return bars >= 0.0 && bars <= limits::widestLead; };
  if (!within(barsBefore) || !within(barsBehind))
    throw Error("A loop is widened by 0 to %1 bars.", static_cast<int>(limits::widestLead));
  const Ruler ruler = session.ruler();
  const Span wide{
      std::max(Frames{}, positionBefore(session.loop->start, {barsBefore, LengthUnit::Bars}, ruler)),
      positionBehind(session.loop->end, {barsBehind, LengthUnit::Bars}, ruler)};
  return setLoop(std::move(session), wide);
}

Span wholeBars(const Session& session, Span span) {
  const Ruler ruler = session.ruler();
  const auto nearBarLine = [&](Frames at) -> std::optional<Frames> {
    const Frames line = ruler.tempo.nearestBar(at, ruler.rate);
    const int bar = ruler.tempo.positionOf(line, ruler.rate).bar;
    const double quarterBeat = 15.0 / ruler.tempo.changeAt(bar).beatsPerMinute;
    if (std::abs(secondsFromFrames(at - line, ruler.rate)) <= quarterBeat) return line;
    return std::nullopt;
  };
  const Frames start = nearBarLine(span.start).value_or(ruler.tempo.barStart(span.start, ruler.rate));
  const Frames end = nearBarLine(span.end).value_or(ruler.tempo.barStart(span.end, ruler.rate, 1));
  return {start, std::max(end, ruler.tempo.barStart(start, ruler.rate, 1))};
}

Session setPunches(Session session, std::vector<Punch> punches) {
  std::ranges::sort(punches, {}, [](const Punch& punch) { return punch.span().start; });
  for (std::size_t i = 0; i < punches.size(); ++i) {
    const Span span = punches[i].span();
    if (!punches[i].in && !punches[i].out) throw Error("A punch needs an in or an out.");
    if (span.empty()) throw Error("A punch-out must lie after its punch-in.");
    if (punches[i].in) requirePosition(*punches[i].in);
    if (punches[i].out) requirePosition(*punches[i].out);
    if (i > 0 && span.start < punches[i - 1].span().end)
      throw Error("Two punch spans overlap; draw them apart or as one.");
  }
  session.punches = std::move(punches);
  return session;
}

Session addPunch(Session session, Span span) {
  if (span.empty()) throw Error("A punch-out must lie after its punch-in.");
  requirePosition(span.start);
  requirePosition(span.end);
  Punch made{span.start, span.end};
  std::vector<Punch> punches;
  for (const Punch& old : session.punches) {
    const Span there = old.span();
    if (there.end < span.start || there.start > span.end) {
      punches.push_back(old);
      continue;
    }
    if (!old.in || !made.in)
      made.in.reset();
    else
      made.in = std::min(*made.in, *old.in);
    if (!old.out || !made.out)
      made.out.reset();
    else
      made.out = std::max(*made.out, *old.out);
  }
  punches.push_back(made);
  return setPunches(std::move(session), std::move(punches));
}

Session punchInAt(Session session, Frames at) {
  std::vector<Punch> punches = session.punches;
  // It becomes the in of the punch-out that waits behind it, else it stays open until the next punch.
  for (Punch& punch : punches)
    if (!punch.in && punch.out > at) {
      punch.in = at;
      return setPunches(std::move(session), std::move(punches));
    }
  Punch made{at, std::nullopt};
  for (const Punch& punch : punches)
    if (punch.in && *punch.in > at && (!made.out || *punch.in < *made.out)) made.out = *punch.in;
  punches.push_back(made);
  return setPunches(std::move(session), std::move(punches));
}

Session punchOutAt(Session session, Frames at) {
  std::vector<Punch> punches = session.punches;
  for (Punch& punch : punches)
    if (!punch.out && punch.in < at) {
      punch.out = at;
      return setPunches(std::move(session), std::move(punches));
    }
  Punch made{std::nullopt, at};
  for (const Punch& punch : punches)
    if (punch.out && *punch.out < at) made.in = std::max(made.in, punch.out);
  punches.push_back(made);
  return setPunches(std::move(session), std::move(punches));
}

Session setRecordingOptions(Session session, const RecordingOptions& options) {
  checkRecordingOptions(options);
  session.recording = options;
  return session;
}

}  // namespace yewdrift
