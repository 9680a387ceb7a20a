// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/views/lanes_view.h"

#include <QMouseEvent>
#include <QScrollBar>

#include "app/look/painting.h"

namespace yewdrift::app {

LanesView::LanesView(SessionDesk& desk, InHand& inHand, Transport& transport, RecordingDesk& recording,
                     QWidget* parent)
    : QAbstractScrollArea(parent),
      desk_(desk),
      inHand_(inHand),
      transport_(transport),
      recording_(recording),
      spans_(desk, inHand, recording) {
  setAccessibleName(tr("Takes and composite"));
  setFrameShape(QFrame::NoFrame);
  setFocusPolicy(Qt::StrongFocus);
  viewport()->setMouseTracking(true);
  setMinimumHeight(220);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOn);
  connect(&desk, &SessionDesk::changed, this, &LanesView::contentChanged);
  connect(&inHand, &InHand::changed, this, &LanesView::contentChanged);
  connect(&transport, &Transport::changed, this, &LanesView::contentChanged);
  connect(&desk.peaks(), &PeaksStore::ready, this, &LanesView::contentChanged);
  connect(&transport, &Transport::moved, this, &LanesView::moved);
}

// -- geometry

std::vector<const Lane*> LanesView::rows() const {
  std::vector<const Lane*> shown;
  const Track* track = inHand_.track();
  if (!track) return shown;
  for (const bool aside : {true, false})
    for (const auto& lane : track->lanes)
      if (lane->setAside == aside && (showSetAside_ || !aside)) shown.push_back(&*lane);
  return shown;
}

int LanesView::rowCount() const {
  const Track* track = inHand_.track();
  int count = static_cast<int>(rows().size());
  int lastNumber = 0;
  for (const GrowingPass& pass : recording_.growing())
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

QRect LanesView::punchRowRect() const {
  return {0, rulerHeight, viewport()->width(), punchRowHeight};
}

QRect LanesView::setAsideRect() const {
  const Track* track = inHand_.track();
  const bool any = track && std::any_of(track->lanes.begin(), track->lanes.end(),
                                        [](const auto& lane) { return lane->setAside; });
  return any ? QRect(0, lanesTop, viewport()->width(), 22) : QRect(0, lanesTop, viewport()->width(), 0);
}

int LanesView::lanesRoom() const {
  return compositeRect().top() - 6 - lanesTop - setAsideRect().height();
}

int LanesView::rowHeight() const {
  return std::clamp(lanesRoom() / std::max(rowCount(), 1), 36, 120);
}

QRect LanesView::laneRect(int index) const {
  return {0, setAsideRect().bottom() + 1 + index * rowHeight() - verticalScrollBar()->value(),
          viewport()->width(), rowHeight()};
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
  const double playhead = scale_.x(transport_.state().position);
  const bool inSight = playhead > 0 && playhead < 2 * middle;
  scale_ = scale_.zoomed(factor, inSight ? playhead : middle);
  scrollTo(scale_.origin);
}

void LanesView::updateScrollBars() {
  const QSignalBlocker quietly(horizontalScrollBar());
  const Span all = materialOf(desk_.session());
  const auto unit = [this](Frames f) {
    return static_cast<int>(static_cast<double>(f.count) / scale_.framesPerPixel);
  };
  const int page = std::max(1, viewport()->width() - timeLeft());
  horizontalScrollBar()->setPageStep(page);
  horizontalScrollBar()->setSingleStep(40);
  horizontalScrollBar()->setRange(-20, std::max({unit(all.end) + 60 - page, unit(scale_.origin), -20}));
  horizontalScrollBar()->setValue(unit(scale_.origin));
  const int room = lanesRoom();
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
  const EngineState transport = transport_.state();
  if (!recording_.growing().empty()) contentChanged();
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

}  // namespace yewdrift::app
