// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/onsets.h"

#include <cmath>

#include "core/signal/aubio_handles.h"
#include "core/signal/finite.h"

namespace yewdrift {
namespace {

constexpr double leastApartSeconds = 0.030;
constexpr float nothingBeginsBelow = -60.0F;  // quieter than that nothing begins
constexpr double stepSeconds = 0.001;         // in which the rise is looked for
constexpr double searchBefore = 0.040;
constexpr double searchBehind = 0.020;
constexpr double swingSeconds = 0.008;
constexpr double aboutAsSteep = 0.6;

}  // namespace

struct OnsetFinder::State {
  explicit State(SampleRate at)
      : rate(at),
        hops(256, at),
        finder(aubio::made<aubio::Onset>(new_aubio_onset("default", 1024, 256, hops.hertz()))),
        found(aubio::made<aubio::Vector>(new_fvec(1))),
        step(std::max<std::int64_t>(1, framesFromSeconds(stepSeconds, at).count)) {
    aubio_onset_set_silence(finder.get(), nothingBeginsBelow);
    aubio_onset_set_minioi_s(finder.get(), static_cast<float>(leastApartSeconds));
  }

  void measure(const fvec_t& hop) {
    aubio_onset_do(finder.get(), &hop, found.get());
    if (found->data[0] != 0.0F)
      onsets.push_back({static_cast<std::int64_t>(aubio_onset_get_last(finder.get())) * hops.samplesInOne()});
  }
  void follow(std::span<const float> samples) {
    for (const float sample : samples) {
      energy += static_cast<double>(finite(sample)) * finite(sample);
      if (++inStep < step) continue;
      levels.push_back(static_cast<float>(energy / static_cast<double>(step)));
      energy = 0.0;
      inStep = 0;
    }
    length += static_cast<std::int64_t>(samples.size());
  }
  /// The steepest rise near `at`: where what follows is most above what came before.
  [[nodiscard]] Frames attackNear(Frames at) const {
    const auto steps = static_cast<std::int64_t>(levels.size());
    const auto place = [&](double seconds) { return framesFromSeconds(seconds, rate).count / step; };
    const std::int64_t around = 3;  // steps on either side of a rise
    const std::int64_t from = std::max(around, at.count / step - place(searchBefore));
    const std::int64_t to = std::min(steps - around, at.count / step + place(searchBehind) + 1);
    const auto mean = [&](std::int64_t first) {
      double sum = 0.0;
      for (std::int64_t i = first; i < first + around; ++i) sum += levels[static_cast<std::size_t>(i)];
      return sum / static_cast<double>(around);
    };
    const auto rise = [&](std::int64_t i) { return std::sqrt(mean(i)) - std::sqrt(mean(i - around)); };
    std::int64_t best = -1;
    for (std::int64_t i = from; i < to; ++i)
      if (rise(i) > (best < 0 ? 0.0 : rise(best))) best = i;
    if (best < 0) return at;
    // A low tone swings: what is about as steep a little before is where it began.
    std::int64_t begin = std::max(from, best - place(swingSeconds));
    while (rise(begin) < aboutAsSteep * rise(best)) ++begin;
    return {(begin + 1) * step};
  }

  SampleRate rate;
  aubio::Hops hops;
  aubio::Onset finder;
  aubio::Vector found;
  std::int64_t step;
  std::int64_t inStep = 0;
  double energy = 0.0;
  std::int64_t length = 0;
  std::vector<float> levels;
  std::vector<Frames> onsets;
};

OnsetFinder::OnsetFinder(SampleRate rate) : state_(std::make_unique<State>(rate)) {}
OnsetFinder::~OnsetFinder() = default;

void OnsetFinder::add(std::span<const float> samples) {
  state_->follow(samples);
  state_->hops.add(samples, [this](const fvec_t& hop) { state_->measure(hop); });
}

std::vector<Frames> OnsetFinder::finish() {
  state_->hops.finish([this](const fvec_t& hop) { state_->measure(hop); });
  const Frames apart = framesFromSeconds(leastApartSeconds, state_->rate);
  std::vector<Frames> onsets;
  for (const Frames rough : state_->onsets) {
    const Frames at = state_->attackNear(rough);
    const bool there = at.count < state_->length;
    if (there && (onsets.empty() || at - onsets.back() >= apart)) onsets.push_back(at);
  }
  return onsets;
}

}  // namespace yewdrift
