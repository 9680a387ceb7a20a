// SPDX-License-Identifier: GPL-3.0-or-later
//
// How the composite is drawn: its pieces, joins and ends, what is selected in it, and where another differs.
#include <QPainter>

#include "app/look/painting.h"
#include "app/look/theme.h"
#include "app/look/widgets.h"
#include "app/views/lanes_view.h"
#include "core/plan/playback_plan.h"
#include "core/session/picked_parts.h"

namespace yewdrift::app {

void LanesView::drawComposite(QPainter& painter, const Track& track) {
  const QRect row = drawn_.compositeRect();
  painter.fillRect(QRect(0, row.top() - 6, row.width(), 6), theme().window);
  painter.fillRect(QRect(0, row.top() - 2, row.width(), 2), theme().line);
  // The one that is heard: where another is compared, that one.
  const ResolvedComposite* const other = listening_.other().shown();
  const ResolvedComposite& composite = other ? *other : inHand_.composite(track);
  const bool heard = !inHand_.heardLane();
  QString detail = tr("%n join(s)", nullptr, static_cast<int>(composite.joins.size()));
  if (other) detail = QString::fromStdString(*listening_.other().heard());
  if (const auto trim = listening_.trimOf(std::nullopt); trim && !listening_.measuring())
    detail = tr("%1 dB to match").arg(QLocale().toString(trim->value, 'f', 1));
  drawHead(painter, row, tr("Composite"), detail, 0, heard);
  const QRectF box = timeBox(row);
  painter.save();
  painter.setClipRect(box);
  painter.fillRect(box, theme().sunken);
  drawBarLines(painter, box, scale_, desk_.ruler(), desk_.options().grid);
  for (const Piece& piece : composite.pieces)
    if (piece.span.overlaps(visibleSpan())) drawPiece(painter, box, track, piece);
  drawJoins(painter, box, composite);
  if (!other) drawEndFades(painter, box, track);
  if (other) drawDifferences(painter, box);
  if (const auto inHand = inHand_.unitSpan()) drawSelection(painter, box, *inHand);
  if (rides_ == Rides::Composite) drawLevelLine(painter, drawn_.compositeWaveRect(), track.composite.level);
  if (rides_ == Rides::Pieces) drawPieceLevels(painter, drawn_.compositeWaveRect(), composite);
  painter.restore();
}

/// Where the composite that is compared plays something else than the one in use: hatched below, and framed.
void LanesView::drawDifferences(QPainter& painter, const QRectF& box) {
  painter.save();
  for (const Span span : listening_.other().differences()) {
    const double left = box.left() + scale_.x(span.start);
    const double right = box.left() + scale_.x(span.end);
    if (right < box.left() || left > box.right()) continue;
    painter.setPen(QPen(theme().chosen, 2));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(QRectF(left + 1, box.top() + 1, right - left - 2, box.height() - 2));
    painter.fillRect(QRectF(left, box.bottom() - 7, right - left, 7),
                     QBrush(theme().chosen, Qt::BDiagPattern));
  }
  painter.restore();
}

void LanesView::drawSelection(QPainter& painter, const QRectF& box, Span selection) {
  QColor tint = theme().inHand;
  tint.setAlphaF(0.20F);
  const QRectF band(box.left() + scale_.x(selection.start), box.top(),
                    scale_.x(selection.end) - scale_.x(selection.start), box.height());
  painter.setBrush(tint);
  painter.setPen(QPen(theme().inHand, 1.5));
  painter.drawRect(band.adjusted(0, 1, 0, -1));
}

/// On the take that is heard: what is in hand is picked, or cut, out of that one.
void LanesView::drawUnit(QPainter& painter, const QRectF& box, const Lane& lane) {
  const auto& heard = inHand_.heardLanes();
  const auto span = inHand_.unitSpan();
  if (!span || inHand_.unit() == Unit::Phrase ||
      std::find(heard.begin(), heard.end(), lane.number) == heard.end())
    return;
  painter.save();
  painter.setClipRect(box, Qt::IntersectClip);
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(theme().inHand, 3));
  painter.drawRect(columnOf(*span, box).adjusted(1.5, 1.5, -1.5, -1.5));
  painter.restore();
}

void LanesView::drawPiece(QPainter& painter, const QRectF& box, const Track& track, const Piece& piece) {
  if (!piece.lane && !piece.picked) return;
  const double left = box.left() + scale_.x(piece.span.start);
  const double right = box.left() + scale_.x(piece.span.end);
  const QRectF body(left + 0.5, box.top(), right - left - 1, box.height());
  const double stripHeight = drawn_.pieceNameHeight;
  const QRectF strip(body.left(), body.top(), body.width(), stripHeight);
  const QColor colour = piece.lane ? takeColour(track.colourOf(*piece.lane)) : theme().faintText;
  const auto paintGround = [&](double from, double to, bool picked) {
    QColor ground = colour;
    ground.setAlphaF(picked ? 0.22F : 0.10F);
    painter.fillRect(QRectF(from, body.top(), to - from, body.height()), ground);
    ground.setAlphaF(picked ? 0.38F : 0.18F);
    painter.fillRect(QRectF(from, strip.top(), to - from, strip.height()), ground);
  };
  // What was picked lies on stronger ground, also where the same take goes on beside it as the newest.
  double done = body.left();
  for (const Span part : pickedParts(track, piece)) {
    const double from = std::max(done, box.left() + scale_.x(part.start) + 0.5);
    const double to = std::min(body.right(), box.left() + scale_.x(part.end) - 0.5);
    paintGround(done, from, false);
    paintGround(from, std::max(from, to), true);
    done = std::max(from, to);
  }
  paintGround(done, std::max(done, body.right()), false);
  if (const Lane* lane = piece.lane ? track.lane(*piece.lane) : nullptr) {
    for (const Clip& clip : lane->clips) {
      const Span part = clip.window.shifted(piece.slip).intersect(piece.span);
      if (!part.empty())
        drawClip(painter, box.adjusted(0, stripHeight, 0, 0), clip, piece.slip, part, colour, false);
    }
  }
  const double shownLeft = std::max(left, box.left());
  const double room = std::min(right, box.right()) - shownLeft;
  if (room < 16) return;
  if (piece.lane)
    drawTakeMark(painter, QRectF(shownLeft + 4, strip.top() + 3, 14, 14), track.colourOf(*piece.lane));
  QString label = piece.lane ? QString::number(piece.lane->value) : tr("silence");
  for (const LaneNumber lane : piece.overdubs) label += " + " + QString::number(lane.value);
  const ChosenBy who = chosenBy(track, piece);
  if (who == ChosenBy::Nobody) label += tr("  newest");
  if (who == ChosenBy::Ratings) label += tr("  by the ratings");
  for (const QString& each : soundInWords(piece, desk_.session().rate)) label += "  " + each;
  painter.setPen(theme().text);
  painter.drawText(QRectF(shownLeft + (piece.lane ? 22 : 6), strip.top(), room - 24, strip.height()),
                   Qt::AlignVCenter | Qt::AlignLeft,
                   painter.fontMetrics().elidedText(label, Qt::ElideRight, static_cast<int>(room - 24)));
}

/// What the fades at the composite's own ends take away is veiled; each has a grip on top.
void LanesView::drawEndFades(QPainter& painter, const QRectF& box, const Track& track) {
  if (!drawn_.endFades) return;
  constexpr int parts = 32;
  const LanesGeometry::EndFades& ends = *drawn_.endFades;
  QColor veil = theme().sunken;
  veil.setAlphaF(0.7F);
  const QRectF wave = box.adjusted(0, drawn_.pieceNameHeight, 0, 0);
  const auto draw = [&](const EndFade& fade, Frames silent, Frames grip) {
    const double from = box.left() + scale_.x(silent);
    const double to = box.left() + scale_.x(grip);
    if (silent != grip) {
      QPolygonF line;
      for (int i = 0; i <= parts; ++i) {
        const double x = static_cast<double>(i) / parts;
        const double gain = static_cast<double>(fadeAt(fade.curve, x, fade.bend).in);
        line << QPointF(from + x * (to - from), wave.bottom() - gain * wave.height());
      }
      painter.setPen(Qt::NoPen);
      painter.setBrush(veil);
      painter.drawPolygon(QPolygonF(line) << QPointF(from, wave.top()));
      painter.setPen(QPen(theme().text, 1.4));
      painter.setBrush(Qt::NoBrush);
      painter.drawPolyline(line);
    }
    painter.setPen(QPen(theme().text, 1.2));
    painter.setBrush(silent != grip ? theme().text : theme().sunken);
    painter.drawPolygon(QPolygonF(
        {{to, box.top() + 1}, {to + 5, box.top() + 6}, {to, box.top() + 11}, {to - 5, box.top() + 6}}));
  };
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  draw(track.composite.fadeIn, ends.composite.start, ends.inEnds());
  draw(track.composite.fadeOut, ends.composite.end, ends.outBegins());
  painter.restore();
}

void LanesView::drawJoins(QPainter& painter, const QRectF& box, const ResolvedComposite& composite) {
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  for (const Join& join : composite.joins) {
    const double x = box.left() + scale_.x(join.at);
    if (x < box.left() - 8 || x > box.right() + 8) continue;
    const bool inHand = inHand_.join() == join.at;
    painter.setPen(QPen(inHand ? theme().inHand : theme().text, inHand ? 2.4 : 1.2));
    painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()));
    // A bud on the boundary: hollow while the join is as made, filled once a person set it.
    painter.setBrush(join.set || inHand ? (inHand ? theme().inHand : theme().text) : theme().sunken);
    painter.drawEllipse(QPointF(x, box.bottom() - 9), 5, 5);
  }
  for (const Frames at : goodPlaces()) drawGoodPlace(painter, {box.left() + scale_.x(at), box.top()});
  painter.restore();
}

}  // namespace yewdrift::app
