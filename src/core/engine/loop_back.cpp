// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/loop_back.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <random>

#include "core/signal/cross_correlation.h"

namespace yewdrift {
namespace {

constexpr int bursts = 3;
constexpr double burstSeconds = 0.08;
constexpr double apartSeconds = 1.0;
constexpr float level = 0.25F;
constexpr double leastSureness = 0.5;
/// At the second best place clearly less of it has to be found than at the best.
constexpr double mostRival = 0.6;

std::size_t frames(double seconds, SampleRate rate) {
  return static_cast<std::size_t>(framesFromSeconds(seconds, rate).count);
}

float loudest(const std::vector<float>& samples) {
  float peak = 0.0F;
  for (const float sample : samples) peak = std::max(peak, std::abs(sample));
  return peak;
}

LoopBackResult compared(const LoopBackProbe& probe, SampleRate rate) {
  LoopBackResult result;
  if (loudest(probe.heard) < 1e-4F) {
    result.sentence =
        Sentence("Nothing came back on input %1. Connect an output to it with a cable and turn its gain up.",
                 probe.input + 1);
    return result;
  }
  const std::size_t apart = frames(apartSeconds, rate);
  result.sureness = 1.0;
  for (int burst = 0; burst < bursts; ++burst) {
    const std::size_t from = apart * static_cast<std::size_t>(burst);
    const std::span sent = std::span(probe.signal).subspan(from, frames(burstSeconds, rate));
    const std::size_t listen = std::min(apart / 2 + sent.size(), probe.heard.size() - from);
    const CorrelationPeak peak = findByCorrelation(std::span(probe.heard).subspan(from, listen), sent);
    const Frames lag{static_cast<std::int64_t>(peak.lag)};
    result.sureness = std::min(result.sureness, peak.correlation);
    if (peak.correlation < leastSureness || peak.rival > mostRival) {
      result.sentence = Sentence(
          "The test signal did not come back clearly enough to be sure, so nothing was stored. Connect the "
          "output straight to input %1 with a cable, and keep microphones away from loudspeakers.",
          probe.input + 1);
      return result;
    }
    if (burst > 0 && std::abs((lag - result.roundTrip).count) > 1) {
      result.sentence = Sentence(
          "The round trip changed while it was measured, so nothing was stored: the device lost frames or "
          "is busy. Try again, with a larger block if it goes on.");
      return result;
    }
    if (burst == 0) result.roundTrip = lag;
  }
  result.good = true;
  result.sentence = Sentence(
      "The round trip is %n frame(s) (%1 ms), %2 % sure.", Count{result.roundTrip.count},
      Decimal{secondsFromFrames(result.roundTrip, rate) * 1000.0, 1}, std::lround(result.sureness * 100.0));
  return result;
}

}  // namespace

void prepareProbe(LoopBackProbe& probe, int input, SampleRate rate) {
  probe.input = input;
  probe.signal.assign(frames(apartSeconds, rate) * bursts, 0.0F);
  probe.heard.assign(probe.signal.size(), 0.0F);
  std::minstd_rand random(20261124);
  std::uniform_real_distribution<float> noise(-level, level);
  for (int burst = 0; burst < bursts; ++burst) {
    const std::size_t from = frames(apartSeconds, rate) * static_cast<std::size_t>(burst);
    for (std::size_t i = 0; i < frames(burstSeconds, rate); ++i) probe.signal[from + i] = noise(random);
  }
}

LoopBackResult measureRoundTrip(const LoopBackProbe& probe, SampleRate rate) {
  LoopBackResult result = compared(probe, rate);
  // What frames that were lost do to it looks like any other fault.
  if (!result.good && probe.dropouts > 0)
    result.sentence = Sentence(
        "The device lost frames %n times while the round trip was measured, so nothing was stored. Try again "
        "when the machine has less to do, or with a larger block.|The device lost frames while the round "
        "trip was measured, so nothing was stored. Try again when the machine has less to do, or with a "
        "larger block.",
        Count{probe.dropouts});
  return result;
}

}  // namespace yewdrift
