// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the cells show: a take in a phrase, with what was said of it and what was measured.
#include <cmath>

#include "app/look/painting.h"
#include "app/look/spoken.h"
#include "app/look/theme.h"
#include "app/look/widgets.h"
#include "app/views/lanes_view.h"

namespace yewdrift::app {
namespace {

constexpr double leastCellWidth = 40.0;  // of one that shows anything
constexpr double lineHeight = 14.0;
constexpr double leastHeightWithNumbers = 56.0;  // lower ones are left to the wave
constexpr double crossSize = 15.0;
constexpr double farthest = 60.0;  // ms and cents: as far as the cross shows

/// What is written on them stays readable over a wave.
void drawGround(QPainter& painter, const QRectF& box) {
  QColor ground = theme().surface;
  ground.setAlphaF(0.85F);
  painter.setPen(Qt::NoPen);
  painter.setBrush(ground);
  painter.drawRoundedRect(box, 4, 4);
}

/// As many buds as it was rated with, and its note.
void drawSaid(QPainter& painter, const QRectF& cell, const CellNote& note) {
  constexpr double size = 5.0;
  constexpr double step = size + 3.0;
  const QString text = QString::fromStdString(note.note).simplified();
  painter.setFont(scaledFont(0.75));
  const double buds = note.rating > 0 ? 5.0 * step : 0.0;
  const double wide =
      buds + (text.isEmpty() ? 4.0 : QFontMetricsF(painter.font()).horizontalAdvance(text) + 10.0);
  drawGround(painter, {cell.left() + 3.0, cell.top() + 2.0, std::min(wide, cell.width() - 6.0), lineHeight});
  double x = cell.left() + 8.0;
  painter.setPen(QPen(theme().text, 1.2));
  for (int bud = 0; bud < 5 && note.rating > 0; ++bud, x += step) {
    painter.setBrush(bud < note.rating ? QBrush(theme().text) : QBrush(theme().sunken));
    painter.drawEllipse(QPointF(x, cell.top() + 9.0), size / 2.0, size / 2.0);
  }
  const QRectF room(x + 2.0, cell.top() + 2.0, cell.right() - x - 6.0, lineHeight);
  if (!text.isEmpty() && room.width() > 24.0)
    painter.drawText(room, Qt::AlignVCenter | Qt::AlignLeft,
                     painter.fontMetrics().elidedText(text, Qt::ElideRight, static_cast<int>(room.width())));
}

/// Where the take lies against the others: to the left early, to the right late, above sharp, below flat.
void drawCross(QPainter& painter, const QRectF& box, const CellMeasures& cell) {
  painter.setPen(QPen(theme().faintText, 1));
  painter.drawLine(QPointF(box.left() + 1, box.center().y()), QPointF(box.right() - 1, box.center().y()));
  if (cell.pitch)
    painter.drawLine(QPointF(box.center().x(), box.top() + 1), QPointF(box.center().x(), box.bottom() - 1));
  const double reach = box.width() / 2.0 - 2.5;
  const auto offset = [&](std::optional<double> value) {
    return value ? std::clamp(*value / farthest, -1.0, 1.0) * reach : 0.0;
  };
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme().text);
  painter.drawEllipse(box.center() + QPointF(offset(cell.timing), -offset(cell.pitch)), 2.5, 2.5);
}

}  // namespace

QStringList LanesView::measuresInWords(const CellMeasures& cell) {
  QStringList parts;
  const auto number = [](double value, int places) {
    const QString text = numberLocale().toString(std::abs(value), 'f', places);
    return (value < 0.0 && numberLocale().toDouble(text) != 0.0 ? QStringLiteral("−") : QString()) + text;
  };
  const auto away = [&](double value) {
    return (std::round(value) > 0.0 ? QStringLiteral("+") : QString()) + number(value, 0);
  };
  if (cell.timing) parts << tr("%1 ms").arg(away(*cell.timing));
  if (cell.pitch) parts << tr("%1 cents").arg(away(*cell.pitch));
  if (cell.overs > 0) parts << tr("%n over(s)", nullptr, cell.overs);
  if (cell.clicks > 0) parts << tr("%n click(s)", nullptr, cell.clicks);
  if (cell.loudness) parts << tr("%1 LUFS").arg(number(*cell.loudness, 1));
  return parts;
}

/// Along the lower edge: the cross, and in high rows as many numbers as there is room for.
void LanesView::drawMeasures(QPainter& painter, const QRectF& cell, const CellMeasures& measures) {
  const bool crossed = measures.timing || measures.pitch;
  const double left = cell.left() + 6.0;
  const double textLeft = left + (crossed ? crossSize + 4.0 : 0.0);
  painter.setFont(scaledFont(0.7));
  const QFontMetricsF metrics(painter.font());
  QString text;
  for (const QString& part : measuresInWords(measures)) {
    if (cell.height() < leastHeightWithNumbers) break;
    const QString longer = text.isEmpty() ? part : text + QStringLiteral("  ") + part;
    if (textLeft + metrics.horizontalAdvance(longer) > cell.right() - 8.0) break;
    text = longer;
  }
  if (text.isEmpty() && !crossed) return;
  const double wide = textLeft - left + metrics.horizontalAdvance(text) + 6.0;
  const QRectF line(left - 3.0, cell.bottom() - crossSize - 4.0, wide, crossSize + 1.0);
  drawGround(painter, line);
  if (crossed) drawCross(painter, QRectF(left, line.top() + 0.5, crossSize, crossSize), measures);
  painter.setPen(theme().text);
  painter.drawText(QRectF(textLeft, line.top(), wide, line.height()), Qt::AlignVCenter | Qt::AlignLeft, text);
}

void LanesView::drawCells(QPainter& painter, const QRectF& box, const Lane& lane) {
  painter.save();
  painter.setClipRect(box, Qt::IntersectClip);
  painter.setRenderHint(QPainter::Antialiasing);
  const Phrase* const inHand = inHand_.phrase();
  const Span shown = visibleSpan();
  for (const Phrase& phrase : inHand_.phrases()) {
    if (!phrase.cell.overlaps(shown)) continue;
    const QRectF cell = columnOf(phrase.cell, box);
    if (cell.width() < 4.0) continue;
    if (inHand == &phrase && inHand_.heardLane() == lane.number) {
      painter.setBrush(Qt::NoBrush);
      painter.setPen(QPen(theme().inHand, 3));
      painter.drawRect(cell.adjusted(1.5, 1.5, -1.5, -1.5));
    }
    if (cell.width() < leastCellWidth) continue;
    const CellNote* const note = cellOf(lane, phrase);
    if (note) drawSaid(painter, cell, *note);
    if (!showsMeasures_ || cell.height() < (note ? 2.0 * lineHeight + 4.0 : lineHeight + 6.0)) continue;
    for (const CellMeasures& measures : analysis_.measuresOf(phrase))
      if (measures.lane == lane.number && measures.there && measures.measured)
        drawMeasures(painter, cell, measures);
  }
  painter.setBrush(theme().inHand);
  painter.setPen(Qt::NoPen);
  for (const TakeMark& mark : lane.marks) {
    const double x = box.left() + scale_.x(mark.at);
    if (x < box.left() - 6 || x > box.right() + 6) continue;
    painter.drawPolygon(
        QPolygonF({QPointF(x - 5, box.top()), QPointF(x + 5, box.top()), QPointF(x, box.top() + 8)}));
  }
  painter.restore();
}

}  // namespace yewdrift::app
