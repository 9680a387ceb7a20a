// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <complex>
#include <cstddef>
#include <memory>
#include <span>
#include <vector>

namespace yewdrift {

using Spectrum = std::vector<std::complex<double>>;

/// Fourier transforms of real signals; any thread. `size` is even, best a power of two.
/// Of a signal that is continued by silence up to `size`: size / 2 + 1 values, not normalised.
Spectrum spectrumOf(std::span<const float> signal, std::size_t size);
/// Back: `size` samples, normalised, so that it undoes spectrumOf(). `spectrum` is used up.
std::vector<double> signalOf(Spectrum&& spectrum, std::size_t size);

/// The same transform again and again, planned once; one thread at a time.
class RepeatedTransform {
 public:
  explicit RepeatedTransform(std::size_t size);
  ~RepeatedTransform();
  RepeatedTransform(const RepeatedTransform&) = delete;
  RepeatedTransform& operator=(const RepeatedTransform&) = delete;

  /// What is transformed next: `size` samples.
  [[nodiscard]] std::span<double> signal();
  /// size / 2 + 1 values, until the next call.
  std::span<const std::complex<double>> run();

 private:
  struct State;
  std::unique_ptr<State> state_;
};

/// The least power of two that is not less, and at least 2.
std::size_t powerOfTwoFrom(std::size_t least);

}  // namespace yewdrift
