// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/look/wave_image.h"

#include <algorithm>

namespace yewdrift::app {
namespace {

/// The outline, from half way to the column before to half way to the next.
WaveRows outline(const std::vector<WaveColumn>& columns, int WaveColumn::*edge) {
  WaveRows bands;
  for (std::size_t x = 0; x < columns.size(); ++x) {
    const int here = columns[x].*edge;
    const int before = (here + columns[x > 0 ? x - 1 : 0].*edge) / 2;
    const int behind = (here + columns[std::min(x + 1, columns.size() - 1)].*edge) / 2;
    bands.first.push_back(std::min({here, before, behind}));
    bands.last.push_back(std::max({here, before, behind}));
  }
  return bands;
}

/// 1 or 0, so that nothing branches.
unsigned between(int first, int y, int last) {
  return static_cast<unsigned>(first <= y) & static_cast<unsigned>(y <= last);
}

}  // namespace

QImage waveImage(const WaveBands& bands, int height, const QColor& body, const QColor& soft) {
  const std::size_t width = bands.outer.first.size();
  QImage image(static_cast<int>(width), height, QImage::Format_ARGB32_Premultiplied);
  const QRgb ink = qPremultiply(body.rgba());
  const QRgb ground = qPremultiply(soft.rgba());
  for (int y = 0; y < height; ++y) {
    auto* const row = reinterpret_cast<QRgb*>(image.scanLine(y));
    for (std::size_t x = 0; x < width; ++x) {
      const unsigned within = between(bands.outer.first[x], y, bands.outer.last[x]);
      const unsigned inside = between(bands.inner.first[x], y, bands.inner.last[x]);
      row[x] = inside != 0U ? ink : within != 0U ? ground : 0U;
    }
  }
  return image;
}

QImage waveImage(const std::vector<WaveColumn>& columns, int height, const QColor& line, const QColor& area) {
  const auto width = static_cast<int>(columns.size());
  QImage image(width, height, QImage::Format_ARGB32_Premultiplied);
  const WaveRows highest = outline(columns, &WaveColumn::highest);
  const WaveRows lowest = outline(columns, &WaveColumn::lowest);
  const QRgb ink = qPremultiply(line.rgba());
  const QRgb ground = qPremultiply(area.rgba());
  for (int y = 0; y < height; ++y) {
    auto* const row = reinterpret_cast<QRgb*>(image.scanLine(y));
    for (std::size_t x = 0; x < columns.size(); ++x) {
      const unsigned within = between(highest.first[x], y, lowest.last[x]);
      const unsigned onLine =
          between(highest.first[x], y, highest.last[x]) | between(lowest.first[x], y, lowest.last[x]);
      row[x] = onLine != 0U ? ink : within != 0U ? ground : 0U;
    }
  }
  return image;
}

}  // namespace yewdrift::app
