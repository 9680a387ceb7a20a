// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/views/track_list.h"

#include <QContextMenuEvent>
#include <QDropEvent>
#include <QHBoxLayout>
#include <QMimeData>
#include <QPainter>
#include <QPointer>
#include <algorithm>
#include <map>
#include <utility>

#include "app/look/flow_layout.h"
#include "app/look/theme.h"
#include "app/look/widgets.h"
#include "core/edit/edit.h"
#include "core/edit/edit_gather.h"

namespace yewdrift::app {

TrackRow::TrackRow(SessionDesk& desk, InHand& inHand, Transport& transport, DeviceDesk& device,
                   RecordingDesk& recording, TrackId track, QWidget* parent)
    : QFrame(parent),
      desk_(desk),
      inHand_(inHand),
      transport_(transport),
      device_(device),
      recording_(recording),
      track_(track) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 3, 8, 4);
  column->setSpacing(2);
  name_ = new ElidedLabel;
  name_->setFont(scaledFont(1.0, QFont::DemiBold));
  detail_ = new ElidedLabel;
  detail_->setObjectName("faint");
  detail_->setFont(scaledFont(0.8));
  auto* switches = new FlowLayout(4, 3);
  arm_ = switchButton(tr("Arm"), tr("Arm: pressing record records to this track (M for the track in hand)."));
  arm_->setObjectName("arm");
  mute_ = switchButton(tr("Mute"), tr("Mute this track."));
  solo_ = switchButton(tr("Solo"), tr("Hear this track alone."));
  switches->addWidget(arm_);
  switches->addWidget(mute_);
  switches->addWidget(solo_);
  gain_ = new QSlider(Qt::Horizontal);
  gain_->setRange(-400, 120);  // tenths of a decibel
  gain_->setMaximumWidth(60);
  gain_->setToolTip(tr("Gain of this track, from -40 to +12 dB; double-step with Page Up and Page Down."));
  pan_ = new QSlider(Qt::Horizontal);
  pan_->setRange(-100, 100);
  pan_->setFixedWidth(38);
  panShown_ = new QLabel;
  panShown_->setObjectName("faint");
  panShown_->setFont(scaledFont(0.75));
  panShown_->setFixedWidth(panShown_->fontMetrics().horizontalAdvance(tr("L%1").arg(100)) + 2);
  meter_ = new LevelMeter(tr("Level"));
  levels_ = new QWidget;
  auto* levels = new QHBoxLayout(levels_);
  levels->setContentsMargins(0, 0, 0, 0);
  levels->addWidget(meter_, 1);
  levels->addWidget(gain_);
  levels->addWidget(pan_);
  levels->addWidget(panShown_);
  levels->setSpacing(4);
  auto* title = new QHBoxLayout;
  title->setSpacing(4);
  title->addWidget(name_, 1);
  title->addWidget(detail_);
  column->addLayout(title);
  column->addLayout(switches);
  column->addWidget(levels_);

  auto connectSwitch = [this](QToolButton* button, TrackSwitch which, const QString& label) {
    connect(button, &QToolButton::clicked, this, [this, which, label](bool on) {
      desk_.apply(label, [tracks = meant(), which, on](Session s) {
        for (const TrackId each : tracks)
          if (!(which == TrackSwitch::Arm && requireTrack(s, each).backing))
            s = setTrackSwitch(std::move(s), each, which, on);
        return s;
      });
      refresh();
    });
  };
  connectSwitch(arm_, TrackSwitch::Arm, tr("Arm a track"));
  connectSwitch(mute_, TrackSwitch::Mute, tr("Mute a track"));
  connectSwitch(solo_, TrackSwitch::Solo, tr("Solo a track"));
  auto mix = [this](int tenths) {
    return [this, tenths](const Session& s) {
      return setTrackMix(s, track_, {tenths / 10.0}, s.track(track_)->pan);
    };
  };
  gainEdit_ = new FieldEdit(desk_, gain_, tr("Set a gain"), [this] { refresh(); });
  connect(gain_, &QSlider::sliderPressed, gainEdit_, &FieldEdit::press);
  connect(gain_, &QSlider::valueChanged, this, [this, mix](int tenths) { gainEdit_->show(mix(tenths)); });
  connect(gain_, &QSlider::sliderReleased, gainEdit_, &FieldEdit::release);
  auto panned = [this](int percent) {
    return [this, percent](const Session& s) {
      return setTrackMix(s, track_, s.track(track_)->gain, {percent / 100.0});
    };
  };
  panEdit_ = new FieldEdit(desk_, pan_, tr("Set a pan"), [this] { refresh(); });
  connect(pan_, &QSlider::sliderPressed, panEdit_, &FieldEdit::press);
  connect(pan_, &QSlider::valueChanged, this,
          [this, panned](int percent) { panEdit_->show(panned(percent)); });
  connect(pan_, &QSlider::sliderReleased, panEdit_, &FieldEdit::release);
  refresh();
}

std::vector<TrackId> TrackRow::meant() const {
  const auto inHand = inHand_.tracksInHand();
  return std::find(inHand.begin(), inHand.end(), track_) != inHand.end() ? inHand : std::vector{track_};
}

QToolButton* TrackRow::switchButton(const QString& text, const QString& tip) {
  auto* button = new QToolButton;
  button->setText(text);
  button->setCheckable(true);
  button->setToolTip(tip);
  button->setFont(scaledFont(0.85));
  button->setProperty("small", true);
  return button;
}

QList<QWidget*> TrackRow::controls() const {
  return {arm_, mute_, solo_, gain_, pan_};
}

void TrackRow::refresh() {
  const Track* track = desk_.session().track(track_);
  if (!track) return;
  const QString name = QString::fromStdString(track->name);
  name_->setText(name);
  QStringList details;
  details << (track->backing ? tr("backing")
                             : tr("%n take(s)", nullptr, static_cast<int>(track->lanes.size())));
  if (track->microphones.size() > 1)
    details << tr("%n mic(s)", nullptr, static_cast<int>(track->microphones.size()));
  if (recording_.recording() && track->armed && desk_.options().hush) details << tr("hushed");
  detail_->setText(details.join(", "));
  for (const auto& [button, what] :
       {std::pair{arm_, tr("Arm %1")}, {mute_, tr("Mute %1")}, {solo_, tr("Solo %1")}})
    button->setAccessibleName(what.arg(name));
  gain_->setAccessibleName(tr("Gain of %1").arg(name));
  pan_->setAccessibleName(tr("Pan of %1").arg(name));
  const int percent = static_cast<int>(std::lround(track->pan.value * 100.0));
  pan_->setToolTip(percent == 0  ? tr("Pan of this track: in the middle.")
                   : percent < 0 ? tr("Pan of this track: %1 % to the left.").arg(-percent)
                                 : tr("Pan of this track: %1 % to the right.").arg(percent));
  panShown_->setText(percent == 0 ? tr("C") : percent < 0 ? tr("L%1").arg(-percent) : tr("R%1").arg(percent));
  if (!panEdit_->held()) {
    const QSignalBlocker quietly(pan_);
    pan_->setValue(percent);
  }
  arm_->setVisible(!track->backing);
  arm_->setChecked(track->armed);
  arm_->setEnabled(!recording_.recording());
  mute_->setChecked(track->muted);
  solo_->setChecked(track->soloed);
  if (!gainEdit_->held()) {
    const QSignalBlocker quietly(gain_);
    gain_->setValue(static_cast<int>(std::lround(track->gain.value * 10.0)));
  }
  update();
}

void TrackRow::feed(int trackIndex) {
  const Track* track = desk_.session().track(track_);
  if (!track) return;
  const float played = transport_.engine().takeTrackPeak(trackIndex);
  // An armed track shows what comes in.
  meter_->feed(track->armed ? device_.inputPeak(*track) : played);
}

void TrackRow::mousePressEvent(QMouseEvent* event) {
  if (event->modifiers() & Qt::ControlModifier)
    inHand_.takeTrackAlong(track_);
  else if (event->modifiers() & Qt::ShiftModifier)
    inHand_.takeTracksUpTo(track_);
  else if (event->button() == Qt::LeftButton)
    inHand_.takeTrack(track_);
  gesture_.press(event->globalPosition().toPoint(), event->button());
}

void TrackRow::mouseMoveEvent(QMouseEvent* event) {
  const QPoint at = event->globalPosition().toPoint();
  if (const auto step = gesture_.move(at, event->buttons()); step != PointerGesture::Step::None)
    emit dragged(step, at);
}

void TrackRow::mouseReleaseEvent(QMouseEvent* event) {
  if (gesture_.release(event->button()) == PointerGesture::Step::Ends)
    emit dragged(PointerGesture::Step::Ends, event->globalPosition().toPoint());
}

void TrackRow::mouseDoubleClickEvent(QMouseEvent* event) {
  if (name_->geometry().contains(event->pos())) rename();
}

void TrackRow::contextMenuEvent(QContextMenuEvent* event) {
  // Of several in hand, the menu is about all of them.
  if (meant().size() < 2) inHand_.takeTrack(track_);
  emit menuAsked(event->globalPos());
}

void TrackRow::rename() {
  const Track* track = desk_.session().track(track_);
  if (typed_ || !track || !desk_.mayWrite()) return;
  typed_ = new QLineEdit(QString::fromStdString(track->name), this);
  typed_->setAccessibleName(tr("Name of the track"));
  typed_->setGeometry(QRect(6, 2, width() - 12, std::max(24, name_->height() + 6)));
  typed_->show();
  typed_->setFocus();
  typed_->selectAll();
  connect(typed_, &QLineEdit::editingFinished, this, [this] { endRenaming(true); });
}

void TrackRow::endRenaming(bool keep) {
  if (!typed_) return;
  QLineEdit* field = std::exchange(typed_, nullptr);
  const std::string name = field->text().trimmed().toStdString();
  field->deleteLater();
  const Track* track = desk_.session().track(track_);
  if (keep && track && field->isModified() && name != track->name)
    desk_.apply(tr("Rename a track"), [&](const Session& s) { return renameTrack(s, track_, name); });
}

void TrackRow::setCompact(bool compact) {
  levels_->setVisible(!compact);
}

void TrackRow::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const Track* inHand = inHand_.track();
  const bool here = inHand && inHand->id == track_;
  const auto all = inHand_.tracksInHand();
  const bool along = !here && std::find(all.begin(), all.end(), track_) != all.end();
  painter.setPen(QPen(here || along ? theme().inHand : theme().line,
                      here    ? 2
                      : along ? 1.5
                              : 1,
                      along ? Qt::DashLine : Qt::SolidLine));
  painter.setBrush(theme().surface);
  painter.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 7, 7);
  if (here) painter.fillRect(QRectF(3, 10, 4, height() - 20), theme().inHand);
}

TrackList::TrackList(SessionDesk& desk, InHand& inHand, Transport& transport, DeviceDesk& device,
                     RecordingDesk& recording, QWidget* parent)
    : QScrollArea(parent),
      desk_(desk),
      inHand_(inHand),
      transport_(transport),
      device_(device),
      recording_(recording),
      held_(desk) {
  setAccessibleName(tr("Tracks"));
  setFrameShape(QFrame::NoFrame);
  setWidgetResizable(true);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  content_ = new QWidget;
  column_ = new QVBoxLayout(content_);
  column_->setContentsMargins(0, 0, 2, 0);
  column_->setSpacing(4);
  column_->addStretch(1);
  setWidget(content_);
  setAcceptDrops(true);
  connect(&desk, &SessionDesk::changed, this, &TrackList::rebuild);
  connect(&inHand, &InHand::changed, this, &TrackList::rebuild);
  connect(&transport, &Transport::changed, this, &TrackList::rebuild);
  connect(&transport, &Transport::moved, this, &TrackList::feed);
  rebuild();
}

void TrackList::rebuild() {
  const auto& tracks = desk_.session().tracks;
  const bool same =
      std::equal(rows_.begin(), rows_.end(), tracks.begin(), tracks.end(),
                 [](const TrackRow* row, const auto& track) { return row->track() == track->id; });
  if (!same) arrangeRows();
  for (TrackRow* row : rows_) {
    row->setCompact(rows_.size() > many && row->track() != inHand_.trackId());
    row->refresh();
  }
  if (std::exchange(shown_, inHand_.trackId()) == inHand_.trackId()) return;
  for (TrackRow* row : rows_)
    if (row->track() == shown_)
      QMetaObject::invokeMethod(
          this,
          [this, row = QPointer(row)] {
            if (row) ensureWidgetVisible(row, 0, 20);
          },
          Qt::QueuedConnection);
}

/// A row for every track, in their order; the row of a track that is still there stays, since the mouse may
/// hold it.
void TrackList::arrangeRows() {
  std::map<TrackId, TrackRow*> known;
  for (TrackRow* row : rows_) {
    column_->removeWidget(row);
    known.emplace(row->track(), row);
  }
  rows_.clear();
  for (const auto& track : desk_.session().tracks) {
    const auto found = known.extract(track->id);
    TrackRow* row = found ? found.mapped() : nullptr;
    if (!row) {
      row = new TrackRow(desk_, inHand_, transport_, device_, recording_, track->id, content_);
      connect(row, &TrackRow::menuAsked, this, &TrackList::menuAsked);
      connect(row, &TrackRow::dragged, this,
              [this, row](PointerGesture::Step step, QPoint global) { dragRow(row, step, global); });
    }
    rows_.push_back(row);
    column_->insertWidget(column_->count() - 1, row);
  }
  for (const auto& [id, row] : known) {
    row->hide();
    row->deleteLater();
  }
  QWidget* before = nullptr;
  for (const TrackRow* row : rows_)
    for (QWidget* each : row->controls())
      if (QWidget* const last = std::exchange(before, each)) setTabOrder(last, each);
}

/// The track goes where the pointer is, and the others make room at once.
void TrackList::dragRow(TrackRow* row, PointerGesture::Step step, QPoint global) {
  if (step == PointerGesture::Step::Begins) {
    if (recording_.recording()) return emit refused(tr("This is being recorded: stop first, then drag."));
    if (!desk_.mayWrite()) return;
    dragged_ = row->track();
    held_.begin(tr("Move a track"), [this](HeldEdit::Ended) { dragged_.reset(); });
  }
  if (dragged_ != row->track()) return;
  if (step == PointerGesture::Step::Ends) {
    dragged_.reset();
    return held_.keep();
  }
  const int y = content_->mapFromGlobal(global).y();
  const auto above = std::count_if(rows_.begin(), rows_.end(), [&](const TrackRow* other) {
    return other != row && other->geometry().center().y() < y;
  });
  held_.show([id = row->track(), place = static_cast<int>(above) + 1](const Session& s) {
    return s.track(id) ? placeTrack(s, id, place) : s;
  });
  column_->activate();
  ensureWidgetVisible(row, 0, 20);
}

void TrackList::hideEvent(QHideEvent* event) {
  if (dragged_) desk_.keepHeld();
  QScrollArea::hideEvent(event);
}

void TrackList::rename(TrackId track) {
  for (TrackRow* row : rows_)
    if (row->track() == track) {
      ensureWidgetVisible(row);
      row->rename();
    }
}

void TrackList::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void TrackList::dragMoveEvent(QDragMoveEvent* event) {
  event->acceptProposedAction();
}

void TrackList::dropEvent(QDropEvent* event) {
  const QStringList files = localFiles(*event->mimeData());
  if (files.isEmpty()) return emit refused(tr("Only files from this computer can be dropped here."));
  event->acceptProposedAction();
  std::optional<TrackId> into;
  for (const TrackRow* row : rows_)
    if (row->rect().contains(row->mapFrom(this, event->position().toPoint()))) into = row->track();
  emit filesDropped(files, into);
}

void TrackList::feed() {
  for (std::size_t i = 0; i < rows_.size(); ++i) rows_[i]->feed(static_cast<int>(i));
}

}  // namespace yewdrift::app
