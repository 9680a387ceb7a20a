// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <vector>

#include "core/signal/peaks.h"
#include "core/time/frames.h"

namespace yewdrift {

/// One take as it lies in the session: peaks of its source, whose sample 0 lies at `origin`, where it is
/// audible.
struct TakePeaks {
  const PeakPyramid* peaks = nullptr;
  Frames origin;
  Span window;
};

/// The phrases of a part: what lies between the rests that all takes have in common. A rest lasts at least a
/// quarter of a second and is 35 dB below the loudest moment, or below -50 dB of full scale. To 256 frames.
std::vector<Span> findPhrases(std::span<const TakePeaks> takes, SampleRate rate);

/// The place of the zero crossing nearest to index `middle`; `middle` itself where there is none.
int nearestCrossing(std::span<const float> samples, int middle);

}  // namespace yewdrift
