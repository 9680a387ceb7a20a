// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <span>
#include <vector>

#include "core/signal/peaks.h"
#include "core/time/frames.h"
#include "core/time/phrase_rules.h"

namespace yewdrift {

/// Material of a take as it lies in the session: peaks of its source, one pyramid a channel, whose sample 0
/// lies at `origin`, where it is audible.
struct ClipPeaks {
  std::vector<const PeakPyramid*> channels;
  Frames origin;
  Span window;
};
/// A take: its clips in order of time.
using TakePeaks = std::vector<ClipPeaks>;

/// The phrases of a part: what lies between the rests that the takes have in common. Each take is judged
/// against its own noise: it sounds from where its level passes a threshold above that until it falls below a
/// lower one. A rest is where hardly any of the takes that are there sounds (of five one may cough);
/// where most takes rest now and then, those that never do have no say. To 256
/// frames; in order, not overlapping. Takes that never rest are one phrase. A part of more
/// than six million such stretches (nine hours at 48 kHz) has none. Breaks off, and finds none, once it is
/// cancelled.
std::vector<Span> findPhrases(std::span<const TakePeaks> takes, SampleRate rate,
                              const PhraseRules& rules = {}, const std::atomic<bool>* cancelled = nullptr);

/// The place of the zero crossing nearest to index `middle`; `middle` itself where there is none.
int nearestCrossing(std::span<const float> samples, int middle);

}  // namespace yewdrift
