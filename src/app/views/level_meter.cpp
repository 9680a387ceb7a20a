// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/views/level_meter.h"

#include <QPainter>

#include "app/look/theme.h"
#include "app/look/widgets.h"
#include "core/session/level.h"

namespace yewdrift::app {

LevelMeter::LevelMeter(const QString& name, QWidget* parent) : QWidget(parent) {
  setAccessibleName(name);
  setToolTip(tr("%1: from -60 dB to full scale, with the highest level of the last two seconds. The lamp at "
                "the end lights when it went over; click to clear it.")
                 .arg(name));
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

void LevelMeter::feed(float peak) {
  const double level = std::max(decibelsOf(peak).value, -90.0);
  const double shownBefore = shown();
  const double heldBefore = held_;
  shown_ = std::max(level, shown_ - 1.4);  // falls some 40 dB a second at 30 pictures a second
  constexpr int heldPictures = 60;         // two seconds
  if (level >= held_ || ++heldFor_ > heldPictures) {
    held_ = level;
    heldFor_ = 0;
  }
  const bool over = over_ || peak >= 1.0F;
  if (over != over_ || shownBefore != shown() || heldBefore != held_) update();
  over_ = over;
}

double LevelMeter::shown() const {
  return std::clamp(shown_, -60.0, 0.0);
}

QString LevelMeter::spoken() const {
  const QString level = shown_ <= -60.0 ? tr("silent") : tr("%L1 dB").arg(shown_, 0, 'f', 1);
  return over_ ? tr("%1, it went over").arg(level) : level;
}

void LevelMeter::mousePressEvent(QMouseEvent*) {
  over_ = false;
  update();
}

void LevelMeter::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const QRectF bar(0, 1, width() - lampWidth, height() - 2.0);
  painter.setPen(QPen(theme().control, 1));
  painter.setBrush(theme().sunken);
  painter.drawRoundedRect(bar.adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
  painter.setPen(Qt::NoPen);
  auto x = [&bar](double level) { return bar.width() * shareOf(level); };
  if (shown_ > -60.0) {
    painter.setBrush(theme().chosen);
    painter.drawRoundedRect(QRectF(bar.left(), bar.top(), x(std::min(shown_, -6.0)), bar.height()), 3, 3);
    // What is loud is told by its shape too: higher than the rest, behind a gap.
    painter.setBrush(theme().inHand);
    if (shown_ > -6.0)
      painter.drawRect(QRectF(x(-6.0) + 2, 0, std::max(1.0, x(shown_) - x(-6.0) - 2), height()));
  }
  // The scale, over what fills it.
  painter.setPen(QPen(theme().control, 1));
  for (const double level : scaleLevels) {
    const double at = std::round(bar.left() + x(level)) + 0.5;
    if (level > -60.0 && level < 0.0)
      painter.drawLine(QPointF(at, bar.bottom() - 3), QPointF(at, bar.bottom()));
  }
  painter.setPen(Qt::NoPen);
  if (held_ > -60.0) painter.fillRect(QRectF(x(held_) - 1, bar.top(), 2, bar.height()), theme().text);
  painter.setBrush(over_ ? theme().recording : Qt::transparent);
  painter.setPen(QPen(over_ ? theme().recording : theme().control, over_ ? 2 : 1));
  painter.drawEllipse(QRectF(width() - 9.0, height() / 2.0 - 3.5, 7, 7));
}

MeterScale::MeterScale(QWidget* parent) : QWidget(parent) {
  setFont(scaledFont(0.68));
  setFixedHeight(QFontMetrics(font()).height() - 2);
  setToolTip(tr("Decibels below full scale."));
}

void MeterScale::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setFont(font());
  painter.setPen(theme().faintText);
  const double bar = width() - LevelMeter::lampWidth;
  for (const double level : LevelMeter::scaleLevels) {
    const QString text = QString::number(static_cast<int>(level)).replace('-', QChar(0x2212));
    const double wide = QFontMetricsF(font()).horizontalAdvance(text);
    const double middle = bar * LevelMeter::shareOf(level);
    painter.drawText(QRectF(std::clamp(middle - wide / 2.0, 0.0, width() - wide), 0, wide + 1, height()),
                     Qt::AlignCenter, text);
  }
}

}  // namespace yewdrift::app
