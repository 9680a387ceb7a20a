// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/setup_bench.h"

#include <QHeaderView>
#include <QLocale>
#include <QVBoxLayout>

#include "app/look/flow_layout.h"
#include "app/look/spoken.h"
#include "app/look/widgets.h"
#include "core/edit/edit.h"
#include "core/error.h"

namespace yewdrift::app {
namespace {

QHBoxLayout* labelled(const QString& text, QWidget* field) {
  auto* row = new QHBoxLayout;
  auto* label = faintLabel(text);
  label->setMinimumWidth(std::max(84, label->sizeHint().width()));
  row->addWidget(label);
  row->addWidget(field, 1);
  return row;
}

}  // namespace

TrackBench::TrackBench(SessionDesk& desk, InHand& inHand, RecordingDesk& recording, QWidget* parent)
    : QWidget(parent), desk_(desk), inHand_(inHand), recording_(recording) {
  name_ = new QLineEdit;
  name_->setAccessibleName(tr("Name of the track"));
  connect(name_, &QLineEdit::editingFinished, this, &TrackBench::rename);
  monitoring_ = new QComboBox;
  monitoring_->addItems({tr("off"), tr("always, while armed"), tr("automatic: only where it records")});
  monitoring_->setAccessibleName(tr("Monitoring"));
  monitoring_->setToolTip(
      tr("Whether the player hears their own input through Yewdrift. Automatic follows the punch to the "
         "frame."));
  connect(monitoring_, &QComboBox::activated, this, [this](int index) {
    desk_.apply(tr("Set monitoring"), [this, index](const Session& s) {
      return setMonitoring(s, shown_, static_cast<Monitoring>(index));
    });
  });
  into_ = new QComboBox;
  into_->setAccessibleName(tr("Passes go into"));
  into_->setToolTip(
      tr("Record into a chosen lane: it plays the new pass where that is, and keeps the rest."));
  connect(into_, &QComboBox::activated, this, [this](int index) {
    const int lane = into_->itemData(index).toInt();
    desk_.apply(tr("Choose where passes go"), [&](const Session& s) {
      return setRecordInto(s, shown_, lane > 0 ? std::optional(LaneNumber{lane}) : std::nullopt);
    });
  });
  microphones_ = new PlainTable({tr("Microphone"), tr("Input"), tr("Channels"), tr("Gain"), tr("Pan")},
                                tr("Microphones of the track"), 28);
  microphones_->setColumnWidth(0, 170);
  connect(microphones_, &QTableWidget::cellChanged, this, [this](int row, int column) {
    if (filling_ || column != 0) return;
    const std::string name = microphones_->item(row, 0)->text().trimmed().toStdString();
    changeMicrophones(tr("Rename a microphone"),
                      [&](auto& set) { set.at(static_cast<std::size_t>(row)).name = name; });
  });
  connect(microphones_, &PlainTable::settled, this, &TrackBench::refresh);
  add_ = new QPushButton(tr("Add a microphone"));
  connect(add_, &QPushButton::clicked, this, [this] {
    changeMicrophones(tr("Add a microphone"), [](auto& set) {
      const Microphone last = set.back();
      set.push_back({"Microphone " + std::to_string(set.size() + 1), last.input + last.channels, 1, {}, {}});
    });
  });
  remove_ = new QPushButton(tr("Remove the last"));
  connect(remove_, &QPushButton::clicked, this,
          [this] { changeMicrophones(tr("Remove a microphone"), [](auto& set) { set.pop_back(); }); });
  auto* left = new QVBoxLayout;
  left->addLayout(labelled(tr("Track"), name_));
  left->addLayout(labelled(tr("Monitoring"), monitoring_));
  left->addLayout(labelled(tr("Passes go"), into_));
  left->setSpacing(4);
  left->addStretch(1);
  auto* right = new QVBoxLayout;
  right->setSpacing(4);
  right->addWidget(microphones_, 1);
  auto* buttons = new FlowLayout(6, 4);
  buttons->addWidget(add_);
  buttons->addWidget(remove_);
  right->addLayout(buttons);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(6, 2, 6, 0);
  row->setSpacing(18);
  row->addLayout(left, 2);
  row->addLayout(right, 3);
  connect(&desk, &SessionDesk::changed, this, &TrackBench::refresh);
  connect(&inHand, &InHand::changed, this, &TrackBench::refresh);
  refresh();
}

namespace {

/// An edit of the microphones of that track.
SessionDesk::Edit microphonesEdit(TrackId id, const std::function<void(std::vector<Microphone>&)>& change) {
  return [id, change](const Session& s) {
    const Track* track = s.track(id);
    if (!track) return s;
    std::vector<Microphone> set = track->microphones;
    change(set);
    return set == track->microphones ? s : setMicrophones(s, id, set);
  };
}

}  // namespace

void TrackBench::changeMicrophones(const QString& label, const MicrophoneEdit& change) {
  if (filling_ || !desk_.session().track(shown_)) return;
  desk_.apply(label, microphonesEdit(shown_, change));
  refresh();
}

void TrackBench::rename() {
  const Track* track = desk_.session().track(shown_);
  if (filling_ || !name_->isModified() || !track) return;
  const std::string name = name_->text().trimmed().toStdString();
  name_->setModified(false);
  if (name != track->name)
    desk_.apply(tr("Rename a track"), [&](const Session& s) { return renameTrack(s, shown_, name); });
  refresh();
}

void TrackBench::fillRow(int row, const Microphone& microphone, bool fixed) {
  const auto index = static_cast<std::size_t>(row);
  const TrackId id = shown_;
  const QString name =
      QString::fromStdString(microphone.name.empty() ? desk_.session().track(id)->name : microphone.name);
  Row made;
  // Stepped through and heard meanwhile; one step once it is left alone.
  const auto edited = [&](auto* field, const QString& label, auto set) {
    auto* edit = new FieldEdit(desk_, field, label, [this] { refresh(); });
    made.edits.push_back(edit);
    return [this, id, index, edit, set](auto value) {
      if (filling_) return;
      edit->show(microphonesEdit(id, [=](auto& all) {
        if (index < all.size()) set(all[index], value);
      }));
    };
  };
  made.input = new QSpinBox;
  made.input->setRange(1, 256);
  made.input->setAccessibleName(tr("Input of %1").arg(name));
  connect(made.input, &QSpinBox::valueChanged, this,
          edited(made.input, tr("Choose an input"), [](Microphone& m, int value) { m.input = value - 1; }));
  made.channels = new QComboBox;
  made.channels->addItems({tr("mono"), tr("stereo")});
  made.channels->setEnabled(!fixed);
  made.channels->setAccessibleName(tr("Channels of %1").arg(name));
  connect(made.channels, &QComboBox::activated, this, [this, index](int value) {
    changeMicrophones(tr("Choose the channels"), [&](auto& set) { set.at(index).channels = value + 1; });
  });
  made.gain = new QDoubleSpinBox;
  made.gain->setRange(-60, 24);
  made.gain->setDecimals(1);
  made.gain->setSuffix(tr(" dB"));
  made.gain->setAccessibleName(tr("Gain of %1").arg(name));
  connect(made.gain, &QDoubleSpinBox::valueChanged, this,
          edited(made.gain, tr("Set a gain"), [](Microphone& m, double value) { m.gain = {value}; }));
  made.pan = new QSpinBox;
  made.pan->setRange(-100, 100);
  made.pan->setAccessibleName(tr("Pan of %1").arg(name));
  made.pan->setToolTip(tr("-100 is left, 100 is right"));
  connect(made.pan, &QSpinBox::valueChanged, this,
          edited(made.pan, tr("Set a pan"), [](Microphone& m, int value) { m.pan = {value / 100.0}; }));
  microphones_->setItem(row, 0, new QTableWidgetItem);
  int column = 1;
  for (QWidget* each : std::initializer_list<QWidget*>{made.input, made.channels, made.gain, made.pan}) {
    if (auto* box = qobject_cast<QAbstractSpinBox*>(each)) box->setKeyboardTracking(false);
    microphones_->setCellWidget(row, column++, each);
  }
  rows_.push_back(std::move(made));
}

void TrackBench::showRow(int row, const Microphone& microphone) {
  const Row& fields = rows_[static_cast<std::size_t>(row)];
  if (!microphones_->typing()) microphones_->item(row, 0)->setText(QString::fromStdString(microphone.name));
  const auto show = [](auto* box, auto value) {
    if (!beingTyped(*box) && box->value() != value) box->setValue(value);
  };
  show(fields.input, microphone.input + 1);
  fields.channels->setCurrentIndex(microphone.channels - 1);
  show(fields.gain, microphone.gain.value);
  show(fields.pan, static_cast<int>(std::lround(microphone.pan.value * 100)));
}

void TrackBench::fillMicrophones(const Track& track) {
  // Rows are made anew only for another set: a field that is being typed in must stay.
  if (shownRows_ != track.microphones.size()) {
    shownRows_ = track.microphones.size();
    rows_.clear();
    microphones_->setRowCount(0);
    microphones_->verticalHeader()->setDefaultSectionSize(
        std::max({28, QDoubleSpinBox().sizeHint().height() + 1, QComboBox().sizeHint().height() + 1}));
    microphones_->setRowCount(static_cast<int>(shownRows_));
    for (std::size_t i = 0; i < shownRows_; ++i)
      fillRow(static_cast<int>(i), track.microphones[i], !track.lanes.empty());
  }
  for (std::size_t i = 0; i < shownRows_; ++i) {
    rows_[i].channels->setEnabled(track.lanes.empty());
    showRow(static_cast<int>(i), track.microphones[i]);
  }
}

void TrackBench::refresh() {
  const Track* track = inHand_.track();
  setEnabled(track != nullptr && !recording_.recording());
  if (!track) return;
  if (shown_ != track->id) {
    // What was typed for another track is that track's.
    rename();
    shown_ = track->id;
    shownRows_ = 0;
    name_->setModified(false);
  }
  filling_ = true;
  if (!name_->isModified()) name_->setText(QString::fromStdString(track->name));
  monitoring_->setCurrentIndex(static_cast<int>(track->monitoring));
  into_->clear();
  into_->addItem(tr("into new lanes"), 0);
  for (const auto& lane : track->lanes) {
    into_->addItem(tr("into lane %1, %2").arg(lane->number.value).arg(QString::fromStdString(lane->name)),
                   lane->number.value);
    if (track->recordInto == lane->number) into_->setCurrentIndex(into_->count() - 1);
  }
  add_->setEnabled(track->lanes.empty());
  remove_->setEnabled(track->lanes.empty() && track->microphones.size() > 1);
  add_->setToolTip(track->lanes.empty() ? tr("Recorded together and edited as one.")
                                        : tr("This track has takes already; their microphones stay."));
  fillMicrophones(*track);
  filling_ = false;
}

SongBench::SongBench(SessionDesk& desk, Transport& transport, QWidget* parent)
    : QWidget(parent), desk_(desk), transport_(transport) {
  facts_ = new QLabel;
  facts_->setWordWrap(true);
  facts_->setTextFormat(Qt::RichText);
  facts_->setMinimumWidth(180);
  facts_->setMaximumWidth(420);
  facts_->setAlignment(Qt::AlignTop);
  tempo_ = new PlainTable({tr("From bar"), tr("Beats a minute"), tr("Meter")}, tr("Tempo and meter"), 28);
  tempo_->setColumnWidth(0, 90);
  tempo_->setColumnWidth(1, 130);
  connect(tempo_, &QTableWidget::cellChanged, this, &SongBench::type);
  connect(tempo_, &PlainTable::removalAsked, this, &SongBench::remove);
  connect(tempo_, &PlainTable::settled, this, &SongBench::refresh);
  auto* more = new QPushButton(tr("Add a change at the playhead"));
  connect(more, &QPushButton::clicked, this, &SongBench::add);
  auto* less = new QPushButton(tr("Remove selected"));
  connect(less, &QPushButton::clicked, this, &SongBench::remove);
  auto* hint = new QLabel(tr("What is recorded stays where it is in time; bars move over it."));
  hint->setObjectName("faint");
  hint->setWordWrap(true);
  auto* side = new QVBoxLayout;
  side->addWidget(more);
  side->addWidget(less);
  side->addWidget(hint);
  side->addStretch(1);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(6, 2, 6, 0);
  row->setSpacing(18);
  row->addWidget(facts_, 1);
  row->addWidget(tempo_, 1);
  row->addLayout(side);
  connect(&desk, &SessionDesk::changed, this, &SongBench::refresh);
  refresh();
}

void SongBench::refresh() {
  const Session& session = desk_.session();
  const QString format = session.format == SampleFormat::Pcm16   ? tr("16-bit PCM")
                         : session.format == SampleFormat::Pcm24 ? tr("24-bit PCM")
                                                                 : tr("32-bit float");
  facts_->setText(tr("<b>%1</b><br>%2 Hz, records %3<br>%4")
                      .arg(QString::fromStdString(session.name).toHtmlEscaped())
                      .arg(session.rate.hertz)
                      .arg(format, QString::fromStdString(desk_.folderPath().string()).toHtmlEscaped()));
  if (tempo_->typing()) return;
  filling_ = true;
  const auto& changes = session.tempo.changes();
  shown_ = {changes.begin(), changes.end()};
  tempo_->setRowCount(static_cast<int>(changes.size()));
  for (int row = 0; row < tempo_->rowCount(); ++row) {
    const TempoChange& change = changes[static_cast<std::size_t>(row)];
    auto* bar = new QTableWidgetItem(QString::number(change.bar));
    if (row == 0) bar->setFlags(Qt::ItemIsSelectable | Qt::ItemIsEnabled);
    tempo_->setItem(row, 0, bar);
    tempo_->setItem(
        row, 1,
        new QTableWidgetItem(QLocale().toString(change.beatsPerMinute, 'g', QLocale::FloatingPointShortest)));
    tempo_->setItem(row, 2,
                    new QTableWidgetItem(QString("%1/%2").arg(change.meter.beats).arg(change.meter.unit)));
  }
  filling_ = false;
}

void SongBench::type(int row, int) {
  if (filling_) return;
  const TempoChange before = shown_.at(static_cast<std::size_t>(row));
  desk_.apply(tr("Set the tempo"), [&](Session session) {
    const auto& now = session.tempo.changes();
    if (std::find(now.begin(), now.end(), before) == now.end())
      throw refusal(tr("That change of tempo is another by now; type it again."));
    TempoChange change;
    change.bar = QLocale().toInt(tempo_->item(row, 0)->text());
    change.beatsPerMinute = typedNumber(tempo_->item(row, 1)->text()).value_or(0.0);
    change.meter = parseMeter(tempo_->item(row, 2)->text().trimmed().toStdString());
    if (change.bar != before.bar) session = removeTempoChange(std::move(session), before.bar);
    return setTempoChange(std::move(session), change);
  });
  refresh();
}

void SongBench::add() {
  const Ruler ruler = desk_.ruler();
  desk_.apply(tr("Add a tempo change"), [&](const Session& session) {
    const int bar = ruler.tempo.positionOf(transport_.state().position, ruler.rate).bar;
    TempoChange change = ruler.tempo.changeAt(bar);
    if (change.bar == bar) throw refusal(tr("There is a change at this bar already; type its new tempo."));
    change.bar = bar;
    return setTempoChange(session, change);
  });
}

void SongBench::remove() {
  const int row = tempo_->currentRow();
  if (row < 0) return;
  const int bar = shown_.at(static_cast<std::size_t>(row)).bar;
  desk_.apply(tr("Remove a tempo change"), [bar](const Session& s) { return removeTempoChange(s, bar); });
}

}  // namespace yewdrift::app
