// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/click.h"

#include <algorithm>
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
    : rate_(rate),
      accented_(knock(rate, 1650.0, 0.9)),
      plain_(knock(rate, 1100.0, 0.65)),
      low_(knock(rate, 330.0, 0.9)) {}

void Click::strike(const std::vector<float>& sound, float gain, std::int64_t at) noexcept {
  // In place of one that is silent, or of the one that has died away most.
  *std::ranges::min_element(ringing_, {}, &Knock::begins) = {&sound, gain, at};
}

void Click::strikeBeats(const TempoMap& tempo, const ClickOptions& options, Frames start, int frames,
                        int offset) noexcept {
  const float gain = factorOf(options.level);
  for (Frames from = start;;) {
    const TempoMap::Beat beat = tempo.beatFrom(from, rate_);
    if (beat.at >= start + Frames{frames}) return;
    strike(beat.first && options.accent ? accented_ : plain_, gain, offset + (beat.at - start).count);
    from = beat.at + Frames{1};
  }
}

void Click::strikeCountIn(const TempoMap& tempo, const ClickOptions& options, const RollTimeline& timeline,
                          Frames rollFrame, int frames, int offset) noexcept {
  const float gain = factorOf(options.level);
  const MusicalPosition start = tempo.positionOf(timeline.start, rate_);
  const TempoChange& change = tempo.changeAt(start.bar);
  const double beatFrames = 60.0 / change.beatsPerMinute * rate_.hertz;
  const double into = start.beat - 1.0;  // beats since the bar line
  for (auto beat = static_cast<long long>(std::ceil(into)) - 1;; --beat) {
    const Frames at =
        timeline.countIn - Frames{std::llround((into - static_cast<double>(beat)) * beatFrames)};
    if (at < rollFrame) return;
    if (at < rollFrame + Frames{frames})
      strike(beat % change.meter.beats == 0 && options.accent ? accented_ : plain_, gain,
             offset + (at - rollFrame).count);
  }
}

void Click::strikeCue(const RecordSetup& setup, const TempoMap& tempo, const ClickOptions& options, bool grid,
                      Frames rollFrame, int frames, int offset) noexcept {
  if (options.cue == Cue::Off) return;
  const float gain = factorOf(options.level);
  const Frames end = rollFrame + Frames{frames};
  for (Frames from = rollFrame; from < end;) {
    const auto coming = comingEvent(setup, from, longestCountDown(rate_));
    if (!coming) return;
    const Frames event = from + coming->away;
    if (coming->kind != ComingEvent::Kind::Wrap || options.cue == Cue::PunchesAndWraps) {
      const Frames position = setup.timeline.runAt(event - Frames{1}).position + Frames{1};
      const CountDown down = countDownTo(position, tempo, rate_, grid);
      for (int beat = down.beats; beat > 0; --beat) {
        const Frames at = event - down.beat * beat;
        if (at >= from && at < end) strike(low_, gain, offset + (at - rollFrame).count);
      }
    }
    from = event;
  }
}

void Click::ring(int frames, float* left, float* right) noexcept {
  for (Knock& knock : ringing_) {
    if (!knock.sound) continue;
    const auto length = static_cast<std::int64_t>(knock.sound->size());
    const std::int64_t to = std::min<std::int64_t>(frames, knock.begins + length);
    for (std::int64_t i = std::max<std::int64_t>(0, knock.begins); i < to; ++i) {
      const float sample = knock.gain * (*knock.sound)[static_cast<std::size_t>(i - knock.begins)];
      left[i] += sample;
      right[i] += sample;
    }
    knock.begins -= frames;
    if (knock.begins + length <= 0) knock = {};
  }
}

}  // namespace yewdrift
