// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/cross_correlation.h"

#include <fftw3.h>

#include <algorithm>
#include <cmath>
#include <complex>
#include <memory>
#include <mutex>
#include <vector>

namespace yewdrift {
namespace {

/// Planning is the one part of the library that two threads may not do at once.
std::mutex& planning() {
  static std::mutex mutex;
  return mutex;
}

using Spectrum = std::vector<std::complex<double>>;

struct PlanDeleter {
  void operator()(fftw_plan plan) const {
    const std::lock_guard guard(planning());
    fftw_destroy_plan(plan);
  }
};
using Plan = std::unique_ptr<std::remove_pointer_t<fftw_plan>, PlanDeleter>;

Spectrum spectrumOf(std::span<const float> signal, std::size_t size) {
  std::vector<double> padded(size, 0.0);
  std::copy(signal.begin(), signal.end(), padded.begin());
  Spectrum spectrum(size / 2 + 1);
  Plan plan;
  {
    const std::lock_guard guard(planning());
    plan.reset(fftw_plan_dft_r2c_1d(static_cast<int>(size), padded.data(),
                                    reinterpret_cast<fftw_complex*>(spectrum.data()), FFTW_ESTIMATE));
  }
  fftw_execute(plan.get());
  return spectrum;
}

std::vector<double> correlate(std::span<const float> signal, std::span<const float> probe) {
  std::size_t size = 2;
  while (size < signal.size() + probe.size()) size *= 2;
  Spectrum product = spectrumOf(signal, size);
  const Spectrum other = spectrumOf(probe, size);
  for (std::size_t i = 0; i < product.size(); ++i) product[i] *= std::conj(other[i]);
  std::vector<double> result(size);
  Plan plan;
  {
    const std::lock_guard guard(planning());
    plan.reset(fftw_plan_dft_c2r_1d(static_cast<int>(size), reinterpret_cast<fftw_complex*>(product.data()),
                                    result.data(), FFTW_ESTIMATE));
  }
  fftw_execute(plan.get());
  for (double& value : result) value /= static_cast<double>(size);
  return result;
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
  for (std::size_t lag = 1; lag < lags; ++lag)
    if (found(lag) > found(peak.lag)) peak.lag = lag;
  const double energies = energyOf(probe) * energyOf(signal.subspan(peak.lag, probe.size()));
  if (energies <= 0.0) return peak;
  peak.correlation = std::min(1.0, found(peak.lag) / std::sqrt(energies));
  for (std::size_t lag = 0; lag < lags; ++lag)
    if (lag + 32 < peak.lag || lag > peak.lag + 32)
      peak.rival = std::max(peak.rival, found(lag) / found(peak.lag));
  return peak;
}

}  // namespace yewdrift
