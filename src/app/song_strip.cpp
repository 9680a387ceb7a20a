// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/song_strip.h"

#include <QMouseEvent>

#include "app/painting.h"
#include "app/theme.h"
#include "core/edit/edit.h"

namespace yewdrift::app {

SongStrip::SongStrip(Studio& studio, QWidget* parent) : QWidget(parent), studio_(studio) {
  setAccessibleName(tr("The song"));
  setToolTip(
      tr("The whole song. Ruler: click to move the playhead, drag to draw or move the loop (Alt suspends "
         "snapping). Rows: click to take a track in hand, drag to scroll the takes."));
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  for (auto signal : {&Studio::sessionChanged, &Studio::inHandChanged, &Studio::transportChanged})
    connect(&studio, signal, this, &SongStrip::stale);
  connect(&studio.peaks(), &PeaksStore::ready, this, &SongStrip::stale);
  connect(&studio, &Studio::moved, this, qOverload<>(&QWidget::update));
}

void SongStrip::setShown(Span span) {
  shown_ = span;
  update();
}

QSize SongStrip::sizeHint() const {
  const int rows = std::clamp(static_cast<int>(studio_.session().tracks.size()), 1, 6);
  return {800, rulerHeight + rows * 16 + 6};
}

TimeScale SongStrip::scale() const {
  Frames end = std::max(materialOf(studio_.session()).end, framesFromSeconds(20.0, studio_.session().rate));
  if (studio_.session().loop) end = std::max(end, studio_.session().loop->end);
  return {{}, static_cast<double>(end.count) * 1.02 / std::max(50, width() - 2 * headWidth)};
}

QRectF SongStrip::rowBox(std::size_t track) const {
  const double count = std::max<double>(1.0, static_cast<double>(studio_.session().tracks.size()));
  const double height = (this->height() - rulerHeight - 4) / count;
  return {static_cast<double>(headWidth), rulerHeight + 2 + height * static_cast<double>(track),
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
  for (std::size_t i = 0; i < studio_.session().tracks.size(); ++i) {
    const Track& track = *studio_.session().tracks[i];
    const QRectF box = rowBox(i).adjusted(0, 1, 0, -1);
    painter.fillRect(box, theme().sunken);
    const bool inHand = studio_.trackInHand() == &track;
    for (const Piece& piece : studio_.composite(track).pieces) {
      const Lane* lane = piece.lane ? track.lane(*piece.lane) : nullptr;
      if (!lane) continue;
      for (const Clip& clip : lane->clips) {
        const Span part = clip.window.shifted(piece.slip).intersect(piece.span);
        const ChannelSource source = clip.channels.front();
        const auto* peaks =
            studio_.peaks().peaks((*studio_.session().pool)[static_cast<std::size_t>(source.file)]);
        if (part.empty() || !peaks || static_cast<std::size_t>(source.channel) >= peaks->size()) continue;
        drawWave(painter, box, scale, (*peaks)[static_cast<std::size_t>(source.channel)],
                 clip.origin + piece.slip, part, inHand ? takeColour(piece.lane->value) : theme().faintText);
      }
    }
    if (inHand) painter.fillRect(QRectF(2, box.top(), 5, box.height()), theme().inHand);
  }
  const QRectF ruler(headWidth, 0, width() - 2 * headWidth, rulerHeight);
  if (studio_.session().loop) drawLoopSpan(painter, ruler, scale, *studio_.session().loop, studio_.looping());
  drawRuler(painter, ruler, scale, studio_.ruler());
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
      QRectF(headWidth + left, rulerHeight + 1,
             std::min(scale.x(shown_.end), width() - 2.0 * headWidth) - left, height() - rulerHeight - 2),
      4, 4);
  drawPlayhead(painter, headWidth + scale.x(studio_.transport().position), 4, height());
}

void SongStrip::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  drag_ = Drag::Pressed;
  pressedAt_ = event->position().toPoint();
  pressedFrame_ = std::max(Frames{}, scale().at(pressedAt_.x() - headWidth));
}

void SongStrip::mouseMoveEvent(QMouseEvent* event) {
  if (drag_ == Drag::None) return;
  const auto& loop = studio_.session().loop;
  if (drag_ == Drag::Pressed) {
    if ((event->position().toPoint() - pressedAt_).manhattanLength() <= 4) return;
    auto near = [&](Frames at) { return std::abs(headWidth + scale().x(at) - pressedAt_.x()) <= 5; };
    if (pressedAt_.y() > rulerHeight || studio_.recording())
      drag_ = Drag::View;
    else if (loop && near(loop->start))
      drag_ = Drag::LoopStart;
    else if (loop && near(loop->end))
      drag_ = Drag::LoopEnd;
    else
      drag_ = loop && loop->contains(pressedFrame_) ? Drag::LoopBody : Drag::LoopDraw;
    if (loop) loopBefore_ = *loop;
  }
  dragTo(std::max(Frames{}, scale().at(event->position().x() - headWidth)),
         event->modifiers() & Qt::AltModifier);
}

void SongStrip::dragTo(Frames now, bool free) {
  auto snap = [&](Frames at) {
    return free ? at : studio_.ruler().tempo.nearestBeat(at, studio_.session().rate);
  };
  auto loopTo = [this](Span to) { studio_.preview([to](const Session& s) { return setLoop(s, to); }); };
  switch (drag_) {
    case Drag::View:
      emit scrollAsked(now - Frames{shown_.length().count / 2});
      break;
    case Drag::LoopStart:
      loopTo({snap(now), loopBefore_.end});
      break;
    case Drag::LoopEnd:
      loopTo({loopBefore_.start, snap(now)});
      break;
    case Drag::LoopBody: {
      const Frames start = std::max(Frames{}, snap(loopBefore_.start + now - pressedFrame_));
      loopTo({start, start + loopBefore_.length()});
      break;
    }
    case Drag::LoopDraw:
      loopTo({snap(std::min(now, pressedFrame_)), snap(std::max(now, pressedFrame_))});
      break;
    default:
      break;
  }
}

void SongStrip::mouseReleaseEvent(QMouseEvent*) {
  if (drag_ == Drag::Pressed) {
    if (pressedAt_.y() <= rulerHeight) {
      studio_.locate(pressedFrame_);
    } else {
      for (std::size_t i = 0; i < studio_.session().tracks.size(); ++i)
        if (rowBox(i).contains(pressedAt_)) studio_.setTrackInHand(studio_.session().tracks[i]->id);
    }
  } else if (drag_ != Drag::None && drag_ != Drag::View) {
    studio_.finishPreview(tr("Set the loop"));
  }
  drag_ = Drag::None;
}

}  // namespace yewdrift::app
