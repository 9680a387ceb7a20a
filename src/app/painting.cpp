// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/painting.h"

#include <QPainterPath>

#include "app/theme.h"

namespace yewdrift::app {
namespace {

/// Calls draw(bar, x) for every bar line in sight whose number fits the step that leaves `room` pixels.
template <typename Draw>
void eachBar(const QRectF& box, const TimeScale& scale, const Ruler& ruler, double room, Draw draw) {
  const int first = std::max(1, ruler.tempo.positionOf(std::max(Frames{}, scale.at(0)), ruler.rate).bar);
  const Frames one =
      ruler.tempo.frameOf({first + 1, 1.0}, ruler.rate) - ruler.tempo.frameOf({first, 1.0}, ruler.rate);
  int step = 1;
  while (static_cast<double>(one.count) * step / scale.framesPerPixel < room) step *= 2;
  for (int bar = first - (first - 1) % step;; bar += step) {
    const double x = scale.x(ruler.tempo.frameOf({bar, 1.0}, ruler.rate));
    if (x > box.width()) return;
    if (x >= -40) draw(bar, x);
  }
}

}  // namespace

void drawWave(QPainter& painter, const QRectF& box, const TimeScale& scale, const PeakPyramid& peaks,
              Frames origin, Span span, const QColor& colour) {
  const double from = std::max(0.0, std::floor(scale.x(span.start)));
  const double to = std::min(box.width(), std::ceil(scale.x(span.end)));
  if (to <= from) return;
  const double middle = box.center().y();
  const double half = box.height() / 2.0 - 1.0;
  QList<QLineF> reach;
  QList<QLineF> body;
  const double step = 1.0 / painter.device()->devicePixelRatioF();
  reach.reserve(static_cast<qsizetype>((to - from) / step) + 1);
  body.reserve(reach.capacity());
  for (double x = from; x < to; x += step) {
    const Frames a = std::max(scale.at(x), span.start);
    const Frames b = std::min(scale.at(x + step), span.end);
    const Peak peak = peaks.over((a - origin).count, std::max((b - origin).count, (a - origin).count + 1));
    const double high = std::clamp(static_cast<double>(peak.high), -1.0, 1.0);
    const double low = std::clamp(static_cast<double>(peak.low), -1.0, 1.0);
    const double rms = std::min(static_cast<double>(peak.rms), 1.0);
    const double px = box.left() + x + step / 2;
    reach << QLineF(px, middle - high * half - 0.4, px, middle - low * half + 0.4);
    body << QLineF(px, middle - rms * half, px, middle + rms * half);
  }
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing, false);
  QColor soft = colour;
  soft.setAlphaF(colour.alphaF() * 0.45F);
  painter.setPen(QPen(soft, step));
  painter.drawLines(reach);
  painter.setPen(QPen(colour, step));
  painter.drawLines(body);
  painter.restore();
}

void drawRuler(QPainter& painter, const QRectF& box, const TimeScale& scale, const Ruler& ruler) {
  painter.save();
  painter.setClipRect(box);
  QFont font = painter.font();
  font.setPointSizeF(8.5);
  painter.setFont(font);
  eachBar(box, scale, ruler, 46.0, [&](int bar, double x) {
    painter.setPen(theme().line);
    painter.drawLine(QPointF(box.left() + x, box.bottom() - 7), QPointF(box.left() + x, box.bottom()));
    painter.setPen(theme().faintText);
    painter.drawText(QRectF(box.left() + x + 3, box.top(), 60, box.height() - 2),
                     Qt::AlignBottom | Qt::AlignLeft, QString::number(bar));
  });
  painter.restore();
}

void drawBarLines(QPainter& painter, const QRectF& box, const TimeScale& scale, const Ruler& ruler) {
  QColor faint = theme().line;
  faint.setAlphaF(0.45F);
  painter.setPen(QPen(faint, 1));
  eachBar(box, scale, ruler, 12.0, [&](int, double x) {
    const double px = std::round(box.left() + x) + 0.5;
    painter.drawLine(QPointF(px, box.top()), QPointF(px, box.bottom()));
  });
}

void drawLoopSpan(QPainter& painter, const QRectF& box, const TimeScale& scale, Span loop, bool on) {
  const double left = box.left() + scale.x(loop.start);
  const double right = box.left() + scale.x(loop.end);
  painter.save();
  painter.setClipRect(box.adjusted(-6, 0, 6, 0));
  painter.setRenderHint(QPainter::Antialiasing);
  QColor fill = theme().inHand;
  fill.setAlphaF(on ? 0.28F : 0.10F);
  const QRectF band(left, box.top() + 2, right - left, box.height() - 4);
  painter.setBrush(fill);
  painter.setPen(QPen(theme().inHand, 1.2, on ? Qt::SolidLine : Qt::DashLine));
  painter.drawRoundedRect(band, 5, 5);
  painter.setBrush(theme().inHand);
  painter.setPen(Qt::NoPen);
  for (const double x : {left, right})
    painter.drawRoundedRect(QRectF(x - 2.5, box.top() + 1, 5, box.height() - 2), 2.5, 2.5);
  painter.restore();
}

void drawPlayhead(QPainter& painter, double x, double top, double bottom) {
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(theme().text, 1.4));
  painter.drawLine(QPointF(x, top), QPointF(x, bottom));
  QPainterPath drop;  // a falling seed
  drop.moveTo(x, top + 9);
  drop.quadTo(x - 6, top + 4, x, top - 2);
  drop.quadTo(x + 6, top + 4, x, top + 9);
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme().text);
  painter.drawPath(drop);
  painter.restore();
}

}  // namespace yewdrift::app
