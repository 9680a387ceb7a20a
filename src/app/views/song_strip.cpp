// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/views/song_strip.h"

#include <QContextMenuEvent>
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
  connect(&transport, &Transport::moved, this, &SongStrip::moved);
}

void SongStrip::setShown(Span span) {
  shown_ = span;
  update();
}

QSize SongStrip::sizeHint() const {
  const int rows = std::clamp(static_cast<int>(desk_.session().tracks.size()), 1, 6);
  return {800, rowsTop + rows * 12 + 6};
}

TimeScale SongStrip::scale() const {
  Frames end = std::max(materialOf(desk_.session()).end, framesFromSeconds(20.0, desk_.session().rate));
  if (desk_.session().loop) end = std::max(end, desk_.session().loop->end);
  for (const Punch& punch : desk_.session().punches)
    for (const auto& edge : {punch.in, punch.out})
      if (edge) end = std::max(end, *edge);
  return {{}, static_cast<double>(end.count) * 1.02 / std::max(50, width() - 2 * headWidth)};
}

QString SongStrip::spoken() const {
  const PositionWords words = desk_.positionWords();
  QStringList parts{tr("playhead at %1").arg(words.shown(transport_.state().position))};
  if (const auto& loop = desk_.session().loop)
    parts << (transport_.looping() ? tr("goes round %1") : tr("loop %1, off")).arg(words.shown(*loop));
  if (!desk_.session().punches.empty())
    parts << tr("%n punch span(s)", nullptr, static_cast<int>(desk_.session().punches.size()));
  parts << tr("shown: %1").arg(words.shown(Span{std::max(Frames{}, shown_.start), shown_.end}));
  return parts.join(", ");
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

void SongStrip::moved() {
  const int x = headWidth + static_cast<int>(std::lround(scale().x(transport_.state().position)));
  if (x == shownPlayhead_) return;
  for (const int at : {shownPlayhead_, x}) update(at - 8, 0, 17, height());
  // What pressing record would do follows the playhead.
  if (!recording_.armedTracks().empty()) update(0, rulerHeight, width(), punchRowHeight);
}

void SongStrip::changeEvent(QEvent* event) {
  QWidget::changeEvent(event);
  if (event->type() == QEvent::FontChange || event->type() == QEvent::StyleChange ||
      event->type() == QEvent::PaletteChange)
    stale();
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
                 clip.origin + piece.slip, part, inHand ? takeColour(lane->colour()) : theme().faintText);
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
  shownPlayhead_ = headWidth + static_cast<int>(std::lround(scale.x(transport_.state().position)));
  drawPlayhead(painter, shownPlayhead_, 4, height());
}

SpanGestures::Row SongStrip::rowAt(int y) const {
  return y > rulerHeight ? SpanGestures::Row::Punch : SpanGestures::Row::Loop;
}

Frames SongStrip::reach() const {
  return {static_cast<std::int64_t>(5 * scale().framesPerPixel)};
}

void SongStrip::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  gesture_.press(event->position().toPoint(), event->button());
  moves_ = event->modifiers() & Qt::ControlModifier;
  pressedFrame_ = std::max(Frames{}, scale().at(event->position().x() - headWidth));
}

void SongStrip::mouseDoubleClickEvent(QMouseEvent* event) {
  mousePressEvent(event);
}

void SongStrip::mouseMoveEvent(QMouseEvent* event) {
  const QPoint at = event->position().toPoint();
  if (gesture_.idle()) return hover(at);
  switch (gesture_.move(at, event->buttons())) {
    case PointerGesture::Step::Begins:
      beginDrag();
      [[fallthrough]];
    case PointerGesture::Step::Goes:
      return goOnDragging(at, event->modifiers() & Qt::AltModifier);
    case PointerGesture::Step::Ends:
      return endDrag();
    default:
      return;
  }
}

void SongStrip::mouseReleaseEvent(QMouseEvent* event) {
  const auto step = gesture_.release(event->button());
  if (step == PointerGesture::Step::Click) click();
  if (step == PointerGesture::Step::Ends) endDrag();
}

void SongStrip::hideEvent(QHideEvent* event) {
  if (drag_ == Drag::Span) desk_.keepHeld();
  gesture_.forget();
  QWidget::hideEvent(event);
}

void SongStrip::beginDrag() {
  if (gesture_.pressedAt().y() > rowsTop || recording_.recording()) {
    drag_ = Drag::View;
    return;
  }
  drag_ = Drag::Span;
  spans_.begin(rowAt(gesture_.pressedAt().y()), pressedFrame_, reach(), moves_, [this](HeldEdit::Ended) {
    drag_ = Drag::None;
    gesture_.forget();
  });
}

void SongStrip::goOnDragging(QPoint at, bool free) {
  const Frames now = std::max(Frames{}, scale().at(at.x() - headWidth));
  if (drag_ == Drag::View)
    emit scrollAsked(now - Frames{shown_.length().count / 2});
  else
    spans_.drag(now, free);
}

void SongStrip::endDrag() {
  if (drag_ == Drag::Span)
    if (const QString why = spans_.finish(); !why.isEmpty()) emit refused(why);
  drag_ = Drag::None;
}

void SongStrip::click() {
  if (gesture_.pressedAt().y() <= rowsTop) {
    // What is done next starts from here, and not from what was in hand elsewhere.
    inHand_.letGoOfUnit();
    if (rowAt(gesture_.pressedAt().y()) == SpanGestures::Row::Punch)
      if (const auto grip = spans_.gripAt(SpanGestures::Row::Punch, pressedFrame_, reach());
          grip.part != SpanGestures::Part::None)
        inHand_.takePunch(grip.punch);
    return transport_.locate(pressedFrame_);
  }
  if (const auto track = trackAt(gesture_.pressedAt())) inHand_.takeTrack(*track);
}

std::optional<TrackId> SongStrip::trackAt(QPoint at) const {
  for (std::size_t i = 0; at.y() > rowsTop && i < desk_.session().tracks.size(); ++i)
    if (rowBox(i).contains(at)) return desk_.session().tracks[i]->id;
  return std::nullopt;
}

void SongStrip::contextMenuEvent(QContextMenuEvent* event) {
  // While something is dragged the other button is no menu.
  if (!gesture_.idle()) return;
  const QPoint at = mapFromGlobal(event->globalPos());
  const std::optional<TrackId> track = trackAt(at);
  if (at.y() > rowsTop && !track) return;
  emit menuAsked({rowAt(at.y()), std::max(Frames{}, scale().at(at.x() - headWidth)), reach(), track},
                 event->globalPos());
}

void SongStrip::hover(QPoint at) {
  SpanGestures::Part part = SpanGestures::Part::None;
  if (at.y() <= rowsTop) part = spans_.gripAt(rowAt(at.y()), scale().at(at.x() - headWidth), reach()).part;
  const bool edge = part == SpanGestures::Part::Start || part == SpanGestures::Part::End;
  setCursor(edge ? Qt::SplitHCursor : Qt::ArrowCursor);
}

}  // namespace yewdrift::app
