// SPDX-License-Identifier: GPL-3.0-or-later
//
// Phrases as columns: their row over the takes, and what lanes show over their waves.
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

/// What a lane shows over its wave: where things begin, how loud or how high it is.
void LanesView::drawMeasured(QPainter& painter, const QRectF& box, const Lane& lane) {
  if (lane.picture == LanePicture::Waveform) return;
  const FindAnalysis find = analysis_.finder();
  const Span shown = visibleSpan();
  painter.save();
  painter.setClipRect(box, Qt::IntersectClip);
  painter.setPen(QPen(theme().text, 1.4));
  if (lane.picture == LanePicture::Onsets)
    for (const Frames at : onsetsIn(lane, shown, find)) {
      const double x = box.left() + scale_.x(at);
      painter.drawLine(QPointF(x, box.bottom() - box.height() * 0.35), QPointF(x, box.bottom() - 4));
    }
  // Pitches over the range they have; levels over the upper 60 dB.
  constexpr double quietest = -60.0;
  double low = quietest;
  double high = 0.0;
  const double step = std::max(1.0, scale_.framesPerPixel);
  const Frames pixel{static_cast<std::int64_t>(step)};
  std::vector<float> values;
  if (lane.picture == LanePicture::Pitch) {
    values = pitchIn(lane, shown, pixel, find);
    low = 1e9;
    high = -1e9;
    for (const float value : values)
      if (!std::isnan(value)) {
        low = std::min<double>(low, value - 100.0);
        high = std::max<double>(high, value + 100.0);
      }
  } else if (lane.picture == LanePicture::Level) {
    for (Frames at = shown.start; at < shown.end; at += pixel) {
      float square = 0.0F;
      const auto steps = levelsIn(lane, {at, at + pixel}, find);
      for (const LevelStep& each : steps) square = std::max(square, each.square);
      values.push_back(steps.empty() ? std::nanf("") : 10.0F * std::log10(square + 1e-9F));
    }
  }
  QPolygonF line;
  const auto flush = [&] {
    if (line.size() > 1) painter.drawPolyline(line);
    line.clear();
  };
  for (std::size_t i = 0; i < values.size(); ++i) {
    if (std::isnan(values[i]) || high <= low) {
      flush();
      continue;
    }
    const double height = std::clamp((values[i] - low) / (high - low), 0.0, 1.0);
    line << QPointF(box.left() + scale_.x(shown.start + pixel * static_cast<std::int64_t>(i)),
                    box.bottom() - 4.0 - height * (box.height() - 8.0));
  }
  flush();
  painter.restore();
}

}  // namespace yewdrift::app
