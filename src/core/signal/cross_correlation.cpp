// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/cross_correlation.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "core/signal/fourier.h"

namespace yewdrift {
namespace {

std::vector<double> correlate(std::span<const float> signal, std::span<const float> probe) {
  const std::size_t size = powerOfTwoFrom(signal.size() + probe.size());
  Spectrum product = spectrumOf(signal, size);
  const Spectrum other = spectrumOf(probe, size);
  for (std::size_t i = 0; i < product.size(); ++i) product[i] *= std::conj(other[i]);
  return signalOf(std::move(product), size);
}

double energyOf(std::span<const float> signal) {
  double energy = 0.0;
  for (const float sample : signal) energy += static_cast<double>(sample) * sample;
  return energy;
}

}  // namespace

CorrelationPeak findByCorrelation(std::span<const float> signal, std::span<const float> probe) {
  CorrelationPeak peak;
  if (probe.empty() || signal.size() < probe.size()) return peak;
  const std::vector<double> products = correlate(signal, probe);
  // By how much of the probe there is, not by how pure it is: a faint echo in a quiet moment is very pure.
  const auto found = [&products](std::size_t lag) { return std::abs(products[lag]); };
  const std::size_t lags = signal.size() - probe.size() + 1;
  const auto all = std::span(products).first(lags);
  const auto most = std::ranges::max_element(all, {}, [](double product) { return std::abs(product); });
  peak.lag = static_cast<std::size_t>(most - all.begin());
  const double energies = energyOf(probe) * energyOf(signal.subspan(peak.lag, probe.size()));
  if (energies <= 0.0) return peak;
  peak.correlation = std::min(1.0, found(peak.lag) / std::sqrt(energies));
  for (std::size_t lag = 0; lag < lags; ++lag)
    if (lag + 32 < peak.lag || lag > peak.lag + 32)
      peak.rival = std::max(peak.rival, found(lag) / found(peak.lag));
  return peak;
}

}  // namespace yewdrift
