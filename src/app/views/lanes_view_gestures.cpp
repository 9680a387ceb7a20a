// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is under the pointer in takes and composite, and what pressing, dragging and clicking there does.
#include <QDropEvent>
#include <QKeyEvent>
#include <QMimeData>
#include <QMouseEvent>
#include <QScrollBar>
#include <QToolTip>
#include <utility>

#include "app/desk/snapping.h"
#include "app/look/spoken.h"
#include "app/look/widgets.h"
#include "app/views/lanes_view.h"
#include "core/edit/edit.h"
#include "core/edit/edit_pieces.h"
#include "core/edit/edit_takes.h"

namespace yewdrift::app {

void LanesView::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  const QPoint at = event->position().toPoint();
  gesture_.press(at, event->button());
  pressed_ = geometry().hit(at);
  together_ = event->modifiers() & Qt::ControlModifier;
  pressedRow_ = std::max(
      0, (at.y() - geometry().lanesArea().top() + geometry().scrolled) / std::max(1, geometry().rowHeight()));
  // With Shift a lane is selected over, not picked.
  if (pressed_.part == Part::Lane && event->modifiers() & Qt::ShiftModifier) pressed_.part = Part::Composite;
}

void LanesView::mouseDoubleClickEvent(QMouseEvent* event) {
  mousePressEvent(event);
}

void LanesView::mouseMoveEvent(QMouseEvent* event) {
  const QPoint at = event->position().toPoint();
  if (gesture_.idle()) return showCursor(at);
  take(gesture_.move(at, event->buttons()), at, event->modifiers());
}

void LanesView::mouseReleaseEvent(QMouseEvent* event) {
  take(gesture_.release(event->button()), event->position().toPoint(), event->modifiers());
}

void LanesView::hideEvent(QHideEvent* event) {
  if (drag_ != Drag::None) desk_.keepHeld();
  gesture_.forget();
  QAbstractScrollArea::hideEvent(event);
}

void LanesView::take(PointerGesture::Step step, QPoint at, Qt::KeyboardModifiers modifiers) {
  using Step = PointerGesture::Step;
  switch (step) {
    case Step::None:
      return;
    case Step::Click:
      return click(pressed_);
    case Step::Begins:
      beginDrag();
      [[fallthrough]];
    case Step::Goes:
      return goOnDragging(at, modifiers & Qt::AltModifier);
    case Step::Ends:
      return endDrag();
  }
}

void LanesView::showCursor(QPoint at) {
  const Hit here = geometry().hit(at);
  const auto row = here.part == Part::PunchRow ? SpanGestures::Row::Punch : SpanGestures::Row::Loop;
  const bool ruler = here.part == Part::Ruler || here.part == Part::PunchRow;
  const SpanGestures::Part grip =
      ruler ? spans_.gripAt(row, here.at, geometry().reach()).part : SpanGestures::Part::None;
  const bool ofSpan = grip == SpanGestures::Part::Body && here.part == Part::PunchRow;
  const bool edge = here.part == Part::Boundary || here.part == Part::ClipStart ||
                    here.part == Part::ClipEnd || here.part == Part::PhraseEdge ||
                    here.part == Part::FadeIn || here.part == Part::FadeOut ||
                    grip == SpanGestures::Part::Start || grip == SpanGestures::Part::End;
  if (here.part == Part::RowEdge || here.part == Part::LevelLine)
    return viewport()->setCursor(Qt::SplitVCursor);
  const bool clicked = here.part == Part::SetAside || here.part == Part::PhraseRow ||
                       here.part == Part::TakeCount || here.part == Part::Hint;
  viewport()->setCursor(edge                ? Qt::SplitHCursor
                        : clicked || ofSpan ? Qt::PointingHandCursor
                                            : Qt::ArrowCursor);
}

void LanesView::beginDrag() {
  const bool recording = recording_.recording();
  const auto refuse = [this] { emit refused(tr("This is being recorded: stop first, then drag.")); };
  const auto ended = [this](HeldEdit::Ended how) { dragIsOver(how); };
  drag_ = Drag::None;
  // There may be no track, or a key has removed meanwhile what was pressed.
  const Track* const track = inHand_.track();
  const bool ofTrack = pressed_.part != Part::Ruler && pressed_.part != Part::PunchRow &&
                       pressed_.part != Part::RowEdge && (pressed_.part != Part::Composite || together_);
  if (ofTrack && (!track || (pressed_.lane && !track->lane(*pressed_.lane)))) return gesture_.forget();
  const bool ofComposite = pressed_.part == Part::Boundary || pressed_.part == Part::Composite ||
                           pressed_.part == Part::FadeIn || pressed_.part == Part::FadeOut ||
                           (pressed_.part == Part::LevelLine && !pressed_.lane);
  if (ofComposite && listening_.other().heard()) {
    // What is dragged is the composite in use: it is seen again first.
    listening_.other().hear(std::nullopt);
    emit refused(tr("This is the composite in use again: what you heard was another one."));
    return gesture_.forget();
  }
  switch (pressed_.part) {
    case Part::Lane:
      if (recording) {
        refuse();
        break;
      }
      if (together_) {
        held_.begin(tr("Nudge a take"), ended);
        drag_ = Drag::Nudge;
        break;
      }
      edgesBefore_ = inHand_.pieceEdges();
      held_.begin(tr("Pick lane %1").arg(pressed_.lane->value), ended);
      drag_ = Drag::Pick;
      break;
    case Part::ClipStart:
    case Part::ClipEnd:
      if (recording) {
        refuse();
        break;
      }
      held_.begin(tr("Pull a take's edge"), ended);
      drag_ = pressed_.part == Part::ClipStart ? Drag::ClipStart : Drag::ClipEnd;
      break;
    case Part::Boundary:
      // Before it is held: so better places for it are looked for already.
      inHand_.takeJoin(pressed_.boundary);
      held_.begin(tr("Move a boundary"), ended);
      drag_ = Drag::Boundary;
      break;
    case Part::FadeIn:
    case Part::FadeOut:
      if (recording) {
        refuse();
        break;
      }
      held_.begin(pressed_.part == Part::FadeIn ? tr("Fade the composite in") : tr("Fade the composite out"),
                  ended);
      drag_ = Drag::EndFade;
      break;
    case Part::PhraseEdge:
      held_.begin(tr("Move a phrase's edge"), ended);
      drag_ = Drag::PhraseEdge;
      draggedPhrases_ = inHand_.phrases();
      break;
    case Part::LevelLine:
      if (recording) {
        refuse();
        break;
      }
      if (!takeLevel()) break;
      held_.begin(tr("Ride a level"), ended);
      drag_ = Drag::Level;
      std::erase_if(draggedLevel_, [this](const LevelPoint& each) { return each.at == pressed_.point; });
      break;
    case Part::LaneName:
      // Shuffled as they are while one listens blind, places mean nothing.
      if (track->lane(*pressed_.lane)->setAside || listening_.hidesNames()) break;
      if (recording) {
        refuse();
        break;
      }
      held_.begin(tr("Move a take"), ended);
      drag_ = Drag::Place;
      break;
    case Part::RowEdge:
      drag_ = Drag::RowHeight;
      heightBefore_ = geometry().rowHeight();
      break;
    case Part::Composite:
      if (together_) {
        if (recording) {
          refuse();
          break;
        }
        const Piece* const piece = inHand_.composite(*track).pieceAt(pressed_.at);
        if (!piece || !piece->lane) break;
        slipBefore_ = piece->slip;
        held_.begin(tr("Slip a piece"), ended);
        drag_ = Drag::Slip;
        break;
      }
      // A selection over a take is about that take: it is heard, picked and cut.
      if (pressed_.lane && !track->lane(*pressed_.lane)->setAside) inHand_.hear(pressed_.lane);
      edgesBefore_ = inHand_.pieceEdges();
      held_.begin({}, ended);  // it changes nothing in the session
      drag_ = Drag::Select;
      selectedBefore_ = inHand_.selection();
      break;
    case Part::Ruler:
    case Part::PunchRow:
      if (recording) {
        refuse();
        break;
      }
      drag_ = Drag::Span;
      spans_.begin(pressed_.part == Part::Ruler ? SpanGestures::Row::Loop : SpanGestures::Row::Punch,
                   pressed_.at, geometry().reach(), together_, ended);
      break;
    default:
      break;
  }
  if (drag_ == Drag::None) gesture_.forget();
}

void LanesView::goOnDragging(QPoint at, bool free) {
  if (drag_ == Drag::None) return;
  pointer_ = at;
  pointerFree_ = free;
  // Heights and places are dragged in the heads, where nothing is to scroll sideways.
  const bool outside = drag_ != Drag::RowHeight && drag_ != Drag::Place &&
                       (at.x() < geometry().headWidth || at.x() >= viewport()->width());
  if (!outside)
    edgeScroll_.stop();
  else if (!edgeScroll_.isActive())
    edgeScroll_.start();
  const Frames now = geometry().frameAt(at.x());
  if (drag_ == Drag::RowHeight) {
    // The edge follows the pointer, whichever row it is of.
    const int row = std::max(1, static_cast<int>(pressedRow_) + 1);
    fitsAll_ = false;
    chosenRowHeight_ =
        std::max(LanesGeometry::smallestRowHeight, heightBefore_ + (at.y() - gesture_.pressedAt().y()) / row);
    return contentChanged();
  }
  if (drag_ == Drag::Place)
    dragPlace(at.y());
  else if (drag_ == Drag::EndFade)
    dragEndFade(now);
  else if (drag_ == Drag::Span)
    spans_.drag(now, free);
  else if (drag_ == Drag::Level)
    dragLevel(at, now);
  else
    dragMaterial(now, free);
  layerStale_ = true;
  viewport()->update();
}

/// A drag past an edge takes the view along, the faster the farther it is out.
void LanesView::scrollWhileDragging() {
  const int left = pointer_.x() - geometry().headWidth;
  const int right = pointer_.x() - viewport()->width() + 1;
  const int by = left < 0 ? std::max(left, -80) : std::min(right, 80);
  if (drag_ == Drag::None || (left >= 0 && right <= 0)) return edgeScroll_.stop();
  scrollTo(scale_.origin + Frames{std::llround(by * scale_.framesPerPixel)});
  goOnDragging(pointer_, pointerFree_);
}

namespace {

constexpr double reachOfPlace = 7.0;  // pixels within which a boundary is drawn to a good place, or an edge
constexpr double shortestPieceSeconds = 0.05;  // a piece shorter than that is a sliver that nobody wanted

}  // namespace

/// For the boundary that is dragged; none where none is.
std::vector<Frames> LanesView::goodPlaces() const {
  return drag_ == Drag::Boundary && findGoodPlaces_ ? findGoodPlaces_(pressed_.boundary)
                                                    : std::vector<Frames>{};
}

/// From where the pointer went down to where it is: snapped, and caught by edges of pieces that are near.
Span LanesView::draggedOver(Frames now, bool free) {
  const Track* const track = inHand_.track();
  const Lane* const under = track && pressed_.lane ? track->lane(*pressed_.lane) : nullptr;
  const Span raw{std::min(pressed_.at, now), std::max(pressed_.at, now)};
  if (free) return raw;
  const Frames least = framesFromSeconds(shortestPieceSeconds, desk_.session().rate);
  const Frames near{std::llround(reachOfPlace * scale_.framesPerPixel)};
  const Frames reach = desk_.options().snap == Snap::Off ? std::max(least, near) : least;
  const Frames start = inHand_.snapped(raw.start, under);
  const Frames end = std::max(start, inHand_.snapped(raw.end, under));
  const Span caught{drawnTo(start, edgesBefore_, reach), drawnTo(end, edgesBefore_, reach)};
  // A stretch as short as that was meant to be so short.
  if (end - start <= reach || caught.empty()) return {start, end};
  if (caught != Span{start, end})
    QToolTip::showText(viewport()->mapToGlobal(pointer_ + QPoint(12, -28)),
                       tr("Meets the edge at %1")
                           .arg(desk_.positionWords().shown(caught.end != end ? caught.end : caught.start)),
                       viewport());
  return caught;
}

void LanesView::dragPick(Frames now, bool free) {
  const Track* const track = inHand_.track();
  if (!track || !pressed_.lane) return;
  draggedSpan_ = draggedOver(now, free);
  PickRequest request{
      .track = track->id, .over = {PickOver::Kind::Span, draggedSpan_}, .lane = pressed_.lane};
  request.blind = listening_.hidesNames();
  const auto phrases = inHand_.phrases();
  pickNotices_.clear();
  held_.show([request, phrases, this](const Session& s) {
    if (request.over.span.empty()) return s;
    Picked picked = yewdrift::pickOver(s, request, phrases, {});
    pickNotices_ = std::move(picked.notices);
    return std::move(picked.session);
  });
}

void LanesView::dragMaterial(Frames now, bool free) {
  const Track* track = inHand_.track();
  if (!track || (pressed_.lane && !track->lane(*pressed_.lane))) return;
  const TrackId id = track->id;
  const auto landed = [&](Frames at, const Lane* by) { return free ? at : inHand_.snapped(at, by); };
  const Lane* const under = pressed_.lane ? track->lane(*pressed_.lane) : nullptr;
  const auto lane = pressed_.lane;
  switch (drag_) {
    case Drag::Pick:
      dragPick(now, free);
      break;
    case Drag::ClipStart:
    case Drag::ClipEnd: {
      const Frames to = landed(now, under);
      Span window = pressed_.window;
      (drag_ == Drag::ClipStart ? window.start : window.end) = to;
      held_.show([=](const Session& s) { return pullWindow(s, id, *lane, window); });
      break;
    }
    case Drag::Nudge: {
      // As it lies, not snapped: it was played where it was played.
      const Frames by = now - pressed_.at;
      held_.show([=](const Session& s) { return by.count == 0 ? s : nudgeLane(s, id, *lane, by); });
      break;
    }
    case Drag::Slip: {
      // To the sample, and never snapped; no further than there is material.
      try {
        const Frames slip =
            reachableSlip(desk_.present(), id, pressed_.at, slipBefore_ + (now - pressed_.at));
        held_.show(
            [=, at = pressed_.at](const Session& s) { return changePiece(s, id, at, {.slip = slip}); });
        QToolTip::showText(viewport()->mapToGlobal(pointer_ + QPoint(12, -28)),
                           slipInWords(slip, desk_.session().rate), viewport());
      } catch (const std::exception&) {
        break;  // what was to be slipped is gone
      }
      break;
    }
    case Drag::PhraseEdge: {
      const Frames to = landed(now, nullptr);
      held_.show([phrases = draggedPhrases_, id, from = pressed_.boundary, to](const Session& s) {
        return movePhraseEdge(s, id, phrases, from, to);
      });
      break;
    }
    case Drag::Boundary: {
      // Softly drawn to where the join would be good.
      const Frames reach{std::llround(reachOfPlace * scale_.framesPerPixel)};
      const Frames place = free ? now : drawnTo(now, goodPlaces(), reach);
      inHand_.holdBoundary(held_, pressed_.boundary, place != now ? place : landed(now, nullptr));
      break;
    }
    case Drag::Select: {
      draggedSpan_ = draggedOver(now, free);
      inHand_.select(draggedSpan_.empty() ? std::nullopt : std::optional(draggedSpan_));
      break;
    }
    default:
      break;
  }
}

/// The take goes where the pointer is, and the others make room at once.
void LanesView::dragPlace(int y) {
  const Track* track = inHand_.track();
  if (!track || !pressed_.lane || !track->lane(*pressed_.lane)) return;
  const int place = geometry().placeAt(y);
  held_.show([id = track->id, lane = *pressed_.lane, place](const Session& s) {
    return placeLane(s, id, lane, place);
  });
  const auto shown = rows();
  for (std::size_t row = 0; row < shown.size(); ++row)
    if (shown[row]->number == *pressed_.lane) showRow(static_cast<int>(row));
}

void LanesView::dragEndFade(Frames now) {
  const Track* track = inHand_.track();
  const auto ends = geometry().endFades;
  if (!track || !ends) return;
  const bool in = pressed_.part == Part::FadeIn;
  EndFade fade = in ? track->composite.fadeIn : track->composite.fadeOut;
  fade.length = std::clamp(in ? now - ends->composite.start : ends->composite.end - now, Frames{},
                           ends->composite.length());
  held_.show([id = track->id, in, fade](const Session& s) {
    return setEndFade(s, id, in ? CompositeEnd::Start : CompositeEnd::End, fade);
  });
  QToolTip::showText(viewport()->mapToGlobal(pointer_ + QPoint(12, -28)),
                     tr("%1 ms").arg(QLocale().toString(
                         secondsFromFrames(fade.length, desk_.session().rate) * 1000.0, 'f', 1)),
                     viewport());
}

/// What there is to say of a drag: what a pick left as it was, and what it replaced; or that it did nothing.
void LanesView::tellOfDrag() {
  const Track* const track = inHand_.track();
  if (draggedSpan_.empty()) return emit refused(inHand_.tooShortToSnap());
  if (drag_ != Drag::Pick || !track || !pressed_.lane || !track->lane(*pressed_.lane)) return;
  if (!pickNotices_.empty()) return emit refused(app::spoken(pickNotices_));
  // Nothing of the take was there to be picked.
  if (spansWith(*track, *pressed_.lane, draggedSpan_).empty())
    emit refused(
        tr("Lane %1 has nothing there: the composite keeps what it plays.").arg(pressed_.lane->value));
}

void LanesView::endDrag() {
  if (drag_ == Drag::Pick || drag_ == Drag::Select) tellOfDrag();
  if (drag_ == Drag::Span) {
    if (const QString why = spans_.finish(); !why.isEmpty()) emit refused(why);
  } else if (drag_ != Drag::RowHeight) {
    held_.keep();
  }
  dragIsOver(HeldEdit::Ended::Kept);
}

void LanesView::dragIsOver(HeldEdit::Ended how) {
  const Drag was = std::exchange(drag_, Drag::None);
  // What was picked is chosen: now one may know which it was.
  if (how == HeldEdit::Ended::Kept && was == Drag::Pick) listening_.reveal();
  gesture_.forget();
  edgeScroll_.stop();
  if (how == HeldEdit::Ended::Dropped && was == Drag::Boundary) inHand_.takeJoin(pressed_.boundary);
  if (how == HeldEdit::Ended::Dropped && was == Drag::Select) inHand_.select(selectedBefore_);
  contentChanged();
}

void LanesView::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void LanesView::dragMoveEvent(QDragMoveEvent* event) {
  event->acceptProposedAction();
}

void LanesView::dropEvent(QDropEvent* event) {
  const QStringList files = localFiles(*event->mimeData());
  if (files.isEmpty()) return emit refused(tr("Only files from this computer can be dropped here."));
  event->acceptProposedAction();
  emit filesDropped(files, geometry().frameAt(event->position().x()));
}

void LanesView::keyPressEvent(QKeyEvent* event) {
  event->ignore();  // scrolling by keys is not what arrows are for here
}

void LanesView::wheelEvent(QWheelEvent* event) {
  if (event->modifiers() & Qt::ControlModifier) {
    const int delta = event->angleDelta().y();
    scale_ =
        scale_.zoomed(std::pow(1.0015, -delta), event->position().x() - geometry().headWidth, leastZoom());
    return scrollTo(scale_.origin);
  }
  QPoint by = wheel_.pixels(*event);
  if (event->modifiers() & Qt::ShiftModifier && by.x() == 0) by = by.transposed();
  horizontalScrollBar()->setValue(horizontalScrollBar()->value() - by.x());
  verticalScrollBar()->setValue(verticalScrollBar()->value() - by.y());
}

}  // namespace yewdrift::app
