// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lanes_view.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QScrollBar>
#include <QToolTip>

#include "app/painting.h"
#include "app/theme.h"
#include "core/edit/edit.h"

namespace yewdrift::app {

LanesView::LanesView(Studio& studio, QWidget* parent) : QAbstractScrollArea(parent), studio_(studio) {
  setAccessibleName(tr("Takes and composite"));
  setFrameShape(QFrame::NoFrame);
  setFocusPolicy(Qt::StrongFocus);
  viewport()->setMouseTracking(true);
  setMinimumHeight(220);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOn);
  connect(&studio, &Studio::sessionChanged, this, &LanesView::contentChanged);
  connect(&studio, &Studio::inHandChanged, this, &LanesView::contentChanged);
  connect(&studio, &Studio::transportChanged, this, &LanesView::contentChanged);
  connect(&studio.peaks(), &PeaksStore::ready, this, &LanesView::contentChanged);
  connect(&studio, &Studio::moved, this, &LanesView::moved);
}

// -- geometry

int LanesView::rowCount() const {
  const Track* track = studio_.trackInHand();
  int count = track ? static_cast<int>(track->lanes.size()) : 0;
  int lastNumber = 0;
  for (const GrowingPass& pass : studio_.growing())
    if (track && pass.track == track->id && pass.number.value != lastNumber) {
      lastNumber = pass.number.value;
      ++count;
    }
  return count;
}

QRect LanesView::compositeRect() const {
  const int height = std::clamp(viewport()->height() / 4, 64, 100);
  return {0, viewport()->height() - height, viewport()->width(), height};
}

QRect LanesView::rulerRect() const {
  return {0, 0, viewport()->width(), rulerHeight};
}

int LanesView::rowHeight() const {
  const int room = compositeRect().top() - 6 - rulerHeight;
  return std::clamp(room / std::max(rowCount(), 1), 36, 120);
}

QRect LanesView::laneRect(int index) const {
  return {0, rulerHeight + index * rowHeight() - verticalScrollBar()->value(), viewport()->width(),
          rowHeight()};
}

QRectF LanesView::timeBox(const QRect& row) const {
  return QRectF(row).adjusted(timeLeft(), 2, 0, -2);
}

Span LanesView::visibleSpan() const {
  return {scale_.at(0), scale_.at(std::max(1, viewport()->width() - timeLeft()))};
}

void LanesView::showSpan(Span span) {
  const double width = std::max(100, viewport()->width() - timeLeft());
  const double margin = static_cast<double>(span.length().count) * 0.03;
  scale_.framesPerPixel =
      std::clamp((static_cast<double>(span.length().count) + 2 * margin) / width, 2.0, 4.0e6);
  scale_.origin = span.start - Frames{static_cast<std::int64_t>(margin)};
  updateScrollBars();
  contentChanged();
  emit scrolled();
}

void LanesView::scrollTo(Frames left) {
  scale_.origin = std::max(left, Frames{-static_cast<std::int64_t>(20 * scale_.framesPerPixel)});
  updateScrollBars();
  contentChanged();
  emit scrolled();
}

void LanesView::zoom(double factor) {
  const double middle = (viewport()->width() - timeLeft()) / 2.0;
  const double playhead = scale_.x(studio_.transport().position);
  const bool inSight = playhead > 0 && playhead < 2 * middle;
  scale_ = scale_.zoomed(factor, inSight ? playhead : middle);
  scrollTo(scale_.origin);
}

void LanesView::updateScrollBars() {
  const QSignalBlocker quietly(horizontalScrollBar());
  const Span all = materialOf(studio_.session());
  const auto unit = [this](Frames f) {
    return static_cast<int>(static_cast<double>(f.count) / scale_.framesPerPixel);
  };
  const int page = std::max(1, viewport()->width() - timeLeft());
  horizontalScrollBar()->setPageStep(page);
  horizontalScrollBar()->setSingleStep(40);
  horizontalScrollBar()->setRange(-20, std::max({unit(all.end) + 60 - page, unit(scale_.origin), -20}));
  horizontalScrollBar()->setValue(unit(scale_.origin));
  const int room = compositeRect().top() - 6 - rulerHeight;
  verticalScrollBar()->setPageStep(std::max(room, 1));
  verticalScrollBar()->setSingleStep(rowHeight() / 2);
  verticalScrollBar()->setRange(0, std::max(0, rowCount() * rowHeight() - room));
}

void LanesView::scrollContentsBy(int dx, int) {
  if (dx != 0) scale_.origin = Frames{std::llround(horizontalScrollBar()->value() * scale_.framesPerPixel)};
  layerStale_ = true;
  viewport()->update();
  emit scrolled();
}

void LanesView::contentChanged() {
  layerStale_ = true;
  if (rowCount() != shownRows_) {
    shownRows_ = rowCount();
    updateScrollBars();
    // The newest take lies lowest, next to the composite.
    verticalScrollBar()->setValue(verticalScrollBar()->maximum());
  }
  viewport()->update();
}

void LanesView::moved() {
  const EngineState transport = studio_.transport();
  if (!studio_.growing().empty()) contentChanged();
  if (transport.rolling && drag_ == Drag::None) autoScroll(transport.position);
  viewport()->update();
}

void LanesView::autoScroll(Frames playhead) {
  const Span visible = visibleSpan();
  if (!visible.contains(playhead)) scrollTo(playhead - Frames{visible.length().count / 20});
}

void LanesView::resizeEvent(QResizeEvent* event) {
  QAbstractScrollArea::resizeEvent(event);
  updateScrollBars();
  contentChanged();
  emit scrolled();
}

// -- what is under the pointer

LanesView::Hit LanesView::hit(QPoint at) const {
  Hit found;
  found.at = std::max(Frames{}, scale_.at(at.x() - timeLeft()));
  const bool head = at.x() < timeLeft();
  const Track* track = studio_.trackInHand();
  if (rulerRect().contains(at)) {
    found.part = head ? Part::Nothing : Part::Ruler;
  } else if (compositeRect().contains(at)) {
    found.part = head ? Part::CompositeName : Part::Composite;
    if (head || !track) return found;
    for (const Join& join : studio_.composite(*track).joins)
      if (std::abs(scale_.x(join.at) - (at.x() - timeLeft())) <= 5) {
        found.part = Part::Boundary;
        found.boundary = join.at;
      }
  } else if (track && at.y() < compositeRect().top() - 4) {
    for (int i = 0; i < static_cast<int>(track->lanes.size()); ++i)
      if (laneRect(i).contains(at)) {
        found.part = head ? Part::LaneName : Part::Lane;
        found.lane = i;
      }
  }
  return found;
}

Frames LanesView::snapped(Frames at, bool suspended) const {
  return suspended ? at : studio_.ruler().tempo.nearestBeat(at, studio_.session().rate);
}

// -- gestures

void LanesView::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  pressed_ = hit(event->position().toPoint());
  pressedAt_ = event->position().toPoint();
  drag_ = Drag::Pressed;
}

void LanesView::mouseMoveEvent(QMouseEvent* event) {
  const QPoint at = event->position().toPoint();
  if (drag_ == Drag::Pressed && (at - pressedAt_).manhattanLength() > 4) beginDrag(pressedAt_);
  if (drag_ != Drag::None && drag_ != Drag::Pressed) return continueDrag(event);
  const Hit here = hit(at);
  const auto& loop = studio_.session().loop;
  const bool atLoopEdge =
      here.part == Part::Ruler && loop &&
      (std::abs(xOf(loop->start) - at.x()) <= 5 || std::abs(xOf(loop->end) - at.x()) <= 5);
  viewport()->setCursor(here.part == Part::Boundary || atLoopEdge ? Qt::SplitHCursor
                        : here.part == Part::Lane                 ? Qt::IBeamCursor
                                                                  : Qt::ArrowCursor);
}

void LanesView::beginDrag(QPoint at) {
  const auto& loop = studio_.session().loop;
  switch (pressed_.part) {
    case Part::Lane:
      drag_ = studio_.recording() ? Drag::None : Drag::Pick;
      break;
    case Part::Boundary:
      drag_ = Drag::Boundary;
      studio_.takeJoinInHand(pressed_.boundary);
      break;
    case Part::Composite:
      drag_ = Drag::Select;
      break;
    case Part::Ruler:
      if (studio_.recording()) {
        drag_ = Drag::None;
      } else if (loop && std::abs(xOf(loop->start) - at.x()) <= 5) {
        drag_ = Drag::LoopStart;
      } else if (loop && std::abs(xOf(loop->end) - at.x()) <= 5) {
        drag_ = Drag::LoopEnd;
      } else {
        drag_ = loop && loop->contains(pressed_.at) ? Drag::LoopBody : Drag::LoopDraw;
      }
      if (loop) loopBefore_ = *loop;
      break;
    default:
      drag_ = Drag::None;
  }
}

void LanesView::continueDrag(QMouseEvent* event) {
  const Track* track = studio_.trackInHand();
  if (!track) return;
  const TrackId id = track->id;
  const bool free = event->modifiers() & Qt::AltModifier;
  dragNow_ = std::max(Frames{}, scale_.at(event->position().x() - timeLeft()));
  const Span span{std::min(pressed_.at, dragNow_), std::max(pressed_.at, dragNow_)};
  const Frames by = dragNow_ - pressed_.at;
  auto loopTo = [this](Span to) { studio_.preview([to](const Session& s) { return setLoop(s, to); }); };
  switch (drag_) {
    case Drag::Pick: {
      const LaneNumber lane = track->lanes[static_cast<std::size_t>(pressed_.lane)]->number;
      studio_.preview(
          [id, span, lane](const Session& s) { return span.empty() ? s : pick(s, id, span, lane); });
      break;
    }
    case Drag::Boundary:
      studio_.previewBoundary(pressed_.boundary, dragNow_);
      break;
    case Drag::Select:
      studio_.select(span.empty() ? std::nullopt : std::optional(span));
      break;
    case Drag::LoopStart:
      loopTo({snapped(dragNow_, free), loopBefore_.end});
      break;
    case Drag::LoopEnd:
      loopTo({loopBefore_.start, snapped(dragNow_, free)});
      break;
    case Drag::LoopBody: {
      const Frames start = std::max(Frames{}, snapped(loopBefore_.start + by, free));
      loopTo({start, start + loopBefore_.length()});
      break;
    }
    case Drag::LoopDraw:
      loopTo({snapped(span.start, free), snapped(span.end, free)});
      break;
    default:
      break;
  }
  layerStale_ = true;
  viewport()->update();
}

void LanesView::mouseReleaseEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  if (drag_ == Drag::Pressed)
    click(pressed_);
  else
    endDrag();
  drag_ = Drag::None;
  contentChanged();
}

void LanesView::endDrag() {
  switch (drag_) {
    case Drag::Pick: {
      const Track* track = studio_.trackInHand();
      const int number = track->lanes[static_cast<std::size_t>(pressed_.lane)]->number.value;
      studio_.finishPreview(tr("Pick lane %1").arg(number));
      break;
    }
    case Drag::Boundary:
      studio_.finishPreview(tr("Move a boundary"));
      break;
    case Drag::LoopStart:
    case Drag::LoopEnd:
    case Drag::LoopBody:
    case Drag::LoopDraw:
      studio_.finishPreview(tr("Set the loop"));
      break;
    default:
      break;
  }
}

void LanesView::click(const Hit& where) {
  const Track* track = studio_.trackInHand();
  if (!track) return;
  switch (where.part) {
    case Part::Ruler:
      studio_.locate(where.at);
      break;
    case Part::LaneName: {
      const LaneNumber lane = track->lanes[static_cast<std::size_t>(where.lane)]->number;
      studio_.hear(studio_.heardLane() == lane ? std::nullopt : std::optional(lane));
      break;
    }
    case Part::Lane:
      studio_.hear(track->lanes[static_cast<std::size_t>(where.lane)]->number);
      studio_.locate(where.at);
      break;
    case Part::CompositeName:
      studio_.hear(std::nullopt);
      break;
    case Part::Composite:
      studio_.select(std::nullopt);
      studio_.hear(std::nullopt);
      studio_.locate(where.at);
      break;
    case Part::Boundary:
      studio_.takeJoinInHand(where.boundary);
      break;
    case Part::Nothing:
      break;
  }
}

void LanesView::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape && drag_ != Drag::None) {
    studio_.cancelPreview();
    drag_ = Drag::None;
    return contentChanged();
  }
  event->ignore();
}

void LanesView::wheelEvent(QWheelEvent* event) {
  const QPoint delta = event->angleDelta();
  if (event->modifiers() & Qt::ControlModifier) {
    scale_ = scale_.zoomed(std::pow(1.0015, -delta.y()), event->position().x() - timeLeft());
    return scrollTo(scale_.origin);
  }
  const int sideways = delta.x() != 0 ? delta.x() : event->modifiers() & Qt::ShiftModifier ? delta.y() : 0;
  if (sideways != 0)
    horizontalScrollBar()->setValue(horizontalScrollBar()->value() - sideways / 2);
  else
    verticalScrollBar()->setValue(verticalScrollBar()->value() - delta.y() / 2);
}

bool LanesView::viewportEvent(QEvent* event) {
  if (event->type() != QEvent::ToolTip) return QAbstractScrollArea::viewportEvent(event);
  auto* help = static_cast<QHelpEvent*>(event);
  QString tip;
  switch (hit(help->pos()).part) {
    case Part::Ruler:
      tip = tr("Click to move the playhead; drag to draw the loop. Alt suspends snapping.");
      break;
    case Part::LaneName:
      tip = tr("Hear this take alone (1 to 9, or E and D); click again for the composite.");
      break;
    case Part::Lane:
      tip = tr("Drag to pick this stretch for the composite; click to hear this take from here.");
      break;
    case Part::CompositeName:
      tip = tr("Hear the composite (C).");
      break;
    case Part::Composite:
      tip = tr("What the track plays. Drag to select a stretch; F picks the heard take there.");
      break;
    case Part::Boundary:
      tip = tr("Drag to move this boundary; click to put the join on the bench.");
      break;
    case Part::Nothing:
      break;
  }
  QToolTip::showText(help->globalPos(), tip, viewport());
  return true;
}

}  // namespace yewdrift::app
