// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstddef>
#include <span>

namespace yewdrift {

/// Where `probe` lies in `signal`: the lag of the best normalised correlation and how good it is (-1..1).
/// `rival` is the best correlation at a lag more than 32 frames away from it.
struct CorrelationPeak {
  std::size_t lag = 0;
  double correlation = 0.0;
  double rival = 0.0;
};

/// By Fourier transform, in n·log n of the signal's length. Polarity does not matter: a cable may invert.
CorrelationPeak findByCorrelation(std::span<const float> signal, std::span<const float> probe);

}  // namespace yewdrift
