// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/look/painting.h"

#include <QCoreApplication>
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <utility>

#include "app/look/theme.h"
#include "app/look/wave_image.h"
#include "app/look/widgets.h"
#include "core/edit/plan_recording.h"
#include "core/signal/extremes.h"

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

/// How many pixels the bar takes that begins at or before the left edge.
double roomOfBar(const TimeScale& scale, const Ruler& ruler) {
  const Frames left = std::max(Frames{}, scale.at(0));
  const Frames bar = ruler.tempo.barStart(left, ruler.rate);
  return static_cast<double>((ruler.tempo.barStart(left, ruler.rate, 1) - bar).count) / scale.framesPerPixel;
}

/// Calls draw(x, "5|2") at the beats in sight; false where there are none.
template <typename Draw>
bool eachBeat(const QRectF& box, const TimeScale& scale, const Ruler& ruler, Draw draw) {
  bool any = false;
  for (Frames from = std::max(Frames{}, scale.at(0)); from < scale.at(box.width());) {
    const Frames at = ruler.tempo.beatFrom(from, ruler.rate).at;
    if (at >= scale.at(box.width())) break;
    const MusicalPosition place = ruler.tempo.positionOf(at, ruler.rate);
    draw(scale.x(at), QString("%1|%2").arg(place.bar).arg(std::lround(place.beat)));
    from = at + Frames{1};
    any = true;
  }
  return any;
}

/// Calls draw(x, "1:05") at whole seconds, or fractions and multiples that fit.
template <typename Draw>
void eachSecond(const QRectF& box, const TimeScale& scale, SampleRate rate, Draw draw) {
  double step = 0.001;
  for (const double wider :
       {0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 30.0, 60.0, 120.0, 300.0, 600.0})
    if (step * rate.hertz / scale.framesPerPixel < 60.0) step = wider;
  for (auto n = static_cast<std::int64_t>(std::max(0.0, secondsFromFrames(scale.at(0), rate) / step));; ++n) {
    const double seconds = static_cast<double>(n) * step;
    const double x = scale.x(framesFromSeconds(seconds, rate));
    if (x > box.width()) return;
    const QString whole = QString::fromStdString(clockText(framesFromSeconds(seconds, rate), rate));
    if (x >= -40) draw(x, step < 0.01 ? whole : whole.chopped(step < 0.1 ? 1 : step < 1.0 ? 2 : 4));
  }
}

/// The rows of pixels whose middle lies between, one at the least.
std::pair<int, int> rowsBetween(double top, double bottom) {
  const int first = static_cast<int>(std::ceil(top - 0.5));
  return {first, std::max(first, static_cast<int>(std::floor(bottom - 0.5)))};
}

void drawBands(QPainter& painter, QPointF at, const WaveBands& bands, double height, const QColor& colour) {
  const double ratio = painter.device()->devicePixelRatioF();
  QColor soft = colour;
  soft.setAlphaF(colour.alphaF() * 0.45F);
  QImage wave = waveImage(bands, static_cast<int>(std::lround(height * ratio)), colour, soft);
  wave.setDevicePixelRatio(ratio);
  painter.drawImage(at, wave);
}

/// A column after the other: what reaches from lowest to highest, soft, and in it the root mean square.
/// peakOf(a, b) is the peak of those frames.
template <typename PeakOf>
void drawColumns(QPainter& painter, const QRectF& box, const TimeScale& scale, Span span,
                 const QColor& colour, double enlarged, PeakOf peakOf) {
  const double from = std::max(0.0, std::floor(scale.x(span.start)));
  const double to = std::min(box.width(), std::ceil(scale.x(span.end)));
  if (to <= from) return;
  const double ratio = painter.device()->devicePixelRatioF();
  const double middle = box.height() / 2.0 * ratio;
  const double half = (box.height() / 2.0 - 1.0) * ratio;
  const auto count = static_cast<std::size_t>(std::lround((to - from) * ratio));
  WaveBands bands(count);
  for (std::size_t column = 0; column < count; ++column) {
    const double x = from + static_cast<double>(column) / ratio;
    const Frames a = std::max(scale.at(x), span.start);
    const Peak peak = peakOf(a, std::max(std::min(scale.at(x + 1.0 / ratio), span.end), a + Frames{1}));
    const auto high = static_cast<double>(std::clamp(static_cast<float>(enlarged) * peak.high, -1.0F, 1.0F));
    const auto low = static_cast<double>(std::clamp(static_cast<float>(enlarged) * peak.low, -1.0F, 1.0F));
    const auto rms = static_cast<double>(std::min(static_cast<float>(enlarged) * peak.rms, 1.0F));
    bands.set(column, rowsBetween(middle - high * half - 0.4 * ratio, middle - low * half + 0.4 * ratio),
              rowsBetween(middle - rms * half, middle + rms * half));
  }
  drawBands(painter, QPointF(box.left() + from, box.top()), bands, box.height(), colour);
}

/// From sample to sample, with what lies between the line and the middle in soft; where there is room, each
/// sample is a point.
void drawSampleLine(QPainter& painter, const QRectF& box, const TimeScale& scale, Frames first,
                    std::span<const float> samples, const QColor& colour, double enlarged) {
  constexpr double roomForPoints = 5.0;  // pixels from one to the next
  constexpr double thickness = 1.4;
  const double ratio = painter.device()->devicePixelRatioF();
  const double middle = box.height() / 2.0;
  const double half = box.height() / 2.0 - 1.0;
  const auto yOf = [&](float sample) {
    return middle - std::clamp(enlarged * static_cast<double>(sample), -1.0, 1.0) * half;
  };
  const double begins = scale.x(first);
  const auto last = static_cast<double>(samples.size() - 1);
  const double from = std::max(0.0, std::floor(begins));
  const double to = std::min(box.width(), std::ceil(begins + last / scale.framesPerPixel));
  if (to > from) {
    /// Where the line is at a pixel, between two samples.
    const auto lineAt = [&](double x) {
      const double at = std::clamp((x - begins) * scale.framesPerPixel, 0.0, last);
      const auto before = static_cast<std::size_t>(at);
      const auto behind = std::min(before + 1, samples.size() - 1);
      return std::lerp(yOf(samples[before]), yOf(samples[behind]), at - std::floor(at));
    };
    WaveBands bands(static_cast<std::size_t>(std::lround((to - from) * ratio)));
    double left = lineAt(from);
    for (std::size_t column = 0; column < bands.inner.first.size(); ++column) {
      const double right = lineAt(from + static_cast<double>(column + 1) / ratio);
      const auto line = rowsBetween((std::min(left, right) - thickness / 2.0) * ratio,
                                    (std::max(left, right) + thickness / 2.0) * ratio);
      const auto area =
          rowsBetween(std::min({left, right, middle}) * ratio, std::max({left, right, middle}) * ratio);
      bands.set(column, area, line);
      left = right;
    }
    drawBands(painter, QPointF(box.left() + from, box.top()), bands, box.height(), colour);
  }
  if (scale.framesPerPixel * roomForPoints > 1.0) return;
  painter.save();
  painter.setClipRect(box, Qt::IntersectClip);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(Qt::NoPen);
  painter.setBrush(colour);
  for (std::size_t i = 0; i < samples.size(); ++i)
    painter.drawEllipse(QPointF(box.left() + scale.x(first + Frames{static_cast<std::int64_t>(i)}),
                                box.top() + yOf(samples[i])),
                        2.2, 2.2);
  painter.restore();
}

}  // namespace

void drawWave(QPainter& painter, const QRectF& box, const TimeScale& scale, const PeakPyramid& peaks,
              Frames origin, Span span, const QColor& colour, double enlarged) {
  drawColumns(painter, box, scale, span, colour, enlarged,
              [&](Frames from, Frames to) { return peaks.over((from - origin).count, (to - origin).count); });
}

void drawSamples(QPainter& painter, const QRectF& box, const TimeScale& scale, Frames first,
                 std::span<const float> samples, const QColor& colour, double enlarged) {
  constexpr double joined = 1.0;  // frames a pixel from which a line is no more than its columns
  if (samples.empty()) return;
  if (scale.framesPerPixel <= joined)
    return drawSampleLine(painter, box, scale, first, samples, colour, enlarged);
  const Span all{first, first + Frames{static_cast<std::int64_t>(samples.size())}};
  drawColumns(painter, box, scale, all, colour, enlarged, [&](Frames from, Frames to) {
    // With the sample before: so a column reaches to where the one before it ends.
    const auto begin = static_cast<std::size_t>(std::max(Frames{}, from - first - Frames{1}).count);
    const auto end = std::min(samples.size(), static_cast<std::size_t>((to - first).count));
    if (begin >= end) return Peak{};
    const Extremes found = extremesOf(samples.subspan(begin, end - begin));
    return Peak{found.low, found.high,
                static_cast<float>(std::sqrt(found.squares / static_cast<double>(end - begin)))};
  });
}

void drawRuler(QPainter& painter, const QRectF& box, const TimeScale& scale, const Ruler& ruler, bool grid) {
  painter.save();
  painter.setClipRect(box);
  painter.setFont(scaledFont(0.85));
  auto tick = [&](double x, const QString& text) {
    painter.setPen(theme().line);
    painter.drawLine(QPointF(box.left() + x, box.bottom() - 7), QPointF(box.left() + x, box.bottom()));
    painter.setPen(theme().faintText);
    painter.drawText(QRectF(box.left() + x + 3, box.top(), 60, box.height() - 2),
                     Qt::AlignBottom | Qt::AlignLeft, text);
  };
  if (!grid)
    eachSecond(box, scale, ruler.rate, tick);
  else if (roomOfBar(scale, ruler) < box.width())
    eachBar(box, scale, ruler, 46.0, [&](int bar, double x) { tick(x, QString::number(bar)); });
  else if (!eachBeat(box, scale, ruler, tick))
    eachSecond(box, scale, ruler.rate, tick);
  painter.restore();
}

void drawBarLines(QPainter& painter, const QRectF& box, const TimeScale& scale, const Ruler& ruler,
                  bool grid) {
  if (!grid) return;
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

void drawPunch(QPainter& painter, const QRectF& box, const TimeScale& scale, const Punch& punch, int number,
               bool on) {
  const double left = punch.in ? box.left() + scale.x(*punch.in) : box.left() - 8;
  const double right = punch.out ? box.left() + scale.x(*punch.out) : box.right() + 8;
  if (right < box.left() - 8 || left > box.right() + 8) return;
  painter.save();
  painter.setClipRect(box.adjusted(-6, 0, 6, 0));
  painter.setRenderHint(QPainter::Antialiasing);
  QColor fill = theme().recording;
  fill.setAlphaF(on ? 0.30F : 0.10F);
  const QRectF band(left, box.top() + 1.5, right - left, box.height() - 3);
  painter.setPen(QPen(theme().recording, 1.2, on ? Qt::SolidLine : Qt::DashLine));
  painter.setBrush(QBrush(fill, on ? Qt::BDiagPattern : Qt::NoBrush));
  painter.drawRoundedRect(band, 3, 3);
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme().recording);
  for (const auto& [edge, x] : {std::pair{punch.in, left}, std::pair{punch.out, right}})
    if (edge) painter.drawRoundedRect(QRectF(x - 2, box.top() + 0.5, 4, box.height() - 1), 2, 2);
  painter.setFont(scaledFont(0.75, QFont::DemiBold));
  const QString text = QCoreApplication::translate("Painting", "punch %1").arg(number);
  const double shown = std::max(left, box.left());
  if (box.height() > 12 &&
      std::min(right, box.right()) - shown > painter.fontMetrics().horizontalAdvance(text) + 14) {
    const QRectF label(shown + 6, box.top() + 2.5, painter.fontMetrics().horizontalAdvance(text) + 6.0,
                       box.height() - 5);
    painter.setBrush(theme().surface);
    painter.drawRoundedRect(label, 2, 2);
    painter.setPen(theme().text);
    painter.drawText(label, Qt::AlignCenter, text);
  }
  painter.restore();
}

void drawPlan(QPainter& painter, const QRectF& box, const TimeScale& scale, const RecordSetup& setup) {
  painter.save();
  painter.setClipRect(box);
  for (const PlannedStretch& stretch : firstTimeRound(setup)) {
    const double left = box.left() + scale.x(stretch.span.start);
    const double right = std::min(box.right(), box.left() + scale.x(stretch.span.end));
    if (right <= left) continue;
    const double y = box.bottom() - 2.0;
    if (stretch.records)
      painter.fillRect(QRectF(left, y - 2, right - left, 4), theme().recording);
    else
      for (double x = left + 1; x < right - 1; x += 5) painter.fillRect(QRectF(x, y - 1, 2, 2), theme().text);
  }
  painter.restore();
}

void drawMarker(QPainter& painter, const QRectF& box, const TimeScale& scale, const Marker& marker,
                double room) {
  const double x = box.left() + scale.x(marker.at);
  if (x < box.left() - 4 || x > box.right() + 4) return;
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  if (marker.kind == MarkerKind::Dropout) {
    painter.setPen(QPen(theme().text, 1.4));
    painter.setBrush(Qt::NoBrush);
    QPolygonF broken;
    for (int i = 0; i < 5; ++i)
      broken << QPointF(x + (i % 2 == 0 ? -2.5 : 2.5), box.top() + 1 + i * (box.height() - 2) / 4.0);
    painter.drawPolyline(broken);
  } else {
    painter.setPen(QPen(theme().faintText, 1));
    painter.drawLine(QPointF(x, box.top() + 5), QPointF(x, box.bottom()));
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().text);
    QPainterPath bud;
    bud.moveTo(x, box.top());
    bud.quadTo(x + 5, box.top() + 4, x, box.top() + 9);
    bud.quadTo(x - 5, box.top() + 4, x, box.top());
    painter.drawPath(bud);
  }
  painter.setFont(scaledFont(0.75));
  painter.setPen(theme().text);
  if (room > 24 && marker.kind == MarkerKind::Plain)
    painter.drawText(QRectF(x + 6, box.top(), room - 8, painter.fontMetrics().height()),
                     Qt::AlignLeft | Qt::AlignTop,
                     painter.fontMetrics().elidedText(QString::fromStdString(marker.name), Qt::ElideRight,
                                                      static_cast<int>(room) - 8));
  painter.restore();
}

void drawMarkers(QPainter& painter, const QRectF& box, const TimeScale& scale,
                 const std::vector<Marker>& markers) {
  for (std::size_t i = 0; i < markers.size(); ++i) {
    const double here = scale.x(markers[i].at);
    const double next = i + 1 < markers.size() ? scale.x(markers[i + 1].at) : here + 160.0;
    drawMarker(painter, box, scale, markers[i], std::min(next - here, 160.0));
  }
}

void drawGoodPlace(QPainter& painter, QPointF from) {
  QPainterPath leaf(from);
  leaf.quadTo(from + QPointF(6, 5), from + QPointF(0, 13));
  leaf.quadTo(from + QPointF(-6, 5), from);
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme().chosen);
  painter.drawPath(leaf);
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
