// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/spectra.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/signal/finite.h"

namespace yewdrift {
namespace {

constexpr double windowSeconds = 0.0213;
constexpr double audibleRange = 50.0;  // dB: what is farther below the loudest band is not heard beside it

std::size_t windowFor(SampleRate rate) {
  return powerOfTwoFrom(static_cast<std::size_t>(windowSeconds * static_cast<double>(rate.hertz)));
}

std::uint8_t levelOf(double power) {
  return static_cast<std::uint8_t>(
      std::clamp(std::lround((10.0 * std::log10(power + 1e-30) + 120.0) * 2.0), 0L, 255L));
}

}  // namespace

SpectraFollower::SpectraFollower(SampleRate rate, Frames step)
    : step_(static_cast<std::size_t>(step.count)), transform_(windowFor(rate)) {
  const std::size_t size = windowFor(rate);
  double energy = 0.0;
  for (std::size_t i = 0; i < size; ++i) {
    const double phase = 2.0 * std::numbers::pi * (static_cast<double>(i) + 0.5) / static_cast<double>(size);
    window_.push_back(0.5 - 0.5 * std::cos(phase));
    energy += window_.back() * window_.back();
  }
  // So that the bands of a signal sum up to its mean square (Parseval).
  for (double& value : window_) value *= std::sqrt(2.0 / (energy * static_cast<double>(size)));
  for (std::size_t bin = 0; bin <= size / 2; ++bin) {
    const double hertz = static_cast<double>(bin) * rate.hertz / static_cast<double>(size);
    bandOfBin_.push_back(static_cast<std::size_t>(std::upper_bound(bandEnds.begin(), bandEnds.end(), hertz) -
                                                  bandEnds.begin()));
  }
  before_ = size / 2 > step_ / 2 ? size / 2 - step_ / 2 : 0;
  recent_.assign(before_, 0.0F);
}

void SpectraFollower::add(std::span<const float> samples) {
  added_ += samples.size();
  recent_.reserve(recent_.size() + samples.size());
  for (const float sample : samples) recent_.push_back(finite(sample));
  measure();
}

void SpectraFollower::measure() {
  std::size_t from = 0;
  for (; recent_.size() - from >= std::max(window_.size(), step_); from += step_) {
    const auto signal = transform_.signal();
    for (std::size_t i = 0; i < window_.size(); ++i) signal[i] = window_[i] * recent_[from + i];
    std::array<double, bandCount + 1> power{};
    const auto spectrum = transform_.run();
    for (std::size_t bin = 1; bin < spectrum.size(); ++bin)
      power[bandOfBin_[bin]] += std::norm(spectrum[bin]);
    BandLevels levels{};
    for (std::size_t band = 0; band < bandCount; ++band) levels[band] = levelOf(power[band]);
    found_.push_back(levels);
  }
  recent_.erase(recent_.begin(), recent_.begin() + static_cast<std::ptrdiff_t>(from));
}

std::vector<BandLevels> SpectraFollower::finish() {
  const std::size_t steps = (added_ + step_ - 1) / step_;
  recent_.resize(recent_.size() + window_.size() + step_, 0.0F);
  measure();
  found_.resize(steps);
  return std::move(found_);
}

double spectralDistance(const BandLevels& a, const BandLevels& b) {
  const double loudest =
      bandDecibels(std::max(*std::max_element(a.begin(), a.end()), *std::max_element(b.begin(), b.end())));
  double sum = 0.0;
  double weights = 0.0;
  for (std::size_t band = 0; band < bandCount; ++band) {
    const double floor = loudest - audibleRange;
    const double one = std::max(floor, bandDecibels(a[band]));
    const double other = std::max(floor, bandDecibels(b[band]));
    const double weight = (std::max(one, other) - floor) / audibleRange;
    sum += weight * std::abs(one - other);
    weights += weight;
  }
  return sum / weights;  // the loudest band weighs one
}

}  // namespace yewdrift
