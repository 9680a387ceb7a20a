// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/click.h"

#include <cmath>
#include <numbers>

namespace yewdrift {
namespace {

constexpr double clickSeconds = 0.035;

/// A short wooden knock: two partials that die away, with an attack of half a millisecond.
std::vector<float> knock(SampleRate rate, double hertz, double level) {
  std::vector<float> sound(static_cast<std::size_t>(framesFromSeconds(clickSeconds, rate).count));
  for (std::size_t i = 0; i < sound.size(); ++i) {
    const double t = static_cast<double>(i) / rate.hertz;
    const double attack = std::min(1.0, t / 0.0005);
    const double tail = std::exp(-t / 0.006) * (1.0 - t / clickSeconds);
    const double wave = std::sin(2.0 * std::numbers::pi * hertz * t) +
                        0.4 * std::sin(2.0 * std::numbers::pi * hertz * 2.76 * t) * std::exp(-t / 0.002);
    sound[i] = static_cast<float>(level * attack * tail * wave);
  }
  return sound;
}

}  // namespace

Click::Click(SampleRate rate)
    : rate_(rate), accented_(knock(rate, 1650.0, 0.9)), plain_(knock(rate, 1100.0, 0.65)) {}

void Click::addOne(bool accent, float gain, Frames beat, Frames start, int frames, float* left,
                   float* right) const noexcept {
  const std::vector<float>& sound = accent ? accented_ : plain_;
  const auto length = static_cast<std::int64_t>(sound.size());
  const std::int64_t from = std::max<std::int64_t>(0, (start - beat).count);
  const std::int64_t to = std::min<std::int64_t>(length, (start - beat).count + frames);
  for (std::int64_t i = from; i < to; ++i) {
    const std::int64_t at = i - (start - beat).count;
    const float sample = gain * sound[static_cast<std::size_t>(i)];
    left[at] += sample;
    right[at] += sample;
  }
}

void Click::add(const TempoMap& tempo, const ClickOptions& options, Frames start, int frames, float* left,
                float* right) const noexcept {
  const float gain = factorOf(options.level);
  const Frames end = start + Frames{frames};
  // A click that began before the stretch may still sound in it.
  Frames from = start - Frames{static_cast<std::int64_t>(plain_.size())};
  while (true) {
    const TempoMap::Beat beat = tempo.beatFrom(from, rate_);
    if (beat.at >= end) return;
    addOne(beat.first && options.accent, gain, beat.at, start, frames, left, right);
    from = beat.at + Frames{1};
  }
}

void Click::addCountIn(const TempoMap& tempo, const ClickOptions& options, const RollTimeline& timeline,
                       Frames rollFrame, int frames, float* left, float* right) const noexcept {
  const float gain = factorOf(options.level);
  const TempoChange& change = tempo.changeAt(tempo.positionOf(timeline.start, rate_).bar);
  const double beatFrames = 60.0 / change.beatsPerMinute * rate_.hertz;
  const auto beats = std::llround(static_cast<double>(timeline.countIn.count) / beatFrames);
  for (long long beat = 0; beat < beats; ++beat) {
    const Frames at = timeline.countIn - Frames{std::llround(static_cast<double>(beats - beat) * beatFrames)};
    const bool first = (beats - beat) % change.meter.beats == 0;
    addOne(first && options.accent, gain, at, rollFrame, frames, left, right);
  }
}

}  // namespace yewdrift
