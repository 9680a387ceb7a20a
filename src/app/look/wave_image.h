// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QColor>
#include <QImage>
#include <cstddef>
#include <tuple>
#include <utility>
#include <vector>

namespace yewdrift::app {

/// What a column of a waveform reaches, in pixels from the top: from the highest sample to the lowest.
struct WaveColumn {
  int highest = 0;
  int lowest = 0;
};

/// Rows of each column, one array an end, so that a row of the picture is compared with many columns at a
/// time.
struct WaveRows {
  std::vector<int> first;
  std::vector<int> last;
};

/// A waveform in columns: what it reaches, and within that what it is on the whole.
struct WaveBands {
  explicit WaveBands(std::size_t columns)
      : outer{std::vector<int>(columns), std::vector<int>(columns)}, inner(outer) {}
  /// The first and the last row of each.
  void set(std::size_t column, std::pair<int, int> outerRows, std::pair<int, int> innerRows) {
    std::tie(outer.first[column], outer.last[column]) = outerRows;
    std::tie(inner.first[column], inner.last[column]) = innerRows;
  }
  WaveRows outer;
  WaveRows inner;
};

/// `height` pixels high, clear around it: the inner rows in `body`, what is left of the outer ones in `soft`.
/// Any thread.
[[nodiscard]] QImage waveImage(const WaveBands& bands, int height, const QColor& body, const QColor& soft);

/// A waveform that has several samples a pixel, `height` pixels high, clear around it: its outline in `line`,
/// each column joined to the next, and what is between in `area`, which may be see-through. Row by row: what
/// is rough costs no more than what is smooth, as it does where it is stroked. Any thread.
[[nodiscard]] QImage waveImage(const std::vector<WaveColumn>& columns, int height, const QColor& line,
                               const QColor& area);

}  // namespace yewdrift::app
