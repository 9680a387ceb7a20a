// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/correlation.h"

#include <algorithm>
#include <cmath>

namespace yewdrift {

void CorrelationSums::add(std::span<const float> a, std::span<const float> b) {
  const std::size_t n = std::min(a.size(), b.size());
  for (std::size_t i = 0; i < n; ++i) {
    const double x = a[i];
    const double y = b[i];
    aa += x * x;
    bb += y * y;
    ab += x * y;
  }
}

double CorrelationSums::correlation() const {
  const double scale = std::sqrt(aa * bb);
  return scale > 1e-20 ? std::clamp(ab / scale, -1.0, 1.0) : 0.0;
}

Alignment findIn(std::span<const float> signal, std::span<const float> probe) {
  Alignment best;
  if (probe.empty()) return best;
  for (std::size_t lag = 0; lag + probe.size() <= signal.size(); ++lag) {
    CorrelationSums sums;
    sums.add(signal.subspan(lag, probe.size()), probe);
    if (const double c = sums.correlation(); c > best.correlation) best = {lag, c};
  }
  return best;
}

}  // namespace yewdrift
