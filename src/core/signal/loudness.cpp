// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/loudness.h"

#include <ebur128.h>

#include <algorithm>
#include <cmath>
#include <new>

#include "core/signal/finite.h"

namespace yewdrift {
namespace {

constexpr float fullScale = 1.0F - 1.0F / 32768.0F;  // the largest 16-bit sample
constexpr double blockSeconds = 0.4;

}  // namespace

struct LoudnessMeter::State {
  struct Destroy {
    void operator()(ebur128_state* state) const { ebur128_destroy(&state); }
  };
  State(int channelCount, SampleRate at)
      : channels(static_cast<std::size_t>(std::max(1, channelCount))),
        block(static_cast<std::size_t>(framesFromSeconds(blockSeconds, at).count) + 1),
        meter(ebur128_init(static_cast<unsigned>(channels), static_cast<unsigned long>(at.hertz),
                           EBUR128_MODE_I)),
        over(channels, false) {
    if (!meter) throw std::bad_alloc();
    // Microphones of a set are no surround: each counts as what it is, a front channel.
    for (std::size_t channel = 0; channel < channels; ++channel)
      ebur128_set_channel(meter.get(), static_cast<unsigned>(channel), EBUR128_LEFT);
  }
  void measure(std::span<const float> samples) {
    ebur128_add_frames_float(meter.get(), samples.data(), samples.size() / channels);
  }

  std::size_t channels;
  std::size_t block;
  std::unique_ptr<ebur128_state, Destroy> meter;
  std::vector<bool> over;
  std::vector<float> clean;  // of what is being added
  std::vector<float> first;  // what was added, as long as it is shorter than a block
  std::size_t frames = 0;
  Loudness found;
};

LoudnessMeter::LoudnessMeter(int channels, SampleRate rate)
    : state_(std::make_unique<State>(channels, rate)) {}
LoudnessMeter::~LoudnessMeter() = default;

void LoudnessMeter::add(std::span<const float> samples) {
  State& s = *state_;
  const std::size_t whole = samples.size() / s.channels * s.channels;
  s.clean.assign(samples.begin(), samples.begin() + static_cast<std::ptrdiff_t>(whole));
  for (std::size_t i = 0; i < whole; ++i) {
    s.clean[i] = finite(s.clean[i]);
    const float level = std::abs(s.clean[i]);
    s.found.peak = std::max(s.found.peak, level);
    const bool over = level >= fullScale;
    if (over && !s.over[i % s.channels]) ++s.found.overs;
    s.over[i % s.channels] = over;
  }
  s.frames += whole / s.channels;
  if (s.first.size() / s.channels < s.block) s.first.insert(s.first.end(), s.clean.begin(), s.clean.end());
  s.measure(s.clean);
}

Loudness LoudnessMeter::finish() {
  State& s = *state_;
  if (s.frames > 0 && s.frames < s.block) {
    std::size_t frames = s.frames;
    while (frames < 2 * s.block) {
      s.measure(s.first);
      frames += s.frames;
    }
  }
  double lufs = 0.0;
  if (ebur128_loudness_global(s.meter.get(), &lufs) == EBUR128_SUCCESS && std::isfinite(lufs))
    s.found.lufs = lufs;
  return s.found;
}

std::vector<Decibels> levelMatch(std::span<const Loudness> takes) {
  constexpr double farBelow = 20.0;
  std::vector<double> heard;
  for (const Loudness& take : takes)
    if (take.lufs) heard.push_back(*take.lufs);
  std::vector<Decibels> gains(takes.size());
  if (heard.empty()) return gains;
  std::sort(heard.begin(), heard.end());
  const double middle = heard[heard.size() / 2];
  // How far a take can be turned up. One that is over already is not turned up.
  const auto room = [](const Loudness& take) { return std::max(0.0, -decibelsOf(take.peak).value); };
  double target = middle;
  for (const Loudness& take : takes)
    if (take.lufs && *take.lufs >= middle - farBelow) target = std::min(target, *take.lufs + room(take));
  for (std::size_t i = 0; i < takes.size(); ++i)
    if (takes[i].lufs) gains[i] = {std::min(target - *takes[i].lufs, room(takes[i]))};
  return gains;
}

}  // namespace yewdrift
