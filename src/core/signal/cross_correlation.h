// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstddef>
#include <span>

namespace yewdrift {

/// Where `probe` lies in `signal`: the lag at which most of it is found, and how like the probe what lies
/// there is (0..1). `rival` is how much of it is found at the next best lag, more than 32 frames away, as a
/// fraction of what is found at the best: an echo at half the level is a rival of 0.5.
struct CorrelationPeak {
  std::size_t lag = 0;
  double correlation = 0.0;
  double rival = 0.0;
};

/// By Fourier transform, in n·log n of the signal's length. Polarity does not matter: a cable may invert.
CorrelationPeak findByCorrelation(std::span<const float> signal, std::span<const float> probe);

}  // namespace yewdrift
