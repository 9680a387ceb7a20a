// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/record_cue.h"

#include <algorithm>
#include <cmath>

namespace yewdrift {
namespace {

/// Whether it records at that frame of the roll, and how long that holds.
Audible recordsAt(const RecordSetup& setup, const RollTimeline::Run& run, Frames rollFrame) noexcept {
  if (!setup.byHand) return audibleAt(setup, run);
  // The hand that is known: one punch that was planned before the roll.
  if (setup.handPunches.empty() || run.counting) return {false, run.length};
  const Frames in = setup.handPunches.front().start;
  if (rollFrame < in) return {false, std::min(run.length, in - rollFrame)};
  return {true, run.length};
}

}  // namespace

std::optional<ComingEvent> comingEvent(const RecordSetup& setup, Frames rollFrame, Frames within) noexcept {
  const std::optional<Frames> total = setup.timeline.totalLength();
  bool first = true;
  bool records = false;
  for (Frames at = rollFrame; at - rollFrame <= within && (!total || at < *total);) {
    const RollTimeline::Run run = setup.timeline.runAt(at);
    const Audible now = recordsAt(setup, run, at);
    if (first)
      records = now.audible;
    else if (now.audible != records)
      return ComingEvent{now.audible ? ComingEvent::Kind::PunchIn : ComingEvent::Kind::PunchOut,
                         at - rollFrame};
    else if (run.jumped)
      return ComingEvent{ComingEvent::Kind::Wrap, at - rollFrame};
    first = false;
    at += std::max(Frames{1}, now.length);
  }
  return std::nullopt;
}

CountDown countDownTo(Frames at, const TempoMap& tempo, SampleRate rate, bool grid) noexcept {
  if (!grid) return {Frames{rate.hertz}, 3};
  const TempoChange& change = tempo.changeAt(tempo.positionOf(at - Frames{1}, rate).bar);
  return {Frames{std::llround(60.0 / change.beatsPerMinute * rate.hertz)},
          std::clamp(change.meter.beats, 2, 4)};
}

Frames longestCountDown(SampleRate rate) noexcept {
  constexpr std::int64_t slowestBeatSeconds = 6;  // 10 beats a minute
  return Frames{rate.hertz} * (4 * slowestBeatSeconds);
}

std::optional<ShownCue> cueAt(const RecordSetup& setup, const Ruler& ruler, Frames rollFrame) {
  const auto coming = comingEvent(setup, rollFrame, longestCountDown(ruler.rate));
  if (!coming) return std::nullopt;
  const RollTimeline::Run last = setup.timeline.runAt(rollFrame + coming->away - Frames{1});
  const CountDown down = countDownTo(last.position + Frames{1}, ruler.tempo, ruler.rate, ruler.grid);
  if (coming->away > down.length()) return std::nullopt;
  const std::int64_t begun = (coming->away.count + down.beat.count - 1) / down.beat.count;
  return ShownCue{coming->kind, static_cast<int>(begun)};
}

}  // namespace yewdrift
