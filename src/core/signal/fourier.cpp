// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/fourier.h"

#include <fftw3.h>

#include <algorithm>
#include <bit>
#include <memory>
#include <type_traits>

namespace yewdrift {
namespace {

/// Planning is the one part of the library that two threads may not do at once, whoever they are: the pitch
/// shifter plans too.
void guardPlanning() {
  static const bool guarded = (fftw_make_planner_thread_safe(), true);
  (void)guarded;
}

struct PlanDeleter {
  void operator()(fftw_plan plan) const { fftw_destroy_plan(plan); }
};
using Plan = std::unique_ptr<std::remove_pointer_t<fftw_plan>, PlanDeleter>;

}  // namespace

Spectrum spectrumOf(std::span<const float> signal, std::size_t size) {
  guardPlanning();
  std::vector<double> padded(size, 0.0);
  std::copy_n(signal.begin(), std::min(signal.size(), size), padded.begin());
  Spectrum spectrum(size / 2 + 1);
  const Plan plan(fftw_plan_dft_r2c_1d(static_cast<int>(size), padded.data(),
                                       reinterpret_cast<fftw_complex*>(spectrum.data()), FFTW_ESTIMATE));
  fftw_execute(plan.get());
  return spectrum;
}

std::vector<double> signalOf(Spectrum&& spectrum, std::size_t size) {
  guardPlanning();
  std::vector<double> signal(size);
  const Plan plan(fftw_plan_dft_c2r_1d(static_cast<int>(size),
                                       reinterpret_cast<fftw_complex*>(spectrum.data()), signal.data(),
                                       FFTW_ESTIMATE));
  fftw_execute(plan.get());
  for (double& value : signal) value /= static_cast<double>(size);
  return signal;
}

struct RepeatedTransform::State {
  std::vector<double> signal;
  Spectrum spectrum;
  std::unique_ptr<std::remove_pointer_t<fftw_plan>, void (*)(fftw_plan)> plan{nullptr, &fftw_destroy_plan};
};

RepeatedTransform::RepeatedTransform(std::size_t size) : state_(std::make_unique<State>()) {
  guardPlanning();
  state_->signal.resize(size);
  state_->spectrum.resize(size / 2 + 1);
  state_->plan.reset(fftw_plan_dft_r2c_1d(static_cast<int>(size), state_->signal.data(),
                                          reinterpret_cast<fftw_complex*>(state_->spectrum.data()),
                                          FFTW_ESTIMATE | FFTW_PRESERVE_INPUT));
}

RepeatedTransform::~RepeatedTransform() = default;

std::span<double> RepeatedTransform::signal() {
  return state_->signal;
}

std::span<const std::complex<double>> RepeatedTransform::run() {
  fftw_execute(state_->plan.get());
  return state_->spectrum;
}

std::size_t powerOfTwoFrom(std::size_t least) {
  return std::max<std::size_t>(2, std::bit_ceil(least));
}

}  // namespace yewdrift
