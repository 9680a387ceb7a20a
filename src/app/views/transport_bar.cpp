// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/views/transport_bar.h"

#include <QAccessible>
#include <QHBoxLayout>
#include <QPainter>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/bench/record_bench.h"
#include "app/look/theme.h"
#include "app/look/widgets.h"

namespace yewdrift::app {

RecordState::RecordState(SessionDesk& desk, Transport& transport, DeviceDesk& device,
                         RecordingDesk& recording, QWidget* parent)
    : QWidget(parent), desk_(desk), transport_(transport), device_(device), recording_(recording) {
  setAccessibleName(tr("Record state"));
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Preferred);
  setToolTip(tr("What the transport does. A filled ring: recording."));
}

QString RecordState::word() const {
  const EngineState transport = transport_.state();
  if (transport.countIn.count > 0) return tr("Counting in");
  if (recording_.recording()) {
    if (transport.recording) return tr("Recording");
    const auto setup = recording_.planned();
    if (setup && setup->playBack && transport.round % 2 == 0) return tr("Playing back");
    return recording_.growing().empty() ? tr("Rolling in") : tr("Rolling");
  }
  if (transport.rolling) return tr("Playing");
  if (device_.opening()) return tr("Opening");
  if (device_.needed() && !device_.alive()) return tr("No audio device");
  return recording_.armedTracks().empty() ? tr("Stopped") : tr("Ready");
}

QString RecordState::detail() const {
  const EngineState transport = transport_.state();
  if (transport.countIn.count > 0) {
    const Ruler ruler = desk_.ruler();
    const TempoChange& change =
        ruler.tempo.changeAt(ruler.tempo.positionOf(transport.position, ruler.rate).bar);
    const double beats = secondsFromFrames(transport.countIn, ruler.rate) * change.beatsPerMinute / 60.0;
    return tr("%1 beats to go").arg(static_cast<int>(std::ceil(beats)));
  }
  if (recording_.recording()) {
    if (recording_.growing().empty()) return tr("pass %1 comes").arg(transport.round);
    const GrowingPass& last = recording_.growing().back();
    const auto setup = recording_.planned();
    const QString of = setup && setup->timeline.loop && setup->timeline.passes > 0
                           ? tr(" of %1").arg(setup->timeline.passes)
                           : QString();
    return tr("pass %1%2, lane %3").arg(last.pass.round).arg(of).arg(last.number.value);
  }
  if (device_.needed() && !device_.alive() && !device_.opening()) return tr("Ctrl+D chooses one");
  if (recording_.standingBy()) return tr("all is captured; N punches in");
  if (recording_.autoPunchStandsBy() && !transport.rolling) return tr("automatic punch stands by");
  return {};
}

QString RecordState::spoken() const {
  return detail().isEmpty() ? word() : tr("%1, %2").arg(word(), detail());
}

void RecordState::refresh() {
  const Seen now{word(), detail(), transport_.state().recording, !recording_.armedTracks().empty()};
  if (now == seen_) return;
  const bool said = now.word != seen_.word;
  seen_ = now;
  update();
  if (!said) return;
  QAccessibleValueChangeEvent changed(this, spoken());
  QAccessible::updateAccessibility(&changed);
}

void RecordState::changeEvent(QEvent* event) {
  QWidget::changeEvent(event);
  update();
}

void RecordState::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const bool recording = transport_.state().recording;
  const bool armed = !recording_.armedTracks().empty();
  const QRectF box = QRectF(rect()).adjusted(1, 1, -1, -1);
  painter.setPen(QPen(recording ? theme().recording : theme().line, 1.5));
  painter.setBrush(recording ? theme().recording : theme().sunken);
  painter.drawRoundedRect(box, 8, 8);
  const QColor ink = recording ? theme().onRecording : theme().text;
  const QRectF ring(14, box.center().y() - 14, 28, 28);
  painter.setPen(QPen(recording ? ink : armed ? theme().recording : theme().faintText, 4));
  painter.setBrush(recording ? QBrush(ink) : Qt::NoBrush);
  painter.drawEllipse(ring);
  painter.setPen(ink);
  const QString below = detail();
  const bool pass = !below.isEmpty();
  const double room = box.width() - 58;
  const auto draw = [&](const QString& text, double factor, QFont::Weight weight, const QRectF& in) {
    // A long word in another language is drawn smaller rather than cut off.
    QFont font = scaledFont(factor, weight);
    const double wide = QFontMetricsF(font).horizontalAdvance(text);
    if (wide > room) font.setPointSizeF(font.pointSizeF() * room / wide);
    painter.setFont(font);
    painter.drawText(in, Qt::AlignVCenter | Qt::AlignLeft, text);
  };
  const double split = box.top() + box.height() * (pass ? 0.6 : 1.0);
  draw(word(), 1.8, QFont::DemiBold, QRectF(54, box.top(), room, split - box.top()));
  if (pass) draw(below, 1.05, QFont::Normal, QRectF(54, split - 2, room, box.bottom() - split));
}

TransportBar::TransportBar(SessionDesk& desk, Transport& transport, DeviceDesk& device,
                           RecordingDesk& recording, const TransportActions& actions, QWidget* parent)
    : QFrame(parent), desk_(desk), transport_(transport), device_(device), recording_(recording) {
  setObjectName("panel");
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(8, 6, 12, 6);
  row->setSpacing(8);
  state_ = new RecordState(desk, transport, device, recording);
  state_->setMaximumWidth(300);
  row->addWidget(state_, 3);

  auto* positions = new QVBoxLayout;
  positions->setSpacing(0);
  barBeat_ = new QLabel;
  barBeat_->setAccessibleName(tr("Position in bars and beats"));
  barBeat_->setFont(scaledFont(2.0, QFont::DemiBold));
  barBeat_->setMinimumWidth(QFontMetrics(barBeat_->font()).horizontalAdvance("0:00.000"));
  clock_ = new QLabel;
  clock_->setObjectName("faint");
  clock_->setAccessibleName(tr("Position in minutes and seconds"));
  positions->addWidget(barBeat_);
  positions->addWidget(clock_);
  row->addLayout(positions);
  row->addSpacing(4);

  for (QAction* action :
       {actions.start, actions.play, actions.record, actions.loop, actions.punch, actions.click}) {
    auto* button = actionButton(action);
    button->setIconSize({24, 24});
    button->setMinimumSize(42, 44);
    if (action == actions.record) button->setObjectName("record");
    row->addWidget(button);
  }
  row->addSpacing(4);
  for (QAction* action : {actions.undo, actions.redo}) {
    auto* button = actionButton(action);
    button->setIconSize({20, 20});
    button->setMinimumSize(34, 36);
    row->addWidget(button);
  }

  auto* levels = new QVBoxLayout;
  levels->setSpacing(3);
  deviceName_ = new ElidedLabel;
  deviceName_->setObjectName("faint");
  deviceName_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  diskLeft_ = new QLabel;
  diskLeft_->setObjectName("faint");
  diskLeft_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  diskLeft_->setToolTip(tr("How long the armed tracks can be recorded until the disk is full."));
  left_ = new LevelMeter(tr("Output left"));
  right_ = new LevelMeter(tr("Output right"));
  for (LevelMeter* meter : {left_, right_}) meter->setMinimumWidth(96);
  auto* facts = new QHBoxLayout;
  facts->addWidget(deviceName_, 1);
  facts->addSpacing(10);
  facts->addWidget(diskLeft_);
  levels->addLayout(facts);
  levels->addWidget(left_);
  levels->addWidget(right_);
  row->addLayout(levels, 4);
  connect(&transport, &Transport::moved, this, &TransportBar::refresh);
  connect(&transport, &Transport::changed, this, &TransportBar::refresh);
  connect(&desk, &SessionDesk::changed, this, &TransportBar::refresh);
  refresh();
}

void TransportBar::refresh() {
  const EngineState transport = transport_.state();
  const Ruler ruler = desk_.ruler();
  const MusicalPosition position = ruler.tempo.positionOf(transport.position, ruler.rate);
  const QString clock = QString::fromStdString(clockText(transport.position, ruler.rate));
  const bool grid = desk_.options().grid;
  barBeat_->setText(grid ? QString("%1|%2").arg(position.bar).arg(static_cast<int>(position.beat)) : clock);
  clock_->setText(grid ? clock : QString());
  // The disk is asked once a second.
  if (!diskAsked_.isValid() || diskAsked_.elapsed() > 1000) {
    diskAsked_.start();
    const QString left = diskTimeLeft(desk_, recording_);
    diskLeft_->setText(left.isEmpty() ? QString() : tr("room for %1").arg(left));
  }
  QString device = device_.name().isEmpty() ? tr("No audio device") : device_.name();
  if (transport.underruns > 0)
    device +=
        "  " + tr("%n gap(s) in playing: the disk was late", nullptr, static_cast<int>(transport.underruns));
  if (transport.dropouts > 0)
    device += "  " + tr("%n dropout(s)", nullptr, static_cast<int>(transport.dropouts));
  deviceName_->setText(device);
  left_->feed(transport_.engine().takeOutputPeak(0));
  right_->feed(transport_.engine().takeOutputPeak(1));
  state_->refresh();
}

}  // namespace yewdrift::app
