// SPDX-License-Identifier: GPL-3.0-or-later
//
// Lines that ride a level, drawn and dragged, and takes that are folded away.
#include <QToolTip>
#include <cmath>

#include "app/look/painting.h"
#include "app/look/theme.h"
#include "app/look/widgets.h"
#include "app/views/lanes_view.h"
#include "core/edit/edit_pieces.h"
#include "core/edit/edit_takes.h"

namespace yewdrift::app {

/// Through its row, where it can be taken hold of; 0 dB is dotted.
void LanesView::drawLevelLine(QPainter& painter, const QRect& row, const LevelLine& line) {
  painter.save();
  painter.setClipRect(timeBox(row), Qt::IntersectClip);
  painter.setRenderHint(QPainter::Antialiasing);
  const double left = drawn_.headWidth;
  const double right = drawn_.size.width();
  const auto point = [&](double x, Decibels level) { return QPointF(x, LanesGeometry::levelY(row, level)); };
  painter.setPen(QPen(theme().line, 1, Qt::DotLine));
  painter.drawLine(point(left, {}), point(right, {}));
  QPolygonF path;
  path << point(left, levelAt(line, scale_.at(0)));
  for (const LevelPoint& each : line) path << point(left + scale_.x(each.at), each.gain);
  path << point(right, levelAt(line, scale_.at(right - left)));
  // Points out of sight on either side would lead the line back.
  std::stable_sort(path.begin(), path.end(),
                   [](const QPointF& a, const QPointF& b) { return a.x() < b.x(); });
  painter.setPen(QPen(theme().inHand, 2));
  painter.setBrush(Qt::NoBrush);
  painter.drawPolyline(path);
  painter.setBrush(theme().surface);
  for (const LevelPoint& each : line) {
    const QPointF at = point(left + scale_.x(each.at), each.gain);
    if (at.x() >= left - 6 && at.x() <= right + 6) painter.drawEllipse(at, 4.5, 4.5);
  }
  painter.restore();
}

/// Each over its own piece.
void LanesView::drawPieceLevels(QPainter& painter, const QRect& row, const ResolvedComposite& composite) {
  for (const Piece& piece : composite.pieces) {
    if (!piece.lane || !piece.span.overlaps(visibleSpan())) continue;
    painter.save();
    const double left = drawn_.headWidth + scale_.x(piece.span.start);
    const double right = drawn_.headWidth + scale_.x(piece.span.end);
    painter.setClipRect(QRectF(left, row.top(), right - left, row.height()), Qt::IntersectClip);
    drawLevelLine(painter, row, piece.level);
    painter.restore();
  }
}

/// Of each take its mark and number, so that folding hides nothing of what there is.
void LanesView::drawHints(QPainter& painter, const Track& track) {
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setFont(scaledFont(0.85));
  painter.setPen(theme().faintText);
  const QRect area = drawn_.lanesArea();
  painter.drawText(QRect(10, area.top(), drawn_.headWidth - 18, area.height()), Qt::AlignVCenter,
                   tr("folded"));
  const bool hidden = listening_.hidesNames();
  for (std::size_t i = 0; i < drawn_.lanes.size(); ++i) {
    const Lane& lane = *drawn_.lanes[i];
    const QRect box = drawn_.hintRect(static_cast<int>(i));
    const bool heard = inHand_.heardLane() == lane.number;
    const auto& pieces = inHand_.composite(track).pieces;
    const bool played = !hidden && std::any_of(pieces.begin(), pieces.end(),
                                               [&](const Piece& piece) { return piece.plays(lane.number); });
    painter.setPen(QPen(heard ? theme().inHand : played ? theme().chosen : theme().line, heard ? 2.0 : 1.0));
    painter.setBrush(heard ? theme().chosen : theme().surface);
    painter.drawRoundedRect(QRectF(box).adjusted(1, 1, -1, -1), 5, 5);
    // What the composite plays somewhere is underlined, as in the lanes.
    if (played)
      painter.fillRect(QRectF(box.left() + 4, box.bottom() - 4, box.width() - 8, 3), theme().chosen);
    painter.setPen(heard ? theme().onChosen : theme().text);
    if (hidden) {
      painter.drawText(box, Qt::AlignCenter, listening_.nameOf(lane).section(' ', -1));
      continue;
    }
    if (box.width() < 18) continue;  // a hint to click on, no more
    const bool wide = box.width() >= 40;
    const QRectF mark(box.left() + 5, box.center().y() - 6, 12, 12);
    if (heard) {
      painter.setPen(Qt::NoPen);
      painter.setBrush(theme().surface);
      painter.drawEllipse(mark.adjusted(-3, -3, 3, 3));
      painter.setPen(theme().onChosen);
    }
    drawTakeMark(painter, mark, lane.colour());
    if (wide)
      painter.drawText(box.adjusted(20, 0, -2, 0), Qt::AlignCenter, QString::number(lane.number.value));
  }
  painter.restore();
}

/// Of which line the level is dragged; false where it is gone.
bool LanesView::takeLevel() {
  const Track& track = *inHand_.track();
  riddenPiece_.reset();
  draggedLevel_ = pressed_.lane ? track.lane(*pressed_.lane)->level : track.composite.level;
  if (pressed_.lane || rides_ != Rides::Pieces) return true;
  const Piece* const piece = inHand_.composite(track).pieceAt(pressed_.at);
  if (!piece || !piece->lane) return false;
  riddenPiece_ = piece->span;
  draggedLevel_ = piece->level;
  return true;
}

/// Out of its row a point goes.
void LanesView::dragLevel(QPoint at, Frames now) {
  const Track* track = inHand_.track();
  if (!track || (pressed_.lane && !track->lane(*pressed_.lane))) return;
  const LanesGeometry shown = geometry();
  QRect row = shown.compositeWaveRect();
  for (std::size_t i = 0; i < shown.lanes.size(); ++i)
    if (shown.lanes[i]->number == pressed_.lane) row = shown.rowRect(static_cast<int>(i));
  constexpr int out = 24;
  const bool gone = at.y() < row.top() - out || at.y() > row.bottom() + out;
  LevelLine line = draggedLevel_;
  // Whole tenths of a decibel, and 0 where it is nearly that.
  double level = std::round(LanesGeometry::levelAt(row, at.y()).value * 10.0) / 10.0;
  if (std::abs(level) < 0.6) level = 0.0;
  // A piece's line lies over the piece.
  if (riddenPiece_) now = std::clamp(now, riddenPiece_->start, riddenPiece_->end - Frames{1});
  if (!gone) line = withPoint(std::move(line), {now, {level}});
  held_.show([id = track->id, lane = pressed_.lane, piece = riddenPiece_, line](const Session& s) {
    return piece ? changePiece(s, id, piece->start, {.level = line}) : setLevel(s, id, lane, line);
  });
  if (!gone)
    QToolTip::showText(viewport()->mapToGlobal(at + QPoint(12, -28)),
                       tr("%1 dB").arg(QLocale().toString(level, 'f', 1)), viewport());
}

}  // namespace yewdrift::app
