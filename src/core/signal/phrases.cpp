// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/phrases.h"

#include <algorithm>
#include <cmath>

namespace yewdrift {
namespace {

constexpr std::int64_t step = PeakPyramid::baseSpan;
constexpr std::int64_t mostSteps = 6'000'000;
constexpr double smoothSeconds = 0.020;
constexpr double floorSeconds = 0.100;  // a noise floor lasts at least that long
constexpr float nothing = -200.0F;      // dB: the take is not there
constexpr float digitalSilence = -90.0F;

/// A take's level in dB, step by step from the start of `all`; `nothing` where it is not there.
std::vector<float> levelsOf(const TakePeaks& take, Span all, std::size_t steps) {
  std::vector<float> levels(steps, nothing);
  for (const ClipPeaks& clip : take)
    for (const PeakPyramid* channel : clip.channels) {
      const auto& base = channel->levels().front();
      const std::int64_t first = std::max<std::int64_t>(0, (clip.window.start - clip.origin).count / step);
      for (auto i = static_cast<std::size_t>(first); i < base.size(); ++i) {
        const Frames at = clip.origin + Frames{static_cast<std::int64_t>(i) * step};
        if (at >= clip.window.end) break;
        if (!clip.window.contains(at)) continue;
        float& level = levels[static_cast<std::size_t>((at - all.start).count / step)];
        // What a wave deviates by is no more than half of what it spans (Popoviciu): so an offset of a bad
        // input is no sound.
        const float rms = std::min(base[i].rms, (base[i].high - base[i].low) / 2.0F);
        level = std::max(level, std::max(digitalSilence, 20.0F * std::log10(rms + 1e-10F)));
      }
    }
  return levels;
}

/// The mean power around each step, in dB, over so many steps; where the take is not there nothing counts.
std::vector<float> smoothed(const std::vector<float>& levels, std::size_t over) {
  std::vector<double> power(levels.size() + 1, 0.0);
  std::vector<int> counted(levels.size() + 1, 0);
  for (std::size_t i = 0; i < levels.size(); ++i) {
    const bool there = levels[i] != nothing;
    power[i + 1] = power[i] + (there ? std::pow(10.0, levels[i] / 10.0) : 0.0);
    counted[i + 1] = counted[i] + (there ? 1 : 0);
  }
  std::vector<float> smooth(levels.size(), nothing);
  const std::size_t half = over / 2;
  for (std::size_t i = 0; i < levels.size(); ++i) {
    if (levels[i] == nothing) continue;
    const std::size_t from = i > half ? i - half : 0;
    const std::size_t to = std::min(levels.size(), i + half + 1);
    // The sum of many is exact to far less than what silence is to the last bit.
    const double mean = (power[to] - power[from]) / (counted[to] - counted[from]);
    smooth[i] = std::max(digitalSilence, static_cast<float>(10.0 * std::log10(std::max(mean, 1e-12))));
  }
  return smooth;
}

float shareOf(std::vector<float>& sorted, double share) {
  return sorted[static_cast<std::size_t>(share * static_cast<double>(sorted.size() - 1))];
}

/// Above `opens` a take begins to sound, below `closes` it ceases to.
struct Thresholds {
  float opens = 0.0F;
  float closes = 0.0F;
};

Thresholds thresholdsOf(const std::vector<float>& levels, SampleRate rate) {
  constexpr float quietest = -60.0F;  // of full scale: what never passes it does not sound
  constexpr float dynamics = 45.0F;   // what is that far below the loudest is no playing
  const auto over = static_cast<std::size_t>(framesFromSeconds(floorSeconds, rate).count / step);
  std::vector<float> there;
  std::size_t silent = 0;
  for (const float level : smoothed(levels, over)) {
    if (level == nothing) continue;
    if (level <= digitalSilence + 1.0F)
      ++silent;
    else
      there.push_back(level);
  }
  if (there.empty()) return {quietest, quietest - 6.0F};
  std::sort(there.begin(), there.end());
  const float loud = shareOf(there, 0.95);
  float floor = shareOf(there, 0.02);
  // Rests that are silence to the last bit tell of no noise: then what is quiet is playing.
  const bool restsAreSilent = silent * 20 >= there.size() + silent;
  if (restsAreSilent && floor > loud - 30.0F) floor = loud - 60.0F;
  const float range = std::max(0.0F, loud - floor);
  const float margin = std::clamp(0.4F * range, 4.0F, 15.0F);
  Thresholds thresholds;
  thresholds.opens = std::max({floor + margin, loud - dynamics, quietest});
  // One that plays all the time has a range, but no floor: what is loud always opens.
  thresholds.opens = std::min(thresholds.opens, std::max(quietest, loud - 3.0F));
  thresholds.closes = thresholds.opens - std::min(6.0F, margin / 2.0F);
  return thresholds;
}

/// How many takes are there, and how many of them sound, at each step.
struct Counts {
  explicit Counts(std::size_t steps) : there(steps, 0), sounding(steps, 0) {}
  void add(const Counts& other) {
    for (std::size_t i = 0; i < there.size(); ++i) {
      there[i] += other.there[i];
      sounding[i] += other.sounding[i];
    }
    takes += other.takes;
  }
  std::vector<int> there;
  std::vector<int> sounding;
  std::size_t takes = 0;
};

/// Adds one take to those that rest now and then, or to those that never do.
void count(const TakePeaks& take, Span all, SampleRate rate, Counts& resting, Counts& restless) {
  const std::size_t steps = resting.there.size();
  const std::vector<float> levels = levelsOf(take, all, steps);
  const Thresholds thresholds = thresholdsOf(levels, rate);
  const auto over = static_cast<std::size_t>(framesFromSeconds(smoothSeconds, rate).count / step);
  const std::vector<float> smooth = smoothed(levels, over);
  std::vector<bool> sounding(steps, false);
  bool sounds = false;
  std::size_t rests = 0;
  std::size_t lasts = 0;
  for (std::size_t i = 0; i < smooth.size(); ++i) {
    if (smooth[i] == nothing) {
      sounds = false;
      continue;
    }
    // It opens with the sound itself, not with the mean that rises before it.
    sounds = sounds ? smooth[i] >= thresholds.closes
                    : smooth[i] >= thresholds.opens && levels[i] >= thresholds.closes;
    sounding[i] = sounds;
    ++lasts;
    if (!sounds) ++rests;
  }
  constexpr std::size_t leastShare = 50;  // of what lasts a fiftieth
  Counts& counts = rests * leastShare >= lasts ? resting : restless;
  ++counts.takes;
  for (std::size_t i = 0; i < steps; ++i) {
    if (levels[i] != nothing) ++counts.there[i];
    if (sounding[i]) ++counts.sounding[i];
  }
}

}  // namespace

std::vector<Span> findPhrases(std::span<const TakePeaks> takes, SampleRate rate, const PhraseRules& rules,
                              const std::atomic<bool>* cancelled) {
  Span all{Frames{INT64_MAX}, Frames{INT64_MIN}};
  for (const TakePeaks& take : takes)
    for (const ClipPeaks& clip : take)
      if (!clip.window.empty())
        all = {std::min(all.start, clip.window.start), std::max(all.end, clip.window.end)};
  if (all.empty()) return {};
  if (all.length().count / step >= mostSteps) return {};
  const auto steps = static_cast<std::size_t>(all.length().count / step) + 1;
  Counts counts(steps);
  Counts restless(steps);
  for (const TakePeaks& take : takes) {
    if (cancelled && *cancelled) return {};
    count(take, all, rate, counts, restless);
  }
  // Where most takes rest now and then, one that never does (it hums, or is full of noise) has no say.
  if (restless.takes >= counts.takes) counts.add(restless);

  const Frames rest = framesFromSeconds(rules.shortestRest, rate);
  std::vector<Span> phrases;
  for (std::size_t i = 0; i < steps; ++i) {
    if (counts.sounding[i] <= counts.there[i] / 5) continue;
    const Frames from = all.start + Frames{static_cast<std::int64_t>(i) * step};
    const Frames to = std::min(all.end, from + Frames{step});
    if (!phrases.empty() && from - phrases.back().end < rest)
      phrases.back().end = to;
    else
      phrases.push_back({from, to});
  }
  const Frames shortest = framesFromSeconds(rules.shortestPhrase, rate);
  std::erase_if(phrases, [shortest](Span phrase) { return phrase.length() < shortest; });
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
