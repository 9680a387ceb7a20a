// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/join_bench.h"

#include <QHBoxLayout>
#include <QLocale>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolButton>
#include <QVBoxLayout>
#include <tuple>

#include "app/look/spoken.h"
#include "app/look/theme.h"
#include "app/look/widgets.h"
#include "core/edit/edit.h"

namespace yewdrift::app {

JoinPicture::JoinPicture(SessionDesk& desk, InHand& inHand, QWidget* parent)
    : QWidget(parent), desk_(desk), inHand_(inHand), held_(desk) {
  setAccessibleName(tr("The join, enlarged"));
  setMouseTracking(true);
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Expanding);
  setToolTip(
      tr("Both takes over each other. Drag the middle line to move the boundary, the outer lines to lengthen "
         "or shorten either side; wheel to zoom."));
}

int JoinPicture::colourOf(LaneNumber lane) const {
  const Track* track = inHand_.track();
  return track ? track->colourOf(lane) : lane.value;
}

void JoinPicture::refresh() {
  // While a line is dragged the picture stands still, so that the hand and the line do not run apart.
  shown_ = inHand_.joinCloseUp(around_, heldCentre());
  if (shown_) {
    // A crossfade longer than what is shown is brought into sight.
    const Frames longer = std::max(shown_->join.shape.before, shown_->join.shape.after);
    if (longer > around_ && drag_ == Drag::None) {
      around_ = longer * 2;
      shown_ = inHand_.joinCloseUp(around_, heldCentre());
    }
  }
  const auto seen = [](const std::optional<JoinCloseUp>& view) {
    return std::tie(view->outgoing, view->incoming, view->outgoingLane, view->incomingLane);
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
      .arg(lane(shown_->outgoingLane), lane(shown_->incomingLane))
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
void JoinPicture::drawTake(QPainter& painter, const std::vector<float>& samples,
                           const std::optional<LaneNumber>& lane, bool incoming) {
  if (samples.empty()) return;
  float peak = 0.02F;
  for (const auto* side : {&shown_->outgoing, &shown_->incoming})
    for (const float s : *side) peak = std::max(peak, std::abs(s));
  const double middle = height() / 2.0;
  const double scale = height() * 0.42 / peak;
  const double step = static_cast<double>(width()) / static_cast<double>(samples.size());
  const QColor colour = lane ? takeColour(colourOf(*lane)) : theme().faintText;
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
  // Several samples a pixel: from the lowest to the highest of them, once a column.
  QPolygonF highest;
  QPolygonF lowest;
  for (int x = 0; x < width(); ++x) {
    const auto from = static_cast<std::size_t>(x / step);
    const auto to = std::min(samples.size(), static_cast<std::size_t>((x + 1) / step) + 1);
    if (from >= to) continue;
    const auto [low, high] = std::minmax_element(samples.begin() + static_cast<std::ptrdiff_t>(from),
                                                 samples.begin() + static_cast<std::ptrdiff_t>(to));
    const double top = middle - *high * scale;
    const double bottom = std::max(middle - *low * scale, top + 1.0);
    highest << QPointF(x + 0.5, top);
    lowest << QPointF(x + 0.5, bottom);
  }
  painter.setRenderHint(QPainter::Antialiasing, false);
  // Cosmetic pens are drawn line by line; any other is stroked as a path, a hundred times as slow.
  const auto pen = [](const QColor& ink) {
    QPen thin(ink, 1);
    thin.setCosmetic(true);
    return thin;
  };
  if (incoming) {
    // As one area: what is blended column by column takes twenty times as long.
    QPolygonF area = highest;
    for (auto point = lowest.crbegin(); point != lowest.crend(); ++point) area << *point;
    painter.setPen(Qt::NoPen);
    painter.setBrush(ground);
    painter.drawPolygon(area);
  }
  painter.setPen(pen(colour));
  painter.drawPolyline(highest);
  painter.drawPolyline(lowest);
}

void JoinPicture::drawWaves() {
  const double ratio = devicePixelRatioF();
  waves_ = QPixmap(size() * ratio);
  waves_.setDevicePixelRatio(ratio);
  waves_.fill(theme().sunken);
  QPainter painter(&waves_);
  painter.setPen(QPen(theme().line, 1));
  painter.drawLine(0, height() / 2, width(), height() / 2);
  drawTake(painter, shown_->incoming, shown_->incomingLane, true);
  drawTake(painter, shown_->outgoing, shown_->outgoingLane, false);
  drawnWaves_ = shown_;
}

void JoinPicture::drawCurves(QPainter& painter) {
  const std::size_t count = shown_->inGains.size();
  if (count == 0) return;
  const double top = height() * 0.06;
  const double bottom = height() * 0.94;
  for (const bool incoming : {false, true}) {
    const auto& gains = incoming ? shown_->inGains : shown_->outGains;
    const auto& lane = incoming ? shown_->incomingLane : shown_->outgoingLane;
    QPolygonF line;
    for (int x = 0; x <= width(); x += 2) {
      const auto i = std::min(
          count - 1, static_cast<std::size_t>(static_cast<double>(x) / width() * static_cast<double>(count)));
      const QPointF point(x, bottom - (bottom - top) * static_cast<double>(gains[i]));
      // Where it stays as it is, the middle of three says nothing, and costs as much as the others.
      if (const auto n = line.size(); n >= 2 && line[n - 1].y() == point.y() && line[n - 2].y() == point.y())
        line[n - 1] = point;
      else
        line << point;
    }
    QPainterPath area;
    area.addPolygon(QPolygonF(line) << QPointF(width(), bottom) << QPointF(0, bottom));
    QColor ground = lane ? takeColour(colourOf(*lane)) : theme().faintText;
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
  auto name = [&](const std::optional<LaneNumber>& lane, bool incoming) {
    const QString text =
        lane ? (incoming ? tr("lane %1 comes in").arg(lane->value) : tr("lane %1 goes out").arg(lane->value))
             : tr("silence");
    const double w = painter.fontMetrics().horizontalAdvance(text) + 34;
    const QRectF box(incoming ? width() - w - 8 : 8, 6, w, 22);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().surface);
    painter.drawRoundedRect(box, 5, 5);
    if (lane) drawTakeMark(painter, QRectF(box.left() + 5, box.top() + 4, 14, 14), colourOf(*lane));
    painter.setPen(theme().text);
    painter.drawText(box.adjusted(24, 0, 0, 0), Qt::AlignVCenter, text);
  };
  name(shown_->outgoingLane, false);
  name(shown_->incomingLane, true);
}

JoinPicture::Drag JoinPicture::gripAt(QPoint at) const {
  if (!shown_) return Drag::None;
  const Join& join = shown_->join;
  auto near = [&](Frames frame) { return std::abs(xOf(frame) - at.x()) <= 6; };
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
      return goOnDragging(atX(event->position().x()));
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
  held_.begin(drag_ == Drag::Boundary ? tr("Move a boundary") : tr("Set a crossfade"),
              [this](HeldEdit::Ended how) {
                if (how == HeldEdit::Ended::Dropped && drag_ == Drag::Boundary) inHand_.takeJoin(dragFrom_);
                dragIsOver();
              });
}

void JoinPicture::goOnDragging(Frames at) {
  const Track* track = inHand_.track();
  if (!track || !shown_ || drag_ == Drag::None) return;
  const TrackId id = track->id;
  const Frames centre = dragFrom_;
  if (drag_ == Drag::Boundary) return inHand_.holdBoundary(held_, centre, at);
  const Drag side = drag_;
  held_.show([id, centre, at, side](const Session& s) {
    const ResolvedComposite composite = resolve(*s.track(id), s.rate);
    const Join* join = composite.joinAt(centre);
    if (!join) return s;
    JoinShape shape = join->shape;
    (side == Drag::Before ? shape.before : shape.after) =
        std::max(Frames{}, side == Drag::Before ? centre - at : at - centre);
    return setJoin(s, id, centre, shape);
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

JoinBench::JoinBench(SessionDesk& desk, InHand& inHand, JoinDesk& joins, const Actions& actions,
                     QWidget* parent)
    : QWidget(parent), desk_(desk), inHand_(inHand), joins_(joins) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(8, 2, 6, 2);
  row->setSpacing(12);
  auto* side = new QVBoxLayout;
  side->setSpacing(3);
  title_ = new ElidedLabel;
  title_->setFont(scaledFont(1.2, QFont::DemiBold));
  reading_ = new QLabel;
  reading_->setWordWrap(true);
  reading_->setAccessibleName(tr("What the join sounds like"));
  numbers_ = new QLabel;
  numbers_->setAccessibleName(tr("Measures of the join"));
  numbers_->setTextFormat(Qt::RichText);
  curve_ = new QComboBox;
  curve_->setAccessibleName(tr("Curve of the crossfade"));
  curve_->setToolTip(
      tr("How the two takes are faded: matched keeps the level whatever they have in common; equal gain and "
         "S suit takes that are alike, equal power takes that are not."));
  for (const auto& [text, value] : {std::pair{tr("Matched"), Curve::Matched},
                                    {tr("Equal power"), Curve::EqualPower},
                                    {tr("Equal gain"), Curve::EqualGain},
                                    {tr("S"), Curve::S}})
    curve_->addItem(text, static_cast<int>(value));
  auto* hearButton = actionButton(actions.hear);
  auto* head = new QHBoxLayout;
  head->addWidget(title_, 1);
  head->addWidget(curve_);
  head->addWidget(hearButton);
  side->addLayout(head);
  side->addWidget(reading_);
  side->addWidget(numbers_);
  side->addStretch(1);
  auto* sideWidget = new QWidget;
  sideWidget->setLayout(side);
  side->setContentsMargins(0, 0, 0, 0);
  sideWidget->setMinimumWidth(220);
  sideWidget->setMaximumWidth(460);
  picture_ = new JoinPicture(desk, inHand);
  row->addWidget(sideWidget);
  row->addWidget(picture_, 3);
  list_ = new JoinList(desk, inHand, joins, actions.better, actions.settle);
  list_->setMinimumWidth(200);
  row->addWidget(list_, 1);
  connect(curve_, &QComboBox::activated, this, [this](int index) {
    const Track* track = inHand_.track();
    if (!track || !inHand_.join()) return;
    const Join* join = inHand_.composite(*track).joinAt(*inHand_.join());
    if (!join) return;
    JoinShape shape = join->shape;
    shape.curve = static_cast<Curve>(curve_->itemData(index).toInt());
    const TrackId id = track->id;
    const Frames at = join->at;
    desk_.apply(tr("Set a crossfade"), [=](const Session& s) { return setJoin(s, id, at, shape); });
  });
  connect(&desk, &SessionDesk::changed, this, &JoinBench::refresh);
  connect(&inHand, &InHand::changed, this, &JoinBench::refresh);
  connect(&joins, &JoinDesk::found, this, &JoinBench::refresh);
}

void JoinBench::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  refresh();
}

void JoinBench::refresh() {
  // Nobody looks: it is made when the page is shown.
  if (!isVisible()) return;
  joins_.want();
  list_->refresh();
  if (!inHand_.join() && !picture_->shown() && !title_->text().isEmpty()) return;
  picture_->refresh();
  curve_->setEnabled(picture_->shown().has_value());
  if (!picture_->shown()) {
    title_->setText(tr("No join in hand"));
    reading_->setText(desk_.keyNames().spelled(tr("[J] takes the next one, [Shift+Q] the riskiest.")));
    numbers_->clear();
    return;
  }
  showNumbers(*picture_->shown());
}

void JoinBench::showNumbers(const JoinCloseUp& view) {
  const Ruler ruler = desk_.ruler();
  const QString place = QString::fromStdString(barBeatText(view.join.at, ruler));
  title_->setText(tr("Join at %1").arg(place));
  title_->setToolTip(view.join.set     ? tr("Its crossfade was set by hand.")
                     : view.join.found ? tr("Its crossfade was found by the search for the best place.")
                                       : tr("Its crossfade is as every join has it."));
  const auto decimal = [](double value, int places) { return numberLocale().toString(value, 'f', places); };
  const auto ms = [&](Frames f, int places = 1) {
    return decimal(secondsFromFrames(f, ruler.rate) * 1000.0, places);
  };
  const auto line = [](const QString& what, const QString& value, const QString& more = {},
                       const QString& moreValue = {}) {
    const auto cell = [](const QString& text) { return "<td style='padding-right:8px'>" + text + "</td>"; };
    const auto bold = [](const QString& text) {
      return text.isEmpty() ? text : "<b>" + text.toHtmlEscaped() + "</b>";
    };
    return "<tr>" + cell(what) + cell(bold(value)) + cell(more) + cell(bold(moreValue)) + "</tr>";
  };
  // As long as it is not measured anew, what is seen is measured where it is seen.
  const MeasuredJoin* const known = joins_.joinAt(view.join.at);
  const JoinMeasure measure = known ? known->measure : view.measure;
  reading_->setText(known && known->join == view.join ? spoken(known->reading) : tr("Listening…"));
  const QString lengths = tr("%1 + %2 ms").arg(ms(view.join.shape.before), ms(view.join.shape.after));
  const QString onset =
      known && known->nearestOnset ? tr("%1 ms").arg(ms(*known->nearestOnset, 0)) : tr("none");
  const QString pitch = known && known->pitchDifference
                            ? tr("%L1 cents").arg(known->pitchDifference->value, 0, 'f', 0)
                            : tr("none");
  numbers_->setText(
      "<table>" + line(tr("Crossfade"), lengths, tr("Attack"), onset) +
      line(tr("Step"), decimal(measure.step, 3), tr("Likeness"), decimal(measure.correlation, 2)) +
      line(tr("Level"), tr("%L1 dB").arg(measure.levelDifference, 0, 'f', 1), tr("Pitch"), pitch) +
      "</table>");
  numbers_->setToolTip(
      tr("Step: how far apart the waves are at the boundary, of full scale 1. Likeness: 1 where both takes "
         "are the same wave, 0 where they have nothing in common, -1 where they are opposed. Level and "
         "pitch: by how much the incoming take is louder and higher. Attack: how far the nearest one "
         "of either take is from the boundary, before it with a minus."));
  const QSignalBlocker quietly(curve_);
  curve_->setCurrentIndex(curve_->findData(static_cast<int>(view.join.shape.curve)));
}

}  // namespace yewdrift::app
