// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/join_measure.h"

#include <algorithm>
#include <cmath>

#include "core/signal/correlation.h"

namespace yewdrift {

JoinMeasure measureJoin(std::span<const float> outgoing, std::span<const float> incoming, std::size_t cut) {
  JoinMeasure measure;
  CorrelationSums sums;
  sums.add(outgoing, incoming);
  const auto count =
      static_cast<double>(std::max<std::size_t>(std::min(outgoing.size(), incoming.size()), 1));
  // -120 dB stands for silence, so that a join into silence has a finite difference.
  auto level = [count](double squares) { return 10.0 * std::log10(std::max(squares / count, 1e-12)); };
  measure.correlation = sums.correlation();
  measure.levelDifference = level(sums.bb) - level(sums.aa);
  if (cut < outgoing.size() && cut < incoming.size())
    measure.step = std::abs(static_cast<double>(outgoing[cut]) - incoming[cut]);
  return measure;
}

}  // namespace yewdrift
