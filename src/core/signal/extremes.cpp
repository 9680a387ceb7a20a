// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/extremes.h"

#include <algorithm>
#include <array>
#include <cstddef>

namespace yewdrift {

/// In eight columns side by side, which the compiler turns into vector instructions.
Extremes extremesOf(std::span<const float> samples) {
  constexpr std::size_t columns = 8;
  std::array<float, columns> low;
  std::array<float, columns> high;
  std::array<float, columns> squares{};
  low.fill(samples.front());
  high.fill(samples.front());
  const std::size_t whole = samples.size() / columns * columns;
  for (std::size_t i = 0; i < whole; i += columns)
    for (std::size_t c = 0; c < columns; ++c) {
      const float s = samples[i + c];
      low[c] = std::min(low[c], s);
      high[c] = std::max(high[c], s);
      squares[c] += s * s;
    }
  Extremes all{*std::min_element(low.begin(), low.end()), *std::max_element(high.begin(), high.end()), 0.0};
  for (const float sum : squares) all.squares += sum;
  for (const float s : samples.subspan(whole)) {
    all.low = std::min(all.low, s);
    all.high = std::max(all.high, s);
    all.squares += static_cast<double>(s) * s;
  }
  return all;
}

}  // namespace yewdrift
