// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/record_words.h"

#include <cmath>

namespace yewdrift::app {

RecordWords::RecordWords(const RollingNow& now, SampleRate rate)
    : word(wordFor(now)), detail(detailFor(now, rate)), recording(now.engine.recording), armed(now.armed) {
  if (now.recording && now.cue) toGo = now.cue->toGo;
}

QString RecordWords::spoken() const {
  return detail.isEmpty() ? word : tr("%1, %2").arg(word, detail);
}

QString RecordWords::wordFor(const RollingNow& now) {
  if (now.engine.countIn.count > 0) return tr("Counting in");
  if (now.recording) {
    if (now.engine.recording) return tr("Recording");
    if (now.playsBack && now.engine.round % 2 == 0) return tr("Playing back");
    return now.growing ? tr("Rolling") : tr("Rolling in");
  }
  if (now.engine.rolling) return tr("Playing");
  if (now.deviceOpening) return tr("Opening");
  if (now.deviceNeeded && !now.deviceAlive) return tr("No audio device");
  return now.armed ? tr("Ready") : tr("Stopped");
}

QString RecordWords::detailFor(const RollingNow& now, SampleRate rate) {
  if (now.engine.countIn.count > 0) {
    const double beats = secondsFromFrames(now.engine.countIn, rate) * now.beatsPerMinute / 60.0;
    return tr("%n beat(s) to go", nullptr, static_cast<int>(std::ceil(beats)));
  }
  if (now.recording && now.cue) {
    const int left = now.cue->toGo;
    switch (now.cue->kind) {
      case ComingEvent::Kind::PunchIn:
        return now.grid ? tr("%n beat(s) to the punch-in", nullptr, left)
                        : tr("%n s to the punch-in", nullptr, left);
      case ComingEvent::Kind::PunchOut:
        return now.grid ? tr("%n beat(s) to the punch-out", nullptr, left)
                        : tr("%n s to the punch-out", nullptr, left);
      case ComingEvent::Kind::Wrap:
        return now.grid ? tr("%n beat(s), then round again", nullptr, left)
                        : tr("%n s, then round again", nullptr, left);
    }
  }
  if (now.recording) {
    if (!now.growing) return tr("pass %1 comes").arg(now.engine.round);
    if (now.passes > 0)
      return tr("pass %1 of %2, lane %3")
          .arg(now.growing->round)
          .arg(now.passes)
          .arg(now.growing->lane.value);
    return tr("pass %1, lane %2").arg(now.growing->round).arg(now.growing->lane.value);
  }
  if (now.deviceNeeded && !now.deviceAlive && !now.deviceOpening) return tr("[Ctrl+D] chooses one");
  if (now.standingBy) return tr("all is captured; [N] punches in");
  if (now.autoPunchStandsBy && !now.engine.rolling) return tr("automatic punch stands by");
  return {};
}

}  // namespace yewdrift::app
