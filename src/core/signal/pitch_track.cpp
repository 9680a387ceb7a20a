// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/pitch_track.h"

#include <limits>

#include "core/signal/aubio_handles.h"

namespace yewdrift {
namespace {

constexpr unsigned pitchWindow = 2048;
constexpr unsigned pitchHop = 512;
constexpr float noPitchBelow = -55.0F;
constexpr float leastConfidence = 0.8F;
constexpr double lowest = 40.0;  // Hz
constexpr double highest = 4000.0;
constexpr float noPitch = std::numeric_limits<float>::quiet_NaN();

}  // namespace

std::vector<float> PitchTrack::voicedIn(Frames from, Frames to) const {
  std::vector<float> voiced;
  if (step.count <= 0) return voiced;
  const auto count = static_cast<std::int64_t>(cents.size());
  // The first step whose middle is at `from` or behind it.
  std::int64_t i = std::max<std::int64_t>(0, (from.count - step.count / 2) / step.count);
  while (i < count && i * step.count + step.count / 2 < from.count) ++i;
  for (; i < count && i * step.count + step.count / 2 < to.count; ++i)
    if (const float value = cents[static_cast<std::size_t>(i)]; !std::isnan(value)) voiced.push_back(value);
  return voiced;
}

struct PitchTracker::State {
  explicit State(SampleRate at)
      : hops(pitchHop, at),
        tracker(aubio::made<aubio::Pitch>(new_aubio_pitch("yinfast", pitchWindow, pitchHop, hops.hertz()))),
        found(aubio::made<aubio::Vector>(new_fvec(1))) {
    aubio_pitch_set_unit(tracker.get(), "Hz");
    aubio_pitch_set_silence(tracker.get(), noPitchBelow);
  }
  void measure(const fvec_t& block) {
    aubio_pitch_do(tracker.get(), &block, found.get());
    const double hertz = found->data[0];
    const bool voiced =
        hertz >= lowest && hertz <= highest && aubio_pitch_get_confidence(tracker.get()) >= leastConfidence;
    cents.push_back(voiced ? static_cast<float>(centsOf(hertz).value) : noPitch);
  }

  aubio::Hops hops;
  aubio::Pitch tracker;
  aubio::Vector found;
  std::vector<float> cents;
};

PitchTracker::PitchTracker(SampleRate rate) : state_(std::make_unique<State>(rate)) {}
PitchTracker::~PitchTracker() = default;

void PitchTracker::add(std::span<const float> samples) {
  state_->hops.add(samples, [this](const fvec_t& hop) { state_->measure(hop); });
}

PitchTrack PitchTracker::finish() {
  state_->hops.finish([this](const fvec_t& hop) { state_->measure(hop); });
  PitchTrack track;
  track.step = {state_->hops.frames()};
  track.cents = std::move(state_->cents);
  // A value is of the window that ends with its hop; the middle of that lies so many hops before its end.
  const std::size_t early = std::min<std::size_t>(pitchWindow / pitchHop / 2, track.cents.size());
  track.cents.erase(track.cents.begin(), track.cents.begin() + static_cast<std::ptrdiff_t>(early));
  track.cents.insert(track.cents.end(), early, noPitch);
  return track;
}

PitchTrack trackPitch(std::span<const float> samples, SampleRate rate) {
  PitchTracker tracker(rate);
  tracker.add(samples);
  return tracker.finish();
}

double medianOf(std::vector<float> values) {
  if (values.empty()) return std::numeric_limits<double>::quiet_NaN();
  const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
  std::nth_element(values.begin(), middle, values.end());
  if (values.size() % 2 == 1) return *middle;
  return (static_cast<double>(*std::max_element(values.begin(), middle)) + *middle) / 2.0;
}

}  // namespace yewdrift
