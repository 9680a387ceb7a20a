// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <complex>
#include <cstddef>
#include <span>
#include <vector>

namespace yewdrift {

using Spectrum = std::vector<std::complex<double>>;

/// Fourier transforms of real signals; any thread. `size` is even, best a power of two.
/// Of a signal that is continued by silence up to `size`: size / 2 + 1 values, not normalised.
Spectrum spectrumOf(std::span<const float> signal, std::size_t size);
/// Back: `size` samples, normalised, so that it undoes spectrumOf(). `spectrum` is used up.
std::vector<double> signalOf(Spectrum&& spectrum, std::size_t size);

/// The least power of two that is not less.
std::size_t powerOfTwoFrom(std::size_t least);

}  // namespace yewdrift
