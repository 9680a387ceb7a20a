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
            : (static_cast<double>(i) - static_cast<double>(size / 2)) / static_cast<double>(length) + 0.5;
    const FadeGains gains = smoothPower(std::clamp(x, 0.0, 1.0));
    tone.push_back(gains.in * static_cast<float>(std::sin(2.0 * std::numbers::pi * hertz *
                                                          static_cast<double>(i) / rate.hertz)));
  }
  return tone;
}

}  // namespace

FadeLeaks::FadeLeaks(SampleRate rate) {
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
  }
}

SceneBands FadeLeaks::leaked(std::size_t length, const SceneBands& changing) const {
  const auto index = std::min<std::size_t>(
      static_cast<std::size_t>(std::lower_bound(fadeLengths.begin(), fadeLengths.end(), length) -
                               fadeLengths.begin()),
      fadeLengths.size() - 1);
  SceneBands leaked{};
  for (std::size_t from = 0; from < sceneBands; ++from)
    for (std::size_t band = 0; band < sceneBands; ++band)
      leaked[band] += changing[from] * tables_[index][from][band];
  return leaked;
}

}  // namespace yewdrift
