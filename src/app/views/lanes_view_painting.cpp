// SPDX-License-Identifier: GPL-3.0-or-later
//
// How takes and composite look. Everything but the playhead is drawn once into a layer, so that playing costs
// no more than a line.
#include <QPaintEvent>
#include <utility>

#include "app/look/painting.h"
#include "app/look/theme.h"
#include "app/look/widgets.h"
#include "app/views/lanes_view.h"

namespace yewdrift::app {

QRectF LanesView::timeBox(const QRect& row) const {
  return QRectF(row).adjusted(drawn_.headWidth, 2, 0, -2);
}

void LanesView::paintEvent(QPaintEvent* event) {
  const double ratio = viewport()->devicePixelRatioF();
  drawn_ = geometry();
  if (layer_.size() != viewport()->size() * ratio) layerStale_ = true;
  if (layerStale_) renderLayer();
  QPainter painter(viewport());
  for (const QRect& part : event->region())
    painter.drawPixmap(
        QRectF(part), layer_,
        QRectF(part.x() * ratio, part.y() * ratio, part.width() * ratio, part.height() * ratio));
  drawGrowing(painter, event->rect());
  if (event->rect().intersects(drawn_.punchRowRect()))
    if (const auto setup = recording_.planned(); setup && !recording_.armedTracks().empty())
      drawPlan(painter, QRectF(drawn_.punchRowRect()).adjusted(drawn_.headWidth, 0, 0, 0), scale_, *setup);
  shownPlayhead_ = drawn_.xOf(transport_.state().position);
  if (shownPlayhead_ >= drawn_.headWidth && shownPlayhead_ <= viewport()->width())
    drawPlayhead(painter, shownPlayhead_, 4, viewport()->height());
  if (hasFocus()) {
    painter.setPen(QPen(theme().inHand, 2));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(viewport()->rect().adjusted(1, 1, -1, -1));
  }
}

void LanesView::renderLayer() {
  layerStale_ = false;
  const double ratio = viewport()->devicePixelRatioF();
  layer_ = QPixmap(viewport()->size() * ratio);
  layer_.setDevicePixelRatio(ratio);
  layer_.fill(theme().window);
  QPainter painter(&layer_);
  painter.setFont(font());
  const Track* track = inHand_.track();
  if (!track) return drawEmpty(painter);

  enlarged_ = enlargement(*track) * waveScale();
  close_ = looksClose(*track);
  findPitches();
  const QRect area = drawn_.lanesArea();
  painter.setClipRect(area);
  if (drawn_.folded) drawHints(painter, *track);
  for (std::size_t i = 0; !drawn_.folded && i < drawn_.lanes.size(); ++i) {
    const QRect row = drawn_.rowRect(static_cast<int>(i));
    if (row.intersects(area)) drawLane(painter, row, *track, *drawn_.lanes[i]);
  }
  if (drawn_.lanes.empty() && drawn_.growingRows == 0) drawEmpty(painter);
  drawColumns(painter, area);
  drawPunchBands(painter, area);
  painter.setClipping(false);
  drawRulers(painter, *track);
  drawPhraseRow(painter, *track);
  drawSetAside(painter, *track);
  drawComposite(painter, *track);
}

/// So much that the loudest of the takes uses the height there is: one scale for all of them, so that louder
/// looks louder.
double LanesView::enlargement(const Track& track) {
  float loudest = 0.0F;
  for (const auto& lane : track.lanes)
    for (const Clip& clip : lane->clips)
      for (const ChannelSource& source : clip.channels) {
        const auto* peaks =
            desk_.peaks().peaks((*desk_.session().pool)[static_cast<std::size_t>(source.file)]);
        if (!peaks || static_cast<std::size_t>(source.channel) >= peaks->size()) continue;
        const Span heard = clip.window.shifted(-clip.origin);
        const Peak peak =
            (*peaks)[static_cast<std::size_t>(source.channel)].over(heard.start.count, heard.end.count);
        loudest = std::max({loudest, peak.high, -peak.low});
      }
  constexpr double most = 100.0;  // what is 40 dB below full scale still is no noise
  return loudest > 0.0F ? std::clamp(0.96 / static_cast<double>(loudest), 0.5, most) : 1.0;
}

/// Over the layer, and only what is asked for: it changes thirty times a second.
void LanesView::drawGrowing(QPainter& painter, const QRect& dirty) {
  const Track* track = inHand_.track();
  if (!track || drawn_.growingRows == 0) return;
  painter.save();
  painter.setFont(font());
  painter.setClipRect(dirty.intersected(drawn_.lanesArea()));
  const Span shown{scale_.at(dirty.left() - drawn_.headWidth - 2),
                   scale_.at(dirty.right() - drawn_.headWidth + 2)};
  int row = static_cast<int>(drawn_.lanes.size()) - 1;
  int number = 0;
  for (const GrowingPass& pass : recording_.growing()) {
    if (pass.track != track->id) continue;
    const bool first = std::exchange(number, pass.number.value) != pass.number.value;
    if (first) ++row;
    if (drawn_.rowRect(row).intersects(dirty))
      drawGrowingPass(painter, drawn_.rowRect(row), pass, first, shown);
  }
  drawPunchBands(painter, drawn_.lanesArea());
  painter.restore();
}

void LanesView::drawPunchBands(QPainter& painter, const QRect& area) {
  if (!desk_.options().punch) return;
  QColor edge = theme().recording;
  edge.setAlphaF(0.55F);
  painter.setPen(QPen(edge, 1, Qt::DashLine));
  for (const Punch& punch : desk_.session().punches)
    for (const auto& at : {punch.in, punch.out})
      if (at && drawn_.xOf(*at) >= drawn_.headWidth)
        painter.drawLine(QPointF(drawn_.xOf(*at) + 0.5, area.top()),
                         QPointF(drawn_.xOf(*at) + 0.5, area.bottom()));
}

void LanesView::drawRulers(QPainter& painter, const Track& track) {
  const Session& session = desk_.session();
  const int headWidth = drawn_.headWidth;
  const QRect ruler = drawn_.rulerRect();
  const QRect punchRow = drawn_.punchRowRect();
  painter.fillRect(ruler.united(punchRow), theme().surface);
  const QRectF loopBox = QRectF(ruler).adjusted(headWidth, 0, 0, 0);
  const QRectF punchBox = QRectF(punchRow).adjusted(headWidth, 0, 0, 0);
  painter.save();
  painter.setClipRect(loopBox.united(punchBox));
  if (session.loop) drawLoopSpan(painter, loopBox, scale_, *session.loop, transport_.looping());
  drawRuler(painter, loopBox, scale_, desk_.ruler(), desk_.options().grid);
  int number = 0;
  for (const Punch& punch : session.punches)
    drawPunch(painter, punchBox.adjusted(0, 0, 0, -4), scale_, punch, ++number, desk_.options().punch);
  if (inHand_.unit() == Unit::Punch) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme().inHand, 2));
    painter.drawRoundedRect(columnOf(*inHand_.unitSpan(), punchBox.adjusted(0, 1, 0, -5)), 3, 3);
  }
  drawMarkers(painter, loopBox, scale_, session.markers);
  painter.restore();
  painter.setPen(theme().faintText);
  const auto shown =
      std::count_if(track.lanes.begin(), track.lanes.end(), [](const auto& lane) { return !lane->setAside; });
  painter.drawText(QRect(10, 0, headWidth - 14, ruler.height()), Qt::AlignVCenter | Qt::AlignLeft,
                   (drawn_.folded ? QStringLiteral("▸ ") : QStringLiteral("▾ ")) +
                       tr("%n take(s)", nullptr, static_cast<int>(shown)));
  painter.setFont(scaledFont(0.8));
  painter.drawText(QRect(10, punchRow.top(), headWidth - 18, punchRow.height()),
                   Qt::AlignVCenter | Qt::AlignRight, tr("punch"));
  painter.setFont(font());
}

void LanesView::drawSetAside(QPainter& painter, const Track& track) {
  const QRect row = drawn_.setAsideRect();
  if (row.height() == 0) return;
  const auto count =
      std::count_if(track.lanes.begin(), track.lanes.end(), [](const auto& lane) { return lane->setAside; });
  painter.fillRect(row, theme().window);
  painter.setPen(theme().faintText);
  painter.setFont(scaledFont(0.85));
  const auto passes = static_cast<int>(count);
  painter.drawText(
      row.adjusted(10, 0, -10, 0), Qt::AlignVCenter | Qt::AlignLeft,
      showSetAside_ ? tr("%n takes are set aside: click a name to bring it back, or here to fold "
                         "them away|%n take is set aside: click its name to bring it back, or here "
                         "to fold it away",
                         nullptr, passes)
                    : tr("%n takes are set aside. Click to see them.|%n take is set aside. Click to see it.",
                         nullptr, passes));
  painter.setFont(font());
}

void LanesView::drawEmpty(QPainter& painter) {
  const QRect area = drawn_.lanesArea().adjusted(drawn_.headWidth, 0, 0, 0);
  painter.setPen(theme().faintText);
  const bool track = inHand_.track() != nullptr;
  painter.drawText(area, Qt::AlignCenter | Qt::TextWordWrap,
                   track ? desk_.keyNames().spelled(
                               tr("No takes yet.\nArm the track, press [Shift+N] and play: every time round "
                                  "becomes a lane here."))
                         : tr("This session has no tracks yet.\nAdd one with Track > New track, or import a "
                              "file as backing."));
}

void LanesView::drawHead(QPainter& painter, const QRect& row, const QString& title, const QString& detail,
                         int laneNumber, bool heard, int rating) {
  QRect head(row.left() + 4, row.top() + 2, drawn_.headWidth - 8, row.height() - 4);
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(Qt::NoPen);
  painter.setBrush(heard ? theme().chosen : theme().surface);
  painter.drawRoundedRect(head, 6, 6);
  const QColor ink = heard ? theme().onChosen : theme().text;
  int left = head.left() + 8;
  if (head.height() < 26) {
    // Of a low row: mark and name, as small as it takes.
    const QRectF mark(left, head.center().y() - 4.5, 10, 10);
    if (laneNumber > 0 && heard) {
      painter.setBrush(theme().surface);
      painter.drawEllipse(mark.adjusted(-2, -2, 2, 2));
    }
    if (laneNumber > 0) drawTakeMark(painter, mark, laneNumber);
    painter.setFont(scaledFont(head.height() < 16 ? 0.7 : 0.85, QFont::DemiBold));
    painter.setPen(ink);
    const QRect text(left + 16, head.top() - 2, head.right() - left - 20, head.height() + 4);
    painter.drawText(text, Qt::AlignVCenter | Qt::AlignLeft,
                     painter.fontMetrics().elidedText(title, Qt::ElideRight, text.width()));
    return painter.restore();
  }
  if (laneNumber > 0) {
    if (heard) {
      painter.setBrush(theme().surface);
      painter.drawEllipse(QRectF(left - 4, head.top() + 3, 26, 26));
    }
    drawTakeMark(painter, QRectF(left, head.top() + 7, 18, 18), laneNumber);
    left += 26;
  }
  painter.setFont(scaledFont(1.0, QFont::DemiBold));
  painter.setPen(ink);
  const int line = std::max(20, painter.fontMetrics().height());
  const QRect text(left, head.top() + 6, head.right() - left - 26, line);
  painter.drawText(text, Qt::AlignVCenter | Qt::AlignLeft,
                   painter.fontMetrics().elidedText(title, Qt::ElideRight, text.width()));
  if (heard) icon("hear", ink).paint(&painter, QRect(head.right() - 24, head.top() + 6, 20, 20));
  painter.setFont(scaledFont(0.8));
  const QRect below(left, text.bottom() + 1, head.right() - left - 6, painter.fontMetrics().height());
  if (below.bottom() <= head.bottom()) {
    // As many buds as the take was rated with, before what else is said of it.
    int x = below.left();
    for (int bud = 0; bud < rating; ++bud, x += 8) {
      painter.setPen(Qt::NoPen);
      painter.setBrush(ink);
      painter.drawEllipse(QPointF(x + 3, below.center().y() + 1), 3, 3);
    }
    if (rating > 0) x += 4;
    painter.setPen(heard ? theme().onChosen : theme().faintText);
    painter.drawText(below.adjusted(x - below.left(), 0, 0, 0), Qt::AlignVCenter | Qt::AlignLeft,
                     painter.fontMetrics().elidedText(detail, Qt::ElideRight, below.right() - x));
  }
  painter.restore();
}

void LanesView::drawClip(QPainter& painter, const QRectF& box, const Clip& clip, Frames slip, Span span,
                         const QColor& colour, bool wholeSet) {
  const std::size_t shown = wholeSet ? clip.channels.size() : 1;
  for (std::size_t channel = 0; channel < shown; ++channel) {
    const ChannelSource source = clip.channels[channel];
    const QRectF part(box.left(),
                      box.top() + box.height() * static_cast<double>(channel) / static_cast<double>(shown),
                      box.width(), box.height() / static_cast<double>(shown));
    const PoolFile& file = (*desk_.session().pool)[static_cast<std::size_t>(source.file)];
    if (close_ && drawClose(painter, part, file, source.channel, clip.origin + slip, span, colour)) continue;
    const auto* peaks = desk_.peaks().peaks(file);
    if (!peaks || static_cast<std::size_t>(source.channel) >= peaks->size()) continue;
    drawWave(painter, part, scale_, (*peaks)[static_cast<std::size_t>(source.channel)], clip.origin + slip,
             span, colour, enlarged_);
  }
}

/// Whether peaks would be seen as steps, and all that is in sight has room as samples.
bool LanesView::looksClose(const Track& track) const {
  const int rows = drawn_.lanesArea().height() / std::max(1, drawn_.rowHeight()) + 2;
  const double samples = scale_.framesPerPixel * viewport()->width() * std::min(rows, drawn_.rowCount() + 1) *
                         static_cast<double>(std::max<std::size_t>(1, track.microphones.size()));
  return scale_.framesPerPixel < static_cast<double>(PeakPyramid::baseSpan) &&
         samples < static_cast<double>(SamplesStore::most) / 4.0;
}

/// False where the samples are not there yet.
bool LanesView::drawClose(QPainter& painter, const QRectF& box, const PoolFile& file, int channel,
                          Frames origin, Span span, const QColor& colour) {
  // One more on either side, so that the line goes on beyond what is seen.
  const Span seen = Span{scale_.at(-1) - Frames{2}, scale_.at(box.width() + 1) + Frames{2}}.intersect(span);
  if (seen.empty()) return true;
  closeSamples_.resize(static_cast<std::size_t>(seen.length().count));
  if (!desk_.samples().read(file, channel, seen.start - origin, closeSamples_)) return false;
  drawSamples(painter, box, scale_, seen.start, closeSamples_, colour, enlarged_);
  return true;
}

/// Nothing of it tells which take it is.
void LanesView::drawBlindLane(QPainter& painter, const QRect& row, const Lane& lane) {
  const QRectF box = timeBox(row);
  painter.fillRect(box, theme().sunken);
  drawBarLines(painter, box, scale_, desk_.ruler(), desk_.options().grid);
  painter.save();
  painter.setClipRect(box, Qt::IntersectClip);
  QColor line = theme().line;
  painter.setPen(QPen(line, 2));
  painter.drawLine(QPointF(box.left(), box.center().y()), QPointF(box.right(), box.center().y()));
  const Phrase* const phrase = inHand_.phrase();
  const bool heard = inHand_.heardLane() == lane.number;
  if (phrase && heard) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme().inHand, 3));
    painter.drawRect(columnOf(phrase->cell, box).adjusted(1.5, 1.5, -1.5, -1.5));
  }
  painter.restore();
  drawHead(painter, row, listening_.nameOf(lane),
           heard ? desk_.keyNames().spelled(tr("[F] picks it")) : QString(), 0, heard);
}

void LanesView::drawPlayed(QPainter& painter, const QRectF& box, const Track& track, const Lane& lane) {
  for (const Piece& piece : inHand_.composite(track).pieces) {
    if (!piece.plays(lane.number)) continue;
    QColor ground = theme().chosen;
    ground.setAlphaF(theme().dark ? 0.22F : 0.14F);
    const double left = std::max(box.left(), box.left() + scale_.x(piece.span.start));
    const double right = std::min(box.right(), box.left() + scale_.x(piece.span.end));
    if (right <= left) continue;
    painter.fillRect(QRectF(left, box.top(), right - left, box.height()), ground);
    // And it is underlined: colour is not the only carrier.
    painter.fillRect(QRectF(left, box.bottom() - 3, right - left, 3), theme().chosen);
  }
}

/// What a head says under the name: what is out of the ordinary first, else its note, else how long it is.
QString LanesView::detailOf(const Track& track, const Lane& lane) const {
  if (lane.setAside) return tr("set aside");
  if (lane.brokenOff) return tr("broke off");
  if (track.recordInto == lane.number) return tr("passes go here");
  if (lane.muted) return tr("muted");
  if (transport_.playsPlain(lane)) return tr("plays plain until it is shifted");
  if (const auto trim = listening_.trimOf(lane.number); trim && listening_.matches())
    return listening_.measuring() ? tr("being measured")
                                  : tr("%1 dB to match").arg(QLocale().toString(trim->value, 'f', 1));
  if (!lane.note.empty()) return QString::fromStdString(lane.note).simplified();
  Frames longest;
  for (const Clip& clip : lane.clips) longest += clip.window.length();
  return QString::fromStdString(clockText(longest, desk_.session().rate));
}

void LanesView::drawLane(QPainter& painter, const QRect& row, const Track& track, const Lane& lane) {
  if (listening_.hidesNames() && !lane.setAside) return drawBlindLane(painter, row, lane);
  const auto& heardLanes = inHand_.heardLanes();
  const bool heard = std::find(heardLanes.begin(), heardLanes.end(), lane.number) != heardLanes.end();
  const QRectF box = timeBox(row);
  painter.fillRect(box, lane.setAside ? theme().window : theme().sunken);
  drawBarLines(painter, box, scale_, desk_.ruler(), desk_.options().grid);
  // Where the composite plays this take, its ground is tinted.
  drawPlayed(painter, box, track, lane);
  // A line over the wave is what is looked at then.
  const bool behindLine = lane.picture == LanePicture::Level || lane.picture == LanePicture::Pitch;
  QColor wave = takeColour(lane.colour());
  wave.setAlphaF(behindLine ? 0.5F : 1.0F);
  for (const Clip& clip : lane.clips) {
    QColor handle = takeColour(lane.colour());
    handle.setAlphaF(0.22F);
    drawClip(painter, box, clip, {}, {clip.extent().start, clip.window.start}, handle, true);
    drawClip(painter, box, clip, {}, {clip.window.end, clip.extent().end}, handle, true);
    drawClip(painter, box, clip, {}, clip.window, wave, true);
  }
  drawMeasured(painter, box, lane);
  if (lane.picture == LanePicture::Level) drawLevelLine(painter, row, lane.level);
  drawCells(painter, box, lane);
  drawUnit(painter, box, lane);
  drawHead(painter, row, listening_.nameOf(lane), detailOf(track, lane), lane.colour(), heard, lane.rating);
}

void LanesView::drawGrowingPass(QPainter& painter, const QRect& row, const GrowingPass& pass, bool first,
                                Span shown) {
  const QRectF box = timeBox(row);
  if (first) {
    painter.fillRect(box, theme().sunken);
    drawBarLines(painter, box, scale_, desk_.ruler(), desk_.options().grid);
  }
  const bool last = &pass == &recording_.growing().back();
  const Span window = pass.pass.window.intersect(shown);
  if (!window.empty()) {
    painter.save();
    painter.setClipRect(box, Qt::IntersectClip);
    QColor ground = theme().recording;
    ground.setAlphaF(0.10F);
    const double left = box.left() + scale_.x(window.start);
    if (last)
      painter.fillRect(QRectF(left, box.top(), scale_.x(window.end) - scale_.x(window.start), box.height()),
                       ground);
    drawWave(painter, box, scale_, *pass.peaks, pass.pass.origin, window,
             last ? theme().recording : takeColour(pass.number.value), enlarged_);
    painter.restore();
  }
  drawHead(painter, row, tr("%1  Pass %2").arg(pass.number.value).arg(pass.pass.round),
           last ? tr("recording") : tr("kept"), pass.number.value, false);
}

}  // namespace yewdrift::app
