// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is under the pointer in takes and composite, and what pressing, dragging and clicking there does.
#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QScrollBar>
#include <QToolTip>

#include "app/views/lanes_view.h"
#include "core/edit/edit.h"

namespace yewdrift::app {
namespace {

constexpr int grabPixels = 5;

}  // namespace

Frames LanesView::reach() const {
  return {static_cast<std::int64_t>(grabPixels * scale_.framesPerPixel)};
}

LanesView::Hit LanesView::hit(QPoint at) const {
  Hit found;
  found.at = std::max(Frames{}, scale_.at(at.x() - timeLeft()));
  const bool head = at.x() < timeLeft();
  const Track* track = inHand_.track();
  if (rulerRect().contains(at)) {
    found.part = head ? Part::Nothing : Part::Ruler;
  } else if (punchRowRect().contains(at)) {
    found.part = head ? Part::Nothing : Part::PunchRow;
  } else if (setAsideRect().contains(at)) {
    found.part = Part::SetAside;
  } else if (compositeRect().contains(at)) {
    found.part = head ? Part::CompositeName : Part::Composite;
    if (head || !track) return found;
    for (const Join& join : inHand_.composite(*track).joins)
      if (std::abs(scale_.x(join.at) - (at.x() - timeLeft())) <= grabPixels) {
        found.part = Part::Boundary;
        found.boundary = join.at;
      }
  } else if (track && at.y() < compositeRect().top() - 4) {
    const std::vector<const Lane*> shown = rows();
    for (std::size_t i = 0; i < shown.size(); ++i)
      if (const QRect row = laneRect(static_cast<int>(i)); row.contains(at))
        hitLane(found, *shown[i], row, at);
  }
  return found;
}

void LanesView::hitLane(Hit& found, const Lane& lane, const QRect& row, QPoint at) const {
  found.lane = lane.number;
  found.part = at.x() < timeLeft() ? Part::LaneName : Part::Lane;
  // Edges are taken hold of in the lower third, so that picking may start right at them.
  if (found.part != Part::Lane || at.y() < row.bottom() - row.height() / 3) return;
  for (const Clip& clip : lane.clips) {
    found.window = clip.window;
    if (std::abs(xOf(clip.window.start) - at.x()) <= grabPixels) {
      found.part = Part::ClipStart;
      return;
    }
    if (std::abs(xOf(clip.window.end) - at.x()) <= grabPixels) {
      found.part = Part::ClipEnd;
      return;
    }
  }
}

void LanesView::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  pressed_ = hit(event->position().toPoint());
  pressedAt_ = event->position().toPoint();
  // With Shift a lane is selected over, not picked.
  if (pressed_.part == Part::Lane && event->modifiers() & Qt::ShiftModifier) pressed_.part = Part::Composite;
  drag_ = Drag::Pressed;
}

void LanesView::mouseMoveEvent(QMouseEvent* event) {
  const QPoint at = event->position().toPoint();
  if (drag_ == Drag::Pressed && (at - pressedAt_).manhattanLength() > 4) beginDrag(pressedAt_);
  if (drag_ != Drag::None && drag_ != Drag::Pressed) return continueDrag(event);
  const Hit here = hit(at);
  const auto row = here.part == Part::PunchRow ? SpanGestures::Row::Punch : SpanGestures::Row::Loop;
  const bool ruler = here.part == Part::Ruler || here.part == Part::PunchRow;
  const SpanGestures::Part grip =
      ruler ? spans_.gripAt(row, here.at, reach()).part : SpanGestures::Part::None;
  const bool edge = here.part == Part::Boundary || here.part == Part::ClipStart ||
                    here.part == Part::ClipEnd || grip == SpanGestures::Part::Start ||
                    grip == SpanGestures::Part::End;
  viewport()->setCursor(edge                               ? Qt::SplitHCursor
                        : grip == SpanGestures::Part::Body ? Qt::OpenHandCursor
                        : here.part == Part::SetAside      ? Qt::PointingHandCursor
                        : here.part == Part::Lane          ? Qt::IBeamCursor
                                                           : Qt::ArrowCursor);
}

void LanesView::beginDrag(QPoint) {
  const bool recording = recording_.recording();
  drag_ = Drag::None;
  switch (pressed_.part) {
    case Part::Lane:
      if (!recording) drag_ = Drag::Pick;
      break;
    case Part::ClipStart:
      if (!recording) drag_ = Drag::ClipStart;
      break;
    case Part::ClipEnd:
      if (!recording) drag_ = Drag::ClipEnd;
      break;
    case Part::Boundary:
      drag_ = Drag::Boundary;
      inHand_.takeJoin(pressed_.boundary);
      break;
    case Part::Composite:
      drag_ = Drag::Select;
      break;
    case Part::Ruler:
    case Part::PunchRow:
      if (recording) break;
      drag_ = Drag::Span;
      spans_.begin(pressed_.part == Part::Ruler ? SpanGestures::Row::Loop : SpanGestures::Row::Punch,
                   pressed_.at, reach());
      break;
    default:
      break;
  }
}

void LanesView::continueDrag(QMouseEvent* event) {
  const bool free = event->modifiers() & Qt::AltModifier;
  dragNow_ = std::max(Frames{}, scale_.at(event->position().x() - timeLeft()));
  if (drag_ == Drag::Span)
    spans_.drag(dragNow_, free);
  else
    dragMaterial(dragNow_, free);
  layerStale_ = true;
  viewport()->update();
}

void LanesView::dragMaterial(Frames now, bool free) {
  const Track* track = inHand_.track();
  if (!track) return;
  const TrackId id = track->id;
  const Span span{std::min(pressed_.at, now), std::max(pressed_.at, now)};
  const auto lane = pressed_.lane;
  switch (drag_) {
    case Drag::Pick:
      desk_.preview(
          [id, span, lane](const Session& s) { return span.empty() ? s : pick(s, id, span, *lane); });
      break;
    case Drag::ClipStart:
    case Drag::ClipEnd: {
      const Frames to = free ? now : inHand_.snapped(now, track->lane(*lane));
      Span window = pressed_.window;
      (drag_ == Drag::ClipStart ? window.start : window.end) = to;
      desk_.preview([=](const Session& s) { return pullWindow(s, id, *lane, window); });
      break;
    }
    case Drag::Boundary:
      inHand_.previewBoundary(pressed_.boundary, now);
      break;
    case Drag::Select: {
      const Span wanted = free ? span : Span{inHand_.snapped(span.start), inHand_.snapped(span.end)};
      inHand_.select(wanted.empty() ? std::nullopt : std::optional(wanted));
      break;
    }
    default:
      break;
  }
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
    case Drag::Pick:
      desk_.finishPreview(tr("Pick lane %1").arg(pressed_.lane->value));
      break;
    case Drag::ClipStart:
    case Drag::ClipEnd:
      desk_.finishPreview(tr("Pull a take's edge"));
      break;
    case Drag::Boundary:
      desk_.finishPreview(tr("Move a boundary"));
      break;
    case Drag::Span:
      spans_.finish();
      break;
    default:
      break;
  }
}

void LanesView::click(const Hit& where) {
  const Track* track = inHand_.track();
  if (!track) return;
  switch (where.part) {
    case Part::Ruler:
    case Part::PunchRow:
      transport_.locate(where.at);
      break;
    case Part::SetAside:
      showSetAside_ = !showSetAside_;
      break;
    case Part::LaneName:
      if (track->lane(*where.lane)->setAside) {
        desk_.apply(tr("Bring a take back"), [id = track->id, lane = *where.lane](const Session& s) {
          return setLaneAside(s, id, lane, false);
        });
      } else {
        inHand_.hear(inHand_.heardLane() == where.lane ? std::nullopt : where.lane);
      }
      break;
    case Part::Lane:
    case Part::ClipStart:
    case Part::ClipEnd:
      inHand_.hear(where.lane);
      transport_.locate(where.at);
      break;
    case Part::CompositeName:
      inHand_.hear(std::nullopt);
      break;
    case Part::Composite:
      inHand_.select(std::nullopt);
      inHand_.hear(std::nullopt);
      transport_.locate(where.at);
      break;
    case Part::Boundary:
      inHand_.takeJoin(where.boundary);
      break;
    case Part::Nothing:
      break;
  }
}

void LanesView::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape && drag_ != Drag::None) {
    spans_.cancel();
    desk_.cancelPreview();
    drag_ = Drag::None;
    return contentChanged();
  }
  event->ignore();
}

QString LanesView::tipFor(const Hit& where) const {
  const Track* track = inHand_.track();
  switch (where.part) {
    case Part::Ruler:
      return tr(
          "Click to move the playhead; drag to draw the loop, an edge or all of it to move it. Alt suspends "
          "snapping.");
    case Part::PunchRow:
      return tr(
          "Drag to draw a punch span: only there is recorded. Drag its edges, or all of it; Alt suspends "
          "snapping.");
    case Part::SetAside:
      return tr(
          "Passes that were empty or broken off. Click to see them; a click on a name brings one back.");
    case Part::LaneName:
      if (track && track->lane(*where.lane) && track->lane(*where.lane)->setAside)
        return tr("Bring this take back among the others.");
      return tr("Hear this take alone (1 to 9, or E and D); click again for the composite.");
    case Part::Lane:
      return tr(
          "Drag to pick this stretch for the composite, with Shift to select it; click to hear this take "
          "from here.");
    case Part::ClipStart:
    case Part::ClipEnd:
      return tr("Drag this edge out or in: what was played before and after is all there.");
    case Part::CompositeName:
      return tr("Hear the composite (C).");
    case Part::Composite:
      return tr("What the track plays. Drag to select a stretch; F picks the heard take there.");
    case Part::Boundary:
      return tr("Drag to move this boundary; click to put the join on the bench.");
    case Part::Nothing:
      break;
  }
  return {};
}

bool LanesView::viewportEvent(QEvent* event) {
  if (event->type() != QEvent::ToolTip) return QAbstractScrollArea::viewportEvent(event);
  auto* help = static_cast<QHelpEvent*>(event);
  QToolTip::showText(help->globalPos(), tipFor(hit(help->pos())), viewport());
  return true;
}

}  // namespace yewdrift::app
