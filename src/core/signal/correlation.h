// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstddef>
#include <span>

namespace yewdrift {

/// Sums from which the normalised correlation of two signals follows; add stretch by stretch.
struct CorrelationSums {
  double aa = 0.0;
  double bb = 0.0;
  double ab = 0.0;

  void add(std::span<const float> a, std::span<const float> b);
  /// Σab / √(Σa²·Σb²), in -1..1; 0 where one of them is silent.
  [[nodiscard]] double correlation() const;
};

/// Where a copy of `probe` starts in `signal`, with the correlation there. The best lag by direct search.
struct Alignment {
  std::size_t lag = 0;
  double correlation = 0.0;
};
Alignment findIn(std::span<const float> signal, std::span<const float> probe);

}  // namespace yewdrift
