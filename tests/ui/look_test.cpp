// SPDX-License-Identifier: GPL-3.0-or-later
#include <QImage>
#include <set>
#include "ui/ui_tests.h"

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
