// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/phrases.h"

#include <algorithm>
#include <cmath>

namespace yewdrift {
namespace {

constexpr double restSeconds = 0.25;
constexpr float restBelowLoudest = 0.0178F;  // -35 dB
constexpr float restBelow = 0.00316F;        // -50 dB

/// The loudest of all takes in every stretch of 256 frames from `start` on.
std::vector<float> loudness(std::span<const TakePeaks> takes, Span all) {
  const auto steps = static_cast<std::size_t>(all.length().count / PeakPyramid::baseSpan) + 1;
  std::vector<float> levels(steps, 0.0F);
  for (const TakePeaks& take : takes) {
    const auto& base = take.peaks->levels().front();
    for (std::size_t i = 0; i < base.size(); ++i) {
      const Frames at = take.origin + Frames{static_cast<std::int64_t>(i) * PeakPyramid::baseSpan};
      if (!take.window.contains(at)) continue;
      float& level = levels[static_cast<std::size_t>((at - all.start).count / PeakPyramid::baseSpan)];
      level = std::max(level, base[i].rms);
    }
  }
  return levels;
}

}  // namespace

std::vector<Span> findPhrases(std::span<const TakePeaks> takes, SampleRate rate) {
  if (takes.empty()) return {};
  Span all = takes.front().window;
  for (const TakePeaks& take : takes)
    all = {std::min(all.start, take.window.start), std::max(all.end, take.window.end)};
  const std::vector<float> levels = loudness(takes, all);
  const float loudest = *std::max_element(levels.begin(), levels.end());
  const float threshold = std::max(restBelow, loudest * restBelowLoudest);
  std::vector<Span> phrases;
  const Frames rest = framesFromSeconds(restSeconds, rate);
  for (std::size_t i = 0; i < levels.size(); ++i) {
    if (levels[i] < threshold) continue;
    const Frames from = all.start + Frames{static_cast<std::int64_t>(i) * PeakPyramid::baseSpan};
    const Frames to = std::min(all.end, from + Frames{PeakPyramid::baseSpan});
    if (!phrases.empty() && from - phrases.back().end < rest)
      phrases.back().end = to;
    else
      phrases.push_back({from, to});
  }
  return phrases;
}

int nearestCrossing(std::span<const float> samples, int middle) {
  const int count = static_cast<int>(samples.size());
  auto crosses = [&](int i) {
    if (i < 1 || i >= count) return false;
    const float before = samples[static_cast<std::size_t>(i) - 1];
    const float here = samples[static_cast<std::size_t>(i)];
    return here == 0.0F || (before < 0.0F) != (here < 0.0F);
  };
  for (int away = 0; away < count; ++away) {
    if (crosses(middle - away)) return middle - away;
    if (crosses(middle + away)) return middle + away;
  }
  return middle;
}

}  // namespace yewdrift
