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
  measure.level = std::max(level(sums.aa), level(sums.bb));
  if (cut < outgoing.size() && cut < incoming.size())
    measure.step = std::abs(static_cast<double>(outgoing[cut]) - incoming[cut]);
  return measure;
}

double JoinMeasure::risk() const {
  const double audible = std::clamp((level + 70.0) / 50.0, 0.0, 1.0);  // from -70 dB up to -20 dB
  const double unlike = (1.0 - correlation) / 2.0;
  const double uneven = std::clamp(std::abs(levelDifference) / 12.0, 0.0, 1.0);
  const double jump = std::clamp(step * 4.0, 0.0, 1.0);
  return audible * (0.45 * unlike + 0.35 * uneven + 0.2 * jump);
}

}  // namespace yewdrift
