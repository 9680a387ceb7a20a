// SPDX-License-Identifier: GPL-3.0-or-later
//
// Phrases as columns, and their row over the takes.
#include <cmath>

#include "app/look/painting.h"
#include "app/look/theme.h"
#include "app/look/widgets.h"
#include "app/views/lanes_view.h"

namespace yewdrift::app {

QRectF LanesView::columnOf(Span span, const QRectF& row) const {
  const double left = std::max(row.left(), row.left() + scale_.x(span.start));
  const double right = std::min(row.right(), row.left() + scale_.x(span.end));
  return {left, row.top(), std::max(0.0, right - left), row.height()};
}

/// One block for each phrase: filled green once it is decided, orange-edged in hand, numbered where there is
/// room.
void LanesView::drawPhraseRow(QPainter& painter, const Track& track) {
  const QRect row = drawn_.phraseRowRect();
  painter.fillRect(row, theme().surface);
  painter.setFont(scaledFont(0.8));
  painter.setPen(theme().faintText);
  const auto& phrases = inHand_.phrases();
  const std::size_t decided = decidedCount(track, phrases);
  painter.drawText(QRect(10, row.top(), drawn_.headWidth - 18, row.height()),
                   Qt::AlignVCenter | Qt::AlignRight,
                   phrases.empty() ? tr("phrases") : tr("%1 of %2 decided").arg(decided).arg(phrases.size()));
  const QRectF box = QRectF(row).adjusted(drawn_.headWidth, 1, 0, -2);
  painter.save();
  painter.setClipRect(box);
  const Phrase* const inHand = inHand_.phrase();
  for (std::size_t i = 0; i < phrases.size(); ++i) {
    const QRectF block = columnOf(phrases[i].span, box);
    if (block.width() < 1.0) continue;
    const bool done = isDecided(track, phrases[i]);
    const bool here = inHand == &phrases[i];
    painter.setPen(QPen(here ? theme().inHand : done ? theme().chosen : theme().line, here ? 2.0 : 1.0));
    painter.setBrush(done ? QBrush(theme().chosen) : QBrush(theme().sunken));
    painter.drawRoundedRect(block.adjusted(1, 1, -1, -1), 3, 3);
    if (block.width() < 22) continue;
    painter.setPen(done ? theme().onChosen : theme().text);
    // Decided is a word too where there is room for it: colour is not the only carrier.
    QString label = QString::number(i + 1);
    if (done) label += QStringLiteral(" ✓");
    painter.drawText(block, Qt::AlignCenter, label);
  }
  painter.restore();
  painter.setFont(font());
}

/// Edges of phrases through all takes, and the column in hand.
void LanesView::drawColumns(QPainter& painter, const QRect& area) {
  const QRectF box = QRectF(area).adjusted(drawn_.headWidth, 0, 0, 0);
  QColor edge = theme().line;
  painter.setPen(QPen(edge, 1, Qt::DotLine));
  for (const Phrase& phrase : inHand_.phrases())
    for (const Frames at : {phrase.cell.start, phrase.cell.end})
      if (const double x = box.left() + scale_.x(at); x >= box.left() && x <= box.right())
        painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()));
  const Phrase* const inHand = inHand_.phrase();
  if (!inHand) return;
  const QRectF column = columnOf(inHand->cell, box);
  if (column.width() < 1.0) return;
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(theme().inHand, 1.5));
  painter.drawRect(column.adjusted(0, -1, 0, 1));
}

}  // namespace yewdrift::app
