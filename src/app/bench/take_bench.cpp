// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/take_bench.h"

#include <QFormLayout>
#include <QHBoxLayout>
#include <QVBoxLayout>

#include "app/look/widgets.h"
#include "core/session/limits.h"

namespace yewdrift::app {

TakeBench::TakeBench(SessionDesk& desk, InHand& inHand, Transport& transport, ListeningDesk& listening,
                     const QList<QAction*>& actions, QWidget* parent)
    : QWidget(parent), desk_(desk), inHand_(inHand), transport_(transport), listening_(listening) {
  name_ = new QLineEdit;
  name_->setAccessibleName(tr("Name of the take"));
  connect(name_, &QLineEdit::editingFinished, this, &TakeBench::keepTyped);
  note_ = new QLineEdit;
  note_->setAccessibleName(tr("Note on the take"));
  note_->setPlaceholderText(tr("Microphone, settings, impression"));
  connect(note_, &QLineEdit::editingFinished, this, &TakeBench::keepTyped);
  rating_ = new QComboBox;
  rating_->setAccessibleName(tr("Rating of the take"));
  rating_->addItem(tr("not rated"));
  for (int rating = 1; rating <= limits::highestRating; ++rating) rating_->addItem(QString::number(rating));
  connect(rating_, &QComboBox::activated, this,
          [this](int rating) { change(tr("Rate a take"), LaneChange{.rating = rating}); });
  palette_ = new QComboBox;
  palette_->setAccessibleName(tr("Colour and mark of the take"));
  palette_->setToolTip(tr("Its colour and mark stay with it wherever its material goes."));
  palette_->addItem(tr("by its number"));
  for (int palette = 1; palette <= limits::palettes; ++palette) palette_->addItem(QString::number(palette));
  connect(palette_, &QComboBox::activated, this,
          [this](int palette) { change(tr("Colour a take"), LaneChange{.palette = palette}); });
  picture_ = new QComboBox;
  picture_->setAccessibleName(tr("The lane shows"));
  picture_->setToolTip(tr(
      "Over its wave: where things begin; how loud it is, over the upper 60 dB; or how high, with all takes "
      "that show it over one range, and a dotted line for each semitone where there is room."));
  picture_->addItems({tr("waveform"), tr("onsets"), tr("level"), tr("pitch")});
  connect(picture_, &QComboBox::activated, this, [this](int picture) {
    change(tr("Choose what a lane shows"), LaneChange{.picture = static_cast<LanePicture>(picture)});
  });
  muted_ = new QCheckBox(tr("Silent where the composite plays it"));
  connect(muted_, &QCheckBox::clicked, this,
          [this](bool on) { change(tr("Mute a take"), LaneChange{.muted = on}); });
  gain_ = stepped(tr("Gain of the take"), tr("Set a take's gain"), -60.0, 24.0,
                  [](LaneChange& c, double value) { c.gain = Decibels{value}; });
  gain_->setSuffix(tr(" dB"));
  gain_->setSingleStep(0.5);
  pitch_ = stepped(tr("Pitch of the take"), tr("Set a take's pitch"), -limits::widestPitch.value,
                   limits::widestPitch.value, [](LaneChange& c, double value) { c.pitch = Cents{value}; });
  pitch_->setSuffix(tr(" cents"));
  pitch_->setToolTip(
      tr("A hundred cents are a semitone. The take is shifted in the background and plays plain until "
         "that is done."));
  state_ = faintLabel({});
  state_->setAccessibleName(tr("State of the take"));
  state_->setWordWrap(true);

  const auto form = [] {
    auto* made = new QFormLayout;
    made->setSpacing(4);
    made->setRowWrapPolicy(QFormLayout::WrapLongRows);
    return made;
  };
  auto* left = form();
  left->addRow(tr("Take"), name_);
  left->addRow(tr("Note"), note_);
  left->addRow(tr("Rating"), rating_);
  auto* middle = form();
  middle->addRow(tr("Gain"), gain_);
  middle->addRow(tr("Pitch"), pitch_);
  middle->addRow(muted_);
  auto* right = form();
  right->addRow(tr("Colour"), palette_);
  right->addRow(tr("Shows"), picture_);
  right->addRow(state_);
  auto* row = new QHBoxLayout;
  row->setSpacing(18);
  row->addLayout(left, 3);
  row->addLayout(middle, 2);
  row->addLayout(right, 2);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(6, 2, 6, 0);
  column->setSpacing(6);
  column->addLayout(row);
  column->addLayout(buttonRow(actions));
  column->addStretch(1);
  connect(&desk, &SessionDesk::changed, this, &TakeBench::refresh);
  connect(&inHand, &InHand::changed, this, &TakeBench::refresh);
  connect(&transport, &Transport::changed, this, &TakeBench::refresh);
  connect(&listening, &ListeningDesk::changed, this, &TakeBench::refresh);
  refresh();
}

QDoubleSpinBox* TakeBench::stepped(const QString& name, const QString& label, double lowest, double highest,
                                   const std::function<void(LaneChange&, double)>& set) {
  auto* field = new QDoubleSpinBox;
  field->setRange(lowest, highest);
  field->setDecimals(1);
  field->setAccessibleName(name);
  auto* edit = new FieldEdit(desk_, field, label, [this] { refresh(); });
  edits_.push_back(edit);
  connect(field, &QDoubleSpinBox::valueChanged, this, [this, edit, set](double value) {
    if (filling_) return;
    edit->show([id = track_, number = shown_, set, value](const Session& session) {
      const Track* track = session.track(id);
      if (!track || !track->lane(number)) return session;
      LaneChange change;
      set(change, value);
      return changeLane(session, id, number, change);
    });
  });
  return field;
}

const Lane* TakeBench::lane() const {
  const Track* track = inHand_.track();
  if (!track || listening_.hidesNames()) return nullptr;
  if (const auto heard = inHand_.heardLane()) return track->lane(*heard);
  const Lane* newest = nullptr;
  for (const auto& each : track->lanes)
    if (!each->setAside && (!newest || newest->number < each->number)) newest = &*each;
  return newest;
}

void TakeBench::change(const QString& label, const LaneChange& wanted) {
  const Track* track = desk_.session().track(track_);
  if (filling_ || !track || !track->lane(shown_)) return;
  desk_.apply(label, [&](const Session& session) { return changeLane(session, track_, shown_, wanted); });
  refresh();
}

void TakeBench::keepTyped() {
  if (filling_) return;
  if (name_->isModified()) {
    name_->setModified(false);
    change(tr("Rename a take"), LaneChange{.name = name_->text().trimmed().toStdString()});
  }
  if (note_->isModified()) {
    note_->setModified(false);
    change(tr("Note on a take"), LaneChange{.note = note_->text().toStdString()});
  }
}

void TakeBench::refresh() {
  const Lane* now = lane();
  const bool another = inHand_.trackId() != track_ || (now && now->number != shown_);
  // What is being typed belongs to the take it was begun on.
  if (another) {
    keepTyped();
    now = lane();
  }
  filling_ = true;
  for (QWidget* field :
       std::initializer_list<QWidget*>{name_, note_, rating_, palette_, picture_, muted_, gain_, pitch_})
    field->setEnabled(now != nullptr && desk_.writable());
  if (now) {
    track_ = inHand_.trackId();
    shown_ = now->number;
    if (!name_->isModified()) name_->setText(QString::fromStdString(now->name));
    if (!note_->isModified()) note_->setText(QString::fromStdString(now->note));
    rating_->setCurrentIndex(now->rating);
    palette_->setCurrentIndex(now->palette);
    picture_->setCurrentIndex(static_cast<int>(now->picture));
    muted_->setChecked(now->muted);
    for (const auto& [field, value] : {std::pair{gain_, now->gain.value}, {pitch_, now->pitch.value}})
      if (!beingTyped(*field) || another) field->setValue(value);
  }
  if (!now) {
    for (QLineEdit* field : {name_, note_})
      if (!field->isModified()) field->setText({});
    rating_->setCurrentIndex(0);
    palette_->setCurrentIndex(0);
    picture_->setCurrentIndex(0);
    muted_->setChecked(false);
    for (QDoubleSpinBox* field : {gain_, pitch_}) field->setValue(0.0);
  }
  state_->setText(listening_.hidesNames()       ? tr("You listen blind: it is shown once you have picked.")
                  : !now                        ? tr("There are no takes yet.")
                  : transport_.playsPlain(*now) ? tr("It plays at its own pitch until it is shifted.")
                                                : tr("Lane %1").arg(now->number.value));
  filling_ = false;
}

}  // namespace yewdrift::app
