// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/join_picture.h"

#include <QLocale>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <span>
#include <tuple>
#include <utility>

#include "app/desk/snapping.h"
#include "app/look/painting.h"
#include "app/look/theme.h"
#include "app/look/wave_image.h"
#include "core/edit/edit.h"
#include "core/signal/extremes.h"

namespace yewdrift::app {

namespace {

constexpr int reachOfGrip = 6;       // pixels
constexpr int reachOfPlace = 7;      // within which a boundary is drawn to a good place
constexpr double roomToCross = 4.0;  // pixels that a zero crossing needs to be seen

/// Where a signal goes from one side of zero to the other, until there are more than that many.
void addCrossings(const std::vector<float>& samples, Frames start, std::size_t most,
                  std::vector<Frames>& crossings) {
  for (std::size_t i = 1; i < samples.size() && crossings.size() <= most; ++i)
    if ((samples[i - 1] < 0.0F) != (samples[i] < 0.0F))
      crossings.push_back(start + Frames{static_cast<std::int64_t>(i)});
}

}  // namespace

JoinPicture::JoinPicture(SessionDesk& desk, InHand& inHand, JoinDesk& joins, QWidget* parent)
    : QWidget(parent), desk_(desk), inHand_(inHand), joins_(joins), held_(desk) {
  setAccessibleName(tr("The join, enlarged"));
  setMouseTracking(true);
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Expanding);
  setToolTip(tr(
      "Both takes over each other. Drag the middle line to move the boundary, the outer lines to lengthen "
      "or shorten either side, the crossing of the curves to bend them; wheel to zoom. The boundary is drawn "
      "to good places near it, marked above, and, zoomed in, to zero crossings; with Alt it is not."));
}

int JoinPicture::paletteOf(LaneNumber lane) const {
  const Track* track = inHand_.track();
  return track ? track->colourOf(lane) : lane.value;
}

QColor JoinPicture::colourOf(const CloseUpSide& side) const {
  return side.lane ? takeColour(paletteOf(*side.lane)) : theme().faintText;
}

void JoinPicture::refresh() {
  // While a line is dragged the picture stands still, so that the hand and the line do not run apart.
  shown_ = inHand_.joinCloseUp(around_, heldCentre());
  // A crossfade longer than what is shown is brought into sight, once; who zooms in meanwhile means to.
  if (shown_ && drag_ == Drag::None && std::exchange(fitted_, shown_->join) != shown_->join) {
    const Frames longer = std::max(shown_->join.shape.before, shown_->join.shape.after);
    if (longer > around_) {
      around_ = longer * 2;
      shown_ = inHand_.joinCloseUp(around_, heldCentre());
    }
  }
  // Samples that are still held are not read into the same place again: the place tells which they are.
  const auto seen = [](const std::optional<JoinCloseUp>& view) {
    return std::tie(view->outgoing.samples, view->incoming.samples, view->outgoing.lane, view->incoming.lane);
  };
  if (shown_ && !(drawnWaves_ && seen(drawnWaves_) == seen(shown_))) drawnWaves_.reset();
  update();
}

QString JoinPicture::spoken() const {
  if (!shown_) return tr("No join in hand.");
  const auto lane = [](const std::optional<LaneNumber>& number) {
    return number ? tr("lane %1").arg(number->value) : tr("silence");
  };
  const auto ms = [this](Frames f) { return secondsFromFrames(f, desk_.session().rate) * 1000.0; };
  return tr("from %1 to %2, crossfade of %L3 ms before and %L4 ms after")
      .arg(lane(shown_->outgoing.lane), lane(shown_->incoming.lane))
      .arg(ms(shown_->join.shape.before), 0, 'f', 1)
      .arg(ms(shown_->join.shape.after), 0, 'f', 1);
}

void JoinPicture::zoom(double factor) {
  around_ =
      Frames{std::clamp<std::int64_t>(std::llround(static_cast<double>(around_.count) * factor), 24, 480000)};
  refresh();
}

int JoinPicture::xOf(Frames at) const {
  return static_cast<int>(std::lround(width() * static_cast<double>((at - shown_->span.start).count) /
                                      static_cast<double>(shown_->span.length().count)));
}

Frames JoinPicture::atX(double x) const {
  return shown_->span.start +
         Frames{std::llround(x / width() * static_cast<double>(shown_->span.length().count))};
}

/// The incoming take as an area, the outgoing one as a line over it: told apart without colour.
void JoinPicture::drawTake(QPainter& painter, bool incoming, double scale) {
  const CloseUpSide& side = incoming ? shown_->incoming : shown_->outgoing;
  const std::vector<float>& samples = *side.samples;
  const double middle = height() / 2.0;
  const double step = static_cast<double>(width()) / static_cast<double>(samples.size());
  const QColor colour = colourOf(side);
  QColor ground = colour;
  ground.setAlphaF(0.45F);
  if (step >= 0.5) {
    QPolygonF line;
    for (std::size_t i = 0; i < samples.size(); ++i)
      line << QPointF((static_cast<double>(i) + 0.5) * step, middle - samples[i] * scale);
    painter.setRenderHint(QPainter::Antialiasing);
    if (incoming) {
      QPolygonF area = line;
      area << QPointF(line.back().x(), middle) << QPointF(line.front().x(), middle);
      painter.setPen(Qt::NoPen);
      painter.setBrush(ground);
      painter.drawPolygon(area);
    }
    painter.setPen(QPen(colour, 1.4));
    painter.setBrush(Qt::NoBrush);
    painter.drawPolyline(line);
    return;
  }
  // Several samples a pixel of the screen: from the lowest to the highest of them, once a column.
  const double ratio = painter.device()->devicePixelRatioF();
  std::vector<WaveColumn> columns;
  const int across = static_cast<int>(std::lround(width() * ratio));
  for (int x = 0; x < across; ++x) {
    const auto from = static_cast<std::size_t>(x / (step * ratio));
    const auto to = std::min(samples.size(), static_cast<std::size_t>((x + 1) / (step * ratio)) + 1);
    if (from >= to) break;
    const Extremes column = extremesOf(std::span(samples).subspan(from, to - from));
    const int top = static_cast<int>(std::floor((middle - column.high * scale) * ratio));
    columns.push_back(
        {top, std::max(static_cast<int>(std::floor((middle - column.low * scale) * ratio)), top + 1)});
  }
  QImage wave = waveImage(columns, static_cast<int>(std::lround(height() * ratio)), colour,
                          incoming ? ground : QColor(Qt::transparent));
  wave.setDevicePixelRatio(ratio);
  painter.drawImage(QPointF(0, 0), wave);
}

void JoinPicture::drawWaves() {
  const double ratio = devicePixelRatioF();
  waves_ = QPixmap(size() * ratio);
  waves_.setDevicePixelRatio(ratio);
  waves_.fill(theme().sunken);
  QPainter painter(&waves_);
  painter.setPen(QPen(theme().line, 1));
  painter.drawLine(0, height() / 2, width(), height() / 2);
  if (!shown_->span.empty()) {
    const float peak =
        std::max(extremesOf(*shown_->outgoing.samples).peak(), extremesOf(*shown_->incoming.samples).peak());
    const double scale = height() * 0.42 / std::max(peak, 0.02F);
    drawTake(painter, true, scale);
    drawTake(painter, false, scale);
  }
  drawnWaves_ = shown_;
}

void JoinPicture::drawCurves(QPainter& painter) {
  const double top = height() * 0.06;
  const double bottom = height() * 0.94;
  for (const bool incoming : {false, true}) {
    QPolygonF line;
    for (int x = 0; x <= width(); x += 2) {
      const FadeGains gains = shown_->gainsAt(atX(x));
      const QPointF point(x, bottom - (bottom - top) * static_cast<double>(incoming ? gains.in : gains.out));
      // Where it stays as it is, the middle of three says nothing, and costs as much as the others.
      if (const auto n = line.size(); n >= 2 && line[n - 1].y() == point.y() && line[n - 2].y() == point.y())
        line[n - 1] = point;
      else
        line << point;
    }
    QPainterPath area;
    area.addPolygon(QPolygonF(line) << QPointF(width(), bottom) << QPointF(0, bottom));
    QColor ground = colourOf(incoming ? shown_->incoming : shown_->outgoing);
    ground.setAlphaF(0.13F);
    painter.fillPath(area, ground);
    ground.setAlphaF(0.9F);
    painter.setPen(QPen(ground, 2.2, incoming ? Qt::SolidLine : Qt::DashLine));
    painter.drawPolyline(line);
  }
}

void JoinPicture::drawGrips(QPainter& painter) {
  const Join& join = shown_->join;
  auto grip = [&](Frames at, bool boundary) {
    const double x = xOf(at);
    painter.setPen(QPen(theme().inHand, boundary ? 2.4 : 1.4));
    painter.drawLine(QPointF(x, 0), QPointF(x, height()));
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().inHand);
    if (boundary)
      painter.drawEllipse(QPointF(x, height() - 9.0), 6, 6);
    else
      painter.drawRoundedRect(QRectF(x - 3, height() / 2.0 - 12, 6, 24), 3, 3);
  };
  grip(join.at - join.shape.before, false);
  grip(join.at + join.shape.after, false);
  grip(join.at, true);
  if (const auto bend = bendGrip()) {
    painter.setPen(QPen(theme().inHand, 1.6));
    painter.setBrush(theme().surface);
    painter.translate(*bend);
    painter.rotate(45.0);
    painter.drawRect(QRectF(-4.5, -4.5, 9, 9));
    painter.resetTransform();
  }
}

void JoinPicture::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  if (!shown_) {
    painter.fillRect(rect(), theme().sunken);
    painter.setPen(theme().faintText);
    painter.drawText(rect(), Qt::AlignCenter, tr("No join in hand."));
    return;
  }
  if (!drawnWaves_ || waves_.size() != size() * devicePixelRatioF()) drawWaves();
  painter.drawPixmap(0, 0, waves_);
  drawCurves(painter);
  drawGrips(painter);
  drawNames(painter);
  drawPlaces(painter);
}

void JoinPicture::drawNames(QPainter& painter) {
  auto name = [&](const std::optional<LaneNumber>& lane, bool incoming) {
    const QString whole =
        lane ? (incoming ? tr("lane %1 comes in").arg(lane->value) : tr("lane %1 goes out").arg(lane->value))
             : tr("silence");
    // Where there is no room for both, numbers do.
    const bool narrow = painter.fontMetrics().horizontalAdvance(whole) * 2 + 90 > width();
    const QString text = lane && narrow ? QString::number(lane->value) : whole;
    const double w = painter.fontMetrics().horizontalAdvance(text) + 34;
    const QRectF box(incoming ? width() - w - 8 : 8, 6, w, 22);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().surface);
    painter.drawRoundedRect(box, 5, 5);
    if (lane) drawTakeMark(painter, QRectF(box.left() + 5, box.top() + 4, 14, 14), paletteOf(*lane));
    painter.setPen(theme().text);
    painter.drawText(box.adjusted(24, 0, 0, 0), Qt::AlignVCenter, text);
  };
  name(shown_->outgoing.lane, false);
  name(shown_->incoming.lane, true);
}

std::optional<QPoint> JoinPicture::bendGrip() const {
  if (!shown_) return std::nullopt;
  // The first place at which what goes out is no louder than what comes in: halved towards, since one falls
  // and the other rises.
  const Span& span = shown_->span;
  Frames louder = span.start - Frames{1};
  Frames cross = span.end;
  while (cross - louder > Frames{1}) {
    const Frames middle = louder + Frames{(cross - louder).count / 2};
    const FadeGains gains = shown_->gainsAt(middle);
    (gains.out > gains.in ? louder : cross) = middle;
  }
  if (cross <= span.start || cross >= span.end) return std::nullopt;
  const FadeGains gains = shown_->gainsAt(cross);
  const double gain = (static_cast<double>(gains.in) + static_cast<double>(gains.out)) / 2.0;
  return QPoint(xOf(cross), static_cast<int>(std::lround(height() * 0.94 - height() * 0.88 * gain)));
}

std::vector<Frames> JoinPicture::zeroCrossings() const {
  std::vector<Frames> crossings;
  if (!shown_) return crossings;
  const auto most = static_cast<std::size_t>(width() / roomToCross);
  for (const CloseUpSide* side : {&shown_->outgoing, &shown_->incoming})
    addCrossings(*side->samples, shown_->span.start, most, crossings);
  if (crossings.size() > most) crossings.clear();
  return crossings;
}

/// Where the boundary would be better, as leaves hanging from above; where a take crosses zero, as ticks
/// below.
void JoinPicture::drawPlaces(QPainter& painter) {
  painter.setPen(QPen(theme().faintText, 1));
  for (const Frames at : zeroCrossings()) {
    const double x = xOf(at) + 0.5;
    painter.drawLine(QPointF(x, height() - 5.0), QPointF(x, height()));
  }
  for (const Frames at : drag_ == Drag::Boundary ? goodPlaces_ : joins_.goodPlaces(shown_->join.at))
    drawGoodPlace(painter, QPointF(xOf(at), 0.0));
}

JoinPicture::Drag JoinPicture::gripAt(QPoint at) const {
  if (!shown_) return Drag::None;
  const Join& join = shown_->join;
  auto near = [&](Frames frame) { return std::abs(xOf(frame) - at.x()) <= reachOfGrip; };
  if (const auto bend = bendGrip(); bend && (*bend - at).manhattanLength() <= reachOfGrip + 3)
    return Drag::Bend;
  // The boundary wins at its foot, the edges elsewhere, so that short crossfades can be opened.
  if (near(join.at) && at.y() > height() - 24) return Drag::Boundary;
  if (near(join.at - join.shape.before)) return Drag::Before;
  if (near(join.at + join.shape.after)) return Drag::After;
  return near(join.at) ? Drag::Boundary : Drag::None;
}

void JoinPicture::changeEvent(QEvent* event) {
  QWidget::changeEvent(event);
  if (event->type() == QEvent::FontChange || event->type() == QEvent::StyleChange ||
      event->type() == QEvent::PaletteChange)
    drawnWaves_.reset();
  update();
}

void JoinPicture::mousePressEvent(QMouseEvent* event) {
  gesture_.press(event->position().toPoint(), event->button());
}

void JoinPicture::mouseDoubleClickEvent(QMouseEvent* event) {
  mousePressEvent(event);
}

void JoinPicture::mouseMoveEvent(QMouseEvent* event) {
  const QPoint at = event->position().toPoint();
  if (gesture_.idle()) return setCursor(gripAt(at) == Drag::None ? Qt::ArrowCursor : Qt::SplitHCursor);
  switch (gesture_.move(at, event->buttons())) {
    case PointerGesture::Step::Begins:
      beginDrag();
      [[fallthrough]];
    case PointerGesture::Step::Goes:
      return goOnDragging(event->position().x(), event->modifiers() & Qt::AltModifier);
    case PointerGesture::Step::Ends:
      return endDrag();
    default:
      return;
  }
}

void JoinPicture::mouseReleaseEvent(QMouseEvent* event) {
  if (gesture_.release(event->button()) == PointerGesture::Step::Ends) endDrag();
}

void JoinPicture::hideEvent(QHideEvent* event) {
  if (drag_ != Drag::None) desk_.keepHeld();
  gesture_.forget();
  QWidget::hideEvent(event);
}

void JoinPicture::beginDrag() {
  drag_ = gripAt(gesture_.pressedAt());
  if (drag_ == Drag::None) return gesture_.forget();
  dragFrom_ = shown_->join.at;
  shapeBefore_ = shown_->join.shape;
  goodPlaces_ = joins_.goodPlaces(dragFrom_);
  held_.begin(drag_ == Drag::Boundary ? tr("Move a boundary") : tr("Set a crossfade"),
              [this](HeldEdit::Ended how) {
                if (how == HeldEdit::Ended::Dropped && drag_ == Drag::Boundary) inHand_.takeJoin(dragFrom_);
                dragIsOver();
              });
}

/// Drawn to what is near, in pixels.
Frames JoinPicture::drawn(Frames at) const {
  const Frames reach = atX(reachOfPlace) - atX(0.0);
  const Frames place = drawnTo(at, goodPlaces_, reach);
  return place != at ? place : drawnTo(at, zeroCrossings(), reach);
}

void JoinPicture::goOnDragging(double x, bool free) {
  const Track* track = inHand_.track();
  if (!track || !shown_ || drag_ == Drag::None) return;
  const TrackId id = track->id;
  const Frames centre = dragFrom_;
  const Frames at = atX(x);
  if (drag_ == Drag::Boundary) return inHand_.holdBoundary(held_, centre, free ? at : drawn(at));
  JoinShape shape = shapeBefore_;
  if (drag_ == Drag::Bend) {
    // To the left the incoming take rises earlier; half of the fade is as far as it bends.
    const double half = std::max(12.0, (xOf(centre + shape.after) - xOf(centre - shape.before)) / 2.0);
    shape.bend = std::clamp(shape.bend - (x - gesture_.pressedAt().x()) / half, -1.0, 1.0);
    if (!free && std::abs(shape.bend) < 0.04) shape.bend = 0.0;
  } else {
    (drag_ == Drag::Before ? shape.before : shape.after) =
        std::max(Frames{}, drag_ == Drag::Before ? centre - at : at - centre);
  }
  held_.show([id, centre, shape](const Session& s) {
    return resolve(*s.track(id), s.rate).joinAt(centre) ? setJoin(s, id, centre, shape) : s;
  });
}

void JoinPicture::endDrag() {
  held_.keep();
  dragIsOver();
}

void JoinPicture::dragIsOver() {
  drag_ = Drag::None;
  gesture_.forget();
  refresh();
}

void JoinPicture::wheelEvent(QWheelEvent* event) {
  zoom(std::pow(1.0015, -event->angleDelta().y()));
}

}  // namespace yewdrift::app
