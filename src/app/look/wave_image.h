// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QColor>
#include <QImage>
#include <vector>

namespace yewdrift::app {

/// What a column of a waveform reaches, in pixels from the top: from the highest sample to the lowest.
struct WaveColumn {
  int highest = 0;
  int lowest = 0;
};

/// A waveform that has several samples a pixel, `height` pixels high, clear around it: its outline in `line`,
/// each column joined to the next, and what is between in `area`, which may be see-through. Row by row: what
/// is rough costs no more than what is smooth, as it does where it is stroked. Any thread.
[[nodiscard]] QImage waveImage(const std::vector<WaveColumn>& columns, int height, const QColor& line,
                               const QColor& area);

}  // namespace yewdrift::app
