// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/time/frames.h"

#include <cmath>

namespace yewdrift {

Frames framesFromSeconds(double seconds, SampleRate rate) {
  return {std::llround(seconds * rate.hertz)};
}

double secondsFromFrames(Frames frames, SampleRate rate) {
  return static_cast<double>(frames.count) / rate.hertz;
}

}  // namespace yewdrift
