// SPDX-License-Identifier: GPL-3.0-or-later
#include <QImage>
#include <set>
#include "ui/ui_tests.h"

#include "app/look/wave_image.h"

TEST_CASE("Takes differ in colour and mark: no two of the first eight share both") {
  std::set<QRgb> colours;
  for (int lane = 1; lane <= 8; ++lane) colours.insert(takeColour(lane).rgb());
  CHECK(colours.size() == 8);
  std::set<QByteArray> pictures;
  for (int lane = 1; lane <= 16; ++lane) {
    QImage image(24, 24, QImage::Format_ARGB32);
    image.fill(Qt::transparent);
    QPainter painter(&image);
    drawTakeMark(painter, {0, 0, 24, 24}, lane);
    painter.end();
    pictures.insert(QByteArray(reinterpret_cast<const char*>(image.constBits()), image.sizeInBytes()));
  }
  CHECK(pictures.size() == 16);
}

TEST_CASE("A rough waveform is an outline that is joined from column to column, filled between") {
  const QColor line(200, 0, 0);
  const QColor area(0, 0, 200, 100);
  const QImage wave = waveImage({{2, 5}, {2, 5}, {6, 8}, {0, 8}}, 9, line, area);
  const QStringList rows{"...#", "...#", "##.#", "|###", "|##|", "###|", ".##|", "..#|", "..##"};
  REQUIRE(wave.size() == QSize(4, 9));
  for (int y = 0; y < 9; ++y)
    for (int x = 0; x < 4; ++x) {
      INFO(x << ", " << y);
      const QChar wanted = rows[y][x];
      CHECK(wave.pixel(x, y) == (wanted == '#'   ? qPremultiply(line.rgba())
                                 : wanted == '|' ? qPremultiply(area.rgba())
                                                 : 0U));
    }
  // Where it is see-through, only the outline is seen; and beyond its edges nothing is.
  const QImage open = waveImage({{-3, 4}, {-3, 40}}, 6, line, Qt::transparent);
  CHECK(open.pixel(0, 0) == 0U);
  CHECK(open.pixel(0, 4) == qPremultiply(line.rgba()));
  CHECK(open.pixel(0, 5) == qPremultiply(line.rgba()));
}
