// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/plan_recording.h"

#include "core/error.h"

namespace yewdrift {
namespace {

/// The start of the roll so that `length` plays before `from`; noted where the session's start cuts it. Where
/// `fill` says so, a count-in takes as long as what was cut.
void leadUpTo(RecordSetup& setup, Frames from, MusicalLength length, const Ruler& ruler, bool fill) {
  const Frames wanted = positionBefore(from, length, ruler);
  setup.timeline.start = std::max(Frames{}, wanted);
  setup.preRollCut = wanted.count < 0;
  setup.preRollFilled = setup.preRollCut && fill;
  if (setup.preRollFilled) setup.timeline.countIn = -wanted;
}

/// Records from `recordFrom` on; where a hand punches meanwhile, the hand decides.
void punchInOnce(RecordSetup& setup) {
  setup.byHand = true;
  setup.handPunches = {{setup.timeline.countIn + (setup.recordFrom - setup.timeline.start), maximumPosition}};
}

void planLoop(RecordSetup& setup, const Session& session, Span loop, Frames playhead) {
  const RecordingOptions& options = session.recording;
  setup.timeline.loop = loop;
  setup.timeline.passes = options.passes;
  setup.playBack = options.playBack;
  setup.recordFrom = loop.start;
  // Punches elsewhere in the song are for when it plays there; where there is none here, that is said.
  const auto here = [loop](Span punch) { return punch.overlaps(loop); };
  if (std::any_of(setup.punches.begin(), setup.punches.end(), here))
    std::erase_if(setup.punches, [here](Span punch) { return !here(punch); });
  // A playhead before the loop is a pre-roll of its own.
  if (playhead < loop.start)
    setup.timeline.start = playhead;
  else
    leadUpTo(setup, loop.start, options.preRoll, session.ruler(), options.fillPreRoll);
}

void planPunches(RecordSetup& setup, const Session& session, Frames playhead) {
  const Ruler ruler = session.ruler();
  // Punches that lie behind the playhead are not come by, unless there are no others.
  if (setup.punches.back().end > playhead)
    std::erase_if(setup.punches, [playhead](Span punch) { return punch.end <= playhead; });
  const Span first = setup.punches.front();
  if (first.start < Frames{}) {
    setup.recordFrom = playhead;
    leadUpTo(setup, playhead, session.recording.preRoll, ruler, session.recording.fillPreRoll);
  } else if (playhead < first.start) {
    // The way to it is a pre-roll of its own.
    setup.timeline.start = playhead;
    setup.recordFrom = first.start;
  } else {
    setup.recordFrom = first.start;
    leadUpTo(setup, first.start, session.recording.preRoll, ruler, session.recording.fillPreRoll);
  }
  const Frames out = setup.punches.back().end;
  if (out < maximumPosition) setup.timeline.stopAt = out;
}

void addCountIn(RecordSetup& setup, const Session& session) {
  // Bars of the tempo it starts in, whatever lies before and behind.
  setup.timeline.countIn +=
      session.tempo.lengthOfBars(session.recording.countInBars, setup.timeline.start, session.rate);
}

}  // namespace

bool hushes(const RecordingOptions& options) {
  return options.hush && options.result != PassResult::Overdub;
}

RecordSetup planRecording(const Session& session, const RecordRequest& request) {
  const RecordingOptions& options = session.recording;
  RecordSetup setup;
  setup.roundTrip = request.roundTrip;
  setup.result = options.result;
  setup.hush = hushes(options);
  if (options.punch)
    for (const Punch& punch : session.punches) setup.punches.push_back(punch.span());
  const auto loop = options.loop ? session.loop : std::nullopt;
  if (loop) {
    planLoop(setup, session, *loop, request.playhead);
  } else if (!setup.punches.empty()) {
    planPunches(setup, session, request.playhead);
  } else {
    setup.recordFrom = request.playhead;
    leadUpTo(setup, request.playhead, options.preRoll, session.ruler(), options.fillPreRoll);
  }
  addCountIn(setup, session);
  const std::optional<Frames> end = loop ? std::optional(loop->end) : setup.timeline.stopAt;
  if (end) setup.timeline.postRoll = positionBehind(*end, options.postRoll, session.ruler()) - *end;
  // Round a loop it stops after so many times round; only a punch has an out that it can play on from.
  if (setup.timeline.stopAt && options.playOn) setup.timeline.postRoll = untilStopped;
  if (setup.punches.empty()) punchInOnce(setup);
  setup.check();
  return setup;
}

Frames pickUpPoint(const Session& session, Frames playhead, std::optional<Span> selection) {
  if (selection) return selection->start;
  return std::max(Frames{}, playhead - framesFromSeconds(session.recording.backUpSeconds, session.rate));
}

RecordSetup planPickUp(const Session& session, const RecordRequest& request, std::optional<Span> selection) {
  RecordSetup setup;
  setup.roundTrip = request.roundTrip;
  setup.hush = session.recording.hush;
  setup.result = PassResult::Replace;
  setup.recordFrom = pickUpPoint(session, request.playhead, selection);
  leadUpTo(setup, setup.recordFrom, {session.recording.leadSeconds, LengthUnit::Seconds}, session.ruler(),
           false);
  punchInOnce(setup);
  setup.check();
  return setup;
}

std::vector<PlannedStretch> firstTimeRound(const RecordSetup& setup) {
  const RollTimeline& timeline = setup.timeline;
  const Frames end = timeline.loop ? timeline.loop->end : timeline.stopAt.value_or(maximumPosition);
  const Frames captured = timeline.countIn + (end - timeline.start) + setup.roundTrip;
  std::vector<PlannedStretch> stretches;
  Frames at = timeline.start;
  auto play = [&](Frames until) {
    if (at < until) stretches.push_back({{at, until}, false});
  };
  for (const PassWindow& pass : passWindows(setup, captured)) {
    if (pass.round > 1) break;
    play(pass.window.start);
    stretches.push_back({pass.window, true});
    at = pass.window.end;
  }
  play(end);
  at = std::max(at, end);
  if (timeline.totalLength() && end < maximumPosition) play(end + timeline.postRoll);
  return stretches;
}

RecordSetup planStandby(const RollTimeline& timeline, const Session& session, Frames roundTrip) {
  RecordSetup setup;
  setup.timeline = timeline;
  setup.recordFrom = timeline.start;
  setup.roundTrip = roundTrip;
  setup.byHand = true;
  setup.result = session.recording.result;
  setup.hush = hushes(session.recording);
  return setup;
}

}  // namespace yewdrift
