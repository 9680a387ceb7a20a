// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/views/song_strip.h"

#include <QMouseEvent>

#include "app/look/painting.h"
#include "app/look/theme.h"

namespace yewdrift::app {

SongStrip::SongStrip(SessionDesk& desk, InHand& inHand, Transport& transport, RecordingDesk& recording,
                     QWidget* parent)
    : QWidget(parent),
      desk_(desk),
      inHand_(inHand),
      transport_(transport),
      recording_(recording),
      spans_(desk, inHand, recording) {
  setAccessibleName(tr("The song"));
  setToolTip(tr(
      "The whole song. Ruler: click to move the playhead, drag to draw or move the loop (Alt suspends "
      "snapping). Under it: punch spans, drawn and moved alike; the dotted and solid line says what pressing "
      "record would play and record. Rows: click to take a track in hand, drag to scroll the takes."));
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  setMouseTracking(true);
  connect(&desk, &SessionDesk::changed, this, &SongStrip::stale);
  connect(&inHand, &InHand::changed, this, &SongStrip::stale);
  connect(&transport, &Transport::changed, this, &SongStrip::stale);
  connect(&desk.peaks(), &PeaksStore::ready, this, &SongStrip::stale);
  connect(&transport, &Transport::moved, this, qOverload<>(&QWidget::update));
}

void SongStrip::setShown(Span span) {
  shown_ = span;
  update();
}

QSize SongStrip::sizeHint() const {
  const int rows = std::clamp(static_cast<int>(desk_.session().tracks.size()), 1, 6);
  return {800, rowsTop + rows * 15 + 6};
}

TimeScale SongStrip::scale() const {
  Frames end = std::max(materialOf(desk_.session()).end, framesFromSeconds(20.0, desk_.session().rate));
  if (desk_.session().loop) end = std::max(end, desk_.session().loop->end);
  for (const Punch& punch : desk_.session().punches)
    for (const auto& edge : {punch.in, punch.out})
      if (edge) end = std::max(end, *edge);
  return {{}, static_cast<double>(end.count) * 1.02 / std::max(50, width() - 2 * headWidth)};
}

QRectF SongStrip::rowBox(std::size_t track) const {
  const double count = std::max<double>(1.0, static_cast<double>(desk_.session().tracks.size()));
  const double height = (this->height() - rowsTop - 4) / count;
  return {static_cast<double>(headWidth), rowsTop + 2 + height * static_cast<double>(track),
          width() - 2.0 * headWidth, height};
}

void SongStrip::stale() {
  layerStale_ = true;
  updateGeometry();
  update();
}

void SongStrip::renderLayer() {
  layerStale_ = false;
  layer_ = QPixmap(size() * devicePixelRatioF());
  layer_.setDevicePixelRatio(devicePixelRatioF());
  layer_.fill(theme().surface);
  QPainter painter(&layer_);
  const TimeScale scale = this->scale();
  for (std::size_t i = 0; i < desk_.session().tracks.size(); ++i) {
    const Track& track = *desk_.session().tracks[i];
    const QRectF box = rowBox(i).adjusted(0, 1, 0, -1);
    painter.fillRect(box, theme().sunken);
    const bool inHand = inHand_.track() == &track;
    for (const Piece& piece : inHand_.composite(track).pieces) {
      const Lane* lane = piece.lane ? track.lane(*piece.lane) : nullptr;
      if (!lane) continue;
      for (const Clip& clip : lane->clips) {
        const Span part = clip.window.shifted(piece.slip).intersect(piece.span);
        const ChannelSource source = clip.channels.front();
        const auto* peaks =
            desk_.peaks().peaks((*desk_.session().pool)[static_cast<std::size_t>(source.file)]);
        if (part.empty() || !peaks || static_cast<std::size_t>(source.channel) >= peaks->size()) continue;
        drawWave(painter, box, scale, (*peaks)[static_cast<std::size_t>(source.channel)],
                 clip.origin + piece.slip, part, inHand ? takeColour(piece.lane->value) : theme().faintText);
      }
    }
    if (inHand) painter.fillRect(QRectF(2, box.top(), 5, box.height()), theme().inHand);
  }
  const QRectF ruler(headWidth, 0, width() - 2 * headWidth, rulerHeight);
  if (desk_.session().loop) drawLoopSpan(painter, ruler, scale, *desk_.session().loop, transport_.looping());
  drawRuler(painter, ruler, scale, desk_.ruler(), desk_.options().grid);
  drawMarkers(painter, ruler, scale, desk_.session().markers);
  const QRectF punches(headWidth, rulerHeight, width() - 2 * headWidth, punchRowHeight - 4);
  int number = 0;
  for (const Punch& punch : desk_.session().punches)
    drawPunch(painter, punches, scale, punch, ++number, desk_.options().punch);
}

void SongStrip::paintEvent(QPaintEvent*) {
  if (layerStale_ || layer_.size() != size() * devicePixelRatioF()) renderLayer();
  QPainter painter(this);
  painter.drawPixmap(0, 0, layer_);
  const TimeScale scale = this->scale();
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(theme().text, 1.2));
  QColor veil = theme().inHand;
  veil.setAlphaF(0.08F);
  painter.setBrush(veil);
  const double left = std::max(0.0, scale.x(shown_.start));
  painter.drawRoundedRect(
      QRectF(headWidth + left, rowsTop + 1, std::min(scale.x(shown_.end), width() - 2.0 * headWidth) - left,
             height() - rowsTop - 2),
      4, 4);
  if (const auto setup = recording_.planned(); setup && !recording_.armedTracks().empty())
    drawPlan(painter, QRectF(headWidth, rulerHeight, width() - 2 * headWidth, punchRowHeight), scale, *setup);
  drawPlayhead(painter, headWidth + scale.x(transport_.state().position), 4, height());
}

void SongStrip::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  drag_ = Drag::Pressed;
  pressedAt_ = event->position().toPoint();
  pressedFrame_ = std::max(Frames{}, scale().at(pressedAt_.x() - headWidth));
}

void SongStrip::mouseMoveEvent(QMouseEvent* event) {
  if (drag_ == Drag::None) return hover(event->position().toPoint());
  if (drag_ == Drag::Pressed) {
    if ((event->position().toPoint() - pressedAt_).manhattanLength() <= 4) return;
    if (pressedAt_.y() > rowsTop || recording_.recording()) {
      drag_ = Drag::View;
    } else {
      drag_ = Drag::Span;
      const Frames reach{static_cast<std::int64_t>(5 * scale().framesPerPixel)};
      spans_.begin(pressedAt_.y() > rulerHeight ? SpanGestures::Row::Punch : SpanGestures::Row::Loop,
                   pressedFrame_, reach);
    }
  }
  const Frames now = std::max(Frames{}, scale().at(event->position().x() - headWidth));
  if (drag_ == Drag::View)
    emit scrollAsked(now - Frames{shown_.length().count / 2});
  else
    spans_.drag(now, event->modifiers() & Qt::AltModifier);
}

void SongStrip::hover(QPoint at) {
  SpanGestures::Part part = SpanGestures::Part::None;
  if (at.y() <= rowsTop)
    part = spans_
               .gripAt(at.y() > rulerHeight ? SpanGestures::Row::Punch : SpanGestures::Row::Loop,
                       scale().at(at.x() - headWidth),
                       Frames{static_cast<std::int64_t>(5 * scale().framesPerPixel)})
               .part;
  setCursor(part == SpanGestures::Part::None   ? Qt::ArrowCursor
            : part == SpanGestures::Part::Body ? Qt::OpenHandCursor
                                               : Qt::SplitHCursor);
}

void SongStrip::mouseReleaseEvent(QMouseEvent*) {
  if (drag_ == Drag::Pressed) {
    if (pressedAt_.y() <= rowsTop) {
      transport_.locate(pressedFrame_);
    } else {
      for (std::size_t i = 0; i < desk_.session().tracks.size(); ++i)
        if (rowBox(i).contains(pressedAt_)) inHand_.takeTrack(desk_.session().tracks[i]->id);
    }
  }
  spans_.finish();
  drag_ = Drag::None;
}

}  // namespace yewdrift::app
