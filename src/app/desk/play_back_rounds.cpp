// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/play_back_rounds.h"

namespace yewdrift::app {

bool PlayBackRounds::playsBackNow(const Recorder& recorder) const {
  const EngineState now = transport_.state();
  return recorder.setup().playBack && recorder.setup().timeline.loop && now.rolling && now.round % 2 == 0;
}

/// The session with the pass before `round`, heard alone.
CompiledFor PlayBackRounds::before(const Recorder& recorder, int round) const {
  Recorded until = recorder.until(desk_.session(), recorder.setup().timeline.roundStart(round));
  CompiledFor made{std::move(until.session), {}};
  for (const RecordedLane& lane : until.lanes)
    if (lane.round == round - 1) made.how.heard.push_back({lane.track, {lane.lane}});
  return made;
}

void PlayBackRounds::follow(const Recorder& recorder) {
  const RecordSetup& setup = recorder.setup();
  const EngineState now = transport_.state();
  if (!setup.playBack || !setup.timeline.loop || !now.rolling) return;
  const int next = now.round % 2 == 0 ? now.round : now.round + 1;
  if (told_ == next) return;
  told_ = next;
  if (next != now.round) transport_.hearFrom(setup.timeline.roundStart(next), before(recorder, next));
  transport_.hearFrom(setup.timeline.roundStart(next + 1), transport_.present());
}

bool PlayBackRounds::remake(const Recorder& recorder) {
  told_ = 0;
  if (!playsBackNow(recorder)) return false;
  transport_.hear(before(recorder, transport_.state().round));
  return true;
}

}  // namespace yewdrift::app
