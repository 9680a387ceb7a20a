// SPDX-License-Identifier: GPL-3.0-or-later
//
// The round trip of a device, measured with its output patched to its input.
#pragma once

#include <atomic>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "core/sentence.h"
#include "core/time/frames.h"

namespace yewdrift {

/// A test signal on its way out and what comes back. The engine plays and fills it; made and read elsewhere.
struct LoopBackProbe {
  int input = 0;
  std::vector<float> signal;
  std::vector<float> heard;   // as long as it listens
  std::size_t played = 0;     // audio thread
  std::int64_t dropouts = 0;  // audio thread: how often the device lost frames meanwhile
  std::atomic<bool> finished{false};
};

/// Three bursts of noise, each a second of listening apart: round trips up to half of that can be told.
void prepareProbe(LoopBackProbe& probe, int input, SampleRate rate);

struct LoopBackResult {
  bool good = false;
  Frames roundTrip;
  double sureness = 0.0;  // 0..1: how alike what came back is to what was sent, in the worst of the bursts
  Sentence sentence;      // says what was found, or why it was refused
};
/// Finds the bursts by correlation. Refuses where one is not heard clearly or they do not agree; where the
/// device lost frames meanwhile that is the reason given, and no cable is blamed.
LoopBackResult measureRoundTrip(const LoopBackProbe& probe, SampleRate rate);

}  // namespace yewdrift
