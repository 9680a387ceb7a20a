// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/joins/fade_leaks.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/signal/fade_curve.h"
#include "core/signal/spectra.h"

namespace yewdrift {
namespace {

/// A tone in the middle of a band that is faded in over `length` samples around the middle of the signal.
std::vector<float> fadedTone(std::size_t band, std::size_t length, std::size_t size, SampleRate rate) {
  const double low = band == 0 ? 30.0 : bandEnds[band - 1];
  const double hertz = std::min(std::sqrt(low * bandEnds[band]), 0.45 * rate.hertz);
  std::vector<float> tone;
  for (std::size_t i = 0; i < size; ++i) {
    const double x =
        length == 0
            ? 1.0
            : (static_cast<double>(i) - 0.5 * static_cast<double>(size)) / static_cast<double>(length) + 0.5;
    const FadeGains gains = smoothPower(std::clamp(x, 0.0, 1.0));
    tone.push_back(gains.in * static_cast<float>(std::sin(2.0 * std::numbers::pi * hertz *
                                                          static_cast<double>(i) / rate.hertz)));
  }
  return tone;
}

}  // namespace

FadeGains fadeGains(Curve curve, double bend, double x, double correlation) {
  const FadeGains gains = fadeAt(curve, std::clamp(x, 0.0, 1.0), bend);
  if (curve != Curve::Matched) return gains;
  const float scale = matchedScale(gains.out, gains.in, static_cast<float>(correlation));
  return {gains.out * scale, gains.in * scale};
}

FadeWeights fadeWeights(std::size_t length, Curve curve, double bend, double correlation) {
  FadeWeights weights;
  for (std::size_t k = 0; k < length + 2 * fadeMargin; ++k) {
    double sum = 0.0;
    std::array<double, 3> heard{};
    for (int d = -3; d <= 3; ++d) {
      const double step = static_cast<double>(k) + d - static_cast<double>(fadeMargin) + 0.5;
      const FadeGains gains = fadeGains(curve, bend, step / static_cast<double>(length), correlation);
      const double window = sceneWindowAt[static_cast<std::size_t>(std::abs(d))];
      sum += window;
      heard[0] += window * gains.out * gains.out;
      heard[1] += window * gains.in * gains.in;
      heard[2] += window * 2.0 * gains.out * gains.in;
    }
    weights.outgoing.push_back(static_cast<float>(heard[0] / sum));
    weights.incoming.push_back(static_cast<float>(heard[1] / sum));
    weights.common.push_back(static_cast<float>(heard[2] / sum));
  }
  return weights;
}

FadeCurves fadeCurves(std::size_t frames, Curve curve, double bend) {
  FadeCurves curves;
  curves.out.reserve(frames);
  curves.in.reserve(frames);
  for (std::size_t i = 0; i < frames; ++i) {
    const FadeGains gains = fadeAt(curve, (static_cast<double>(i) + 0.5) / static_cast<double>(frames), bend);
    curves.out.push_back(gains.out);
    curves.in.push_back(gains.in);
  }
  return curves;
}

FadeLeaks::FadeLeaks(SampleRate rate) : rate_(rate) {
  const Frames step = sceneStep(rate);
  StepSpectra spectra(rate, step);
  const std::size_t size = 4 * spectra.reach();
  const auto middle = static_cast<std::ptrdiff_t>(size / 2) - static_cast<std::ptrdiff_t>(step.count / 2);
  const auto powersOf = [&](std::size_t band, std::size_t length) {
    const auto tone = fadedTone(band, length, size, rate);
    return spectra.powers(spectra.around(tone, middle));
  };
  std::array<SceneBands, sceneBands> steady{};
  for (std::size_t band = 0; band < sceneBands; ++band) steady[band] = powersOf(band, 0);
  for (const std::size_t length : fadeLengths) {
    Table table{};
    for (std::size_t from = 0; from < sceneBands; ++from) {
      const SceneBands faded = powersOf(from, length * static_cast<std::size_t>(step.count));
      const float whole = std::max(steady[from][from], 1e-12F);
      for (std::size_t band = 0; band < sceneBands; ++band)
        if (band != from) table[from][band] = std::max(0.0F, (faded[band] - steady[from][band]) / whole);
    }
    tables_.push_back(table);
    std::array<FadeWeights, correlationSteps + 1> weights;
    for (int i = 0; i <= correlationSteps; ++i)
      weights[static_cast<std::size_t>(i)] = fadeWeights(length, Curve::Matched, 0.0, i * 0.125 - 0.5);
    weights_.push_back(std::move(weights));
    const std::size_t frames = length * static_cast<std::size_t>(step.count);
    matched_.push_back(fadeCurves(frames, Curve::Matched, 0.0));
    equalPower_.push_back(fadeCurves(frames, Curve::EqualPower, 0.0));
  }
}

std::size_t FadeLeaks::indexOf(std::size_t length) {
  const auto at = std::lower_bound(fadeLengths.begin(), fadeLengths.end(), length);
  return std::min(static_cast<std::size_t>(at - fadeLengths.begin()), fadeLengths.size() - 1);
}

const FadeWeights& FadeLeaks::weights(std::size_t length, double correlation) const {
  const auto rounded = std::lround((std::clamp(correlation, -0.5, 1.0) + 0.5) / 0.125);
  return weights_[indexOf(length)][static_cast<std::size_t>(rounded)];
}

const FadeCurves* FadeLeaks::curves(std::size_t length, Curve curve, double bend) const {
  if (bend != 0.0 || !std::binary_search(fadeLengths.begin(), fadeLengths.end(), length)) return nullptr;
  if (curve == Curve::Matched) return &matched_[indexOf(length)];
  return curve == Curve::EqualPower ? &equalPower_[indexOf(length)] : nullptr;
}

SceneBands FadeLeaks::leaked(std::size_t length, const SceneBands& changing) const {
  const std::size_t index = indexOf(length);
  SceneBands leaked{};
  for (std::size_t from = 0; from < sceneBands; ++from)
    for (std::size_t band = 0; band < sceneBands; ++band)
      leaked[band] += changing[from] * tables_[index][from][band];
  return leaked;
}

}  // namespace yewdrift
