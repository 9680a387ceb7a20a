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

RecordWords RecordState::words() const {
  const Ruler ruler = desk_.ruler();
  RollingNow now;
  now.engine = transport_.state();
  now.beatsPerMinute =
      ruler.tempo.changeAt(ruler.tempo.positionOf(now.engine.position, ruler.rate).bar).beatsPerMinute;
  now.recording = recording_.recording();
  if (now.recording) {
    if (!recording_.growing().empty()) {
      const GrowingPass& last = recording_.growing().back();
      now.growing = {last.pass.round, last.number};
    }
    if (const auto setup = recording_.planned()) {
      now.passes = setup->timeline.loop ? setup->timeline.passes : 0;
      now.playsBack = setup->playBack;
      now.cue = cueAt(*setup, ruler, now.engine.rollFrame);
      now.grid = ruler.grid;
    }
  }
  now.deviceNeeded = device_.needed();
  now.deviceAlive = device_.alive();
  now.deviceOpening = device_.opening();
  now.armed = !recording_.armedTracks().empty();
  now.standingBy = recording_.standingBy();
  now.autoPunchStandsBy = recording_.autoPunchStandsBy();
  RecordWords words(now, ruler.rate);
  words.detail = desk_.keyNames().spelled(words.detail);
  return words;
}

void RecordState::refresh() {
  const RecordWords now = words();
  if (now == seen_) return;
  const bool said = now.word != seen_.word || (now.toGo > 0 && now.toGo != seen_.toGo);
  seen_ = now;
  update();
  if (!said) return;
  QAccessibleValueChangeEvent changed(this, now.spoken());
  QAccessible::updateAccessibility(&changed);
}

void RecordState::changeEvent(QEvent* event) {
  QWidget::changeEvent(event);
  update();
}

void RecordState::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const RecordWords now = words();
  const bool recording = now.recording;
  const QRectF box = QRectF(rect()).adjusted(1, 1, -1, -1);
  painter.setPen(QPen(recording ? theme().recording : theme().line, 1.5));
  painter.setBrush(recording ? theme().recording : theme().sunken);
  painter.drawRoundedRect(box, 8, 8);
  const QColor ink = recording ? theme().onRecording : theme().text;
  const QRectF ring(14, box.center().y() - 14, 28, 28);
  painter.setPen(QPen(recording ? ink : now.armed ? theme().recording : theme().faintText, 4));
  painter.setBrush(recording ? QBrush(ink) : Qt::NoBrush);
  painter.drawEllipse(ring);
  painter.setPen(ink);
  // Beats to go are read from where the instrument is.
  const double digit = now.toGo > 0 ? box.height() * 0.9 : 0.0;
  if (now.toGo > 0) {
    QFont font = scaledFont(1.0, QFont::Bold);
    font.setPixelSize(static_cast<int>(box.height() * 0.8));
    painter.setFont(font);
    painter.drawText(QRectF(box.right() - digit - 8, box.top(), digit, box.height()), Qt::AlignCenter,
                     QLocale().toString(now.toGo));
  }
  const double room = box.width() - 58 - digit;
  const auto draw = [&](const QString& text, double factor, QFont::Weight weight, const QRectF& in) {
    // A long word in another language is drawn smaller rather than cut off.
    QFont font = scaledFont(factor, weight);
    const double wide = QFontMetricsF(font).horizontalAdvance(text);
    if (wide > room) font.setPointSizeF(font.pointSizeF() * room / wide);
    painter.setFont(font);
    painter.drawText(in, Qt::AlignVCenter | Qt::AlignLeft, text);
  };
  const double split = box.top() + box.height() * (now.detail.isEmpty() ? 1.0 : 0.6);
  draw(now.word, 1.8, QFont::DemiBold, QRectF(54, box.top(), room, split - box.top()));
  if (!now.detail.isEmpty())
    draw(now.detail, 1.05, QFont::Normal, QRectF(54, split - 2, room, box.bottom() - split));
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
  diskLeft_->setAccessibleName(tr("Room on the disk"));
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
  levels->addWidget(new MeterScale);
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
  // What went wrong is never what there is no room for.
  QStringList device;
  if (const int lost = recording_.lostPlaces(); lost > 0) device += tr("%n dropout(s)", nullptr, lost);
  if (transport.underruns > 0)
    device += tr("%n gap(s) in playing: the disk was late", nullptr, static_cast<int>(transport.underruns));
  device += device_.name().isEmpty() ? tr("No audio device") : device_.name();
  deviceName_->setText(device.join("  "));
  left_->feed(transport_.engine().takeOutputPeak(0));
  right_->feed(transport_.engine().takeOutputPeak(1));
  state_->refresh();
}

}  // namespace yewdrift::app
