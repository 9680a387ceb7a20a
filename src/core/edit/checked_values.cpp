// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/checked_values.h"

#include "core/edit/edit_takes.h"
#include "core/error.h"
#include "core/session/limits.h"

namespace yewdrift {

Decibels checkedGain(Decibels gain) {
  if (!(gain >= limits::lowestGain && gain <= limits::highestGain))
    throw Error("A gain lies between %1 and %2 dB.", static_cast<int>(limits::lowestGain.value),
                static_cast<int>(limits::highestGain.value));
  return gain;
}

Cents checkedPitch(Cents pitch) {
  if (!(pitch <= limits::widestPitch && pitch.value >= -limits::widestPitch.value))
    throw Error("A pitch lies within %1 cents either way.", static_cast<int>(limits::widestPitch.value));
  return pitch;
}

LevelLine checkedLevel(const LevelLine& line) {
  LevelLine checked;
  for (const LevelPoint& point : line) {
    checkedGain(point.gain);
    if (point.at > maximumPosition || point.at < -maximumPosition)
      throw Error("That position lies outside the session.");
    checked = withPoint(std::move(checked), point);
  }
  if (checked.size() > limits::levelPoints)
    throw Error("A line can have %1 points at most.", limits::levelPoints);
  return checked;
}

}  // namespace yewdrift
