// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/options_bench.h"

#include <QVBoxLayout>

#include "app/look/widgets.h"

namespace yewdrift::app {
namespace {

QHBoxLayout* line(std::initializer_list<QWidget*> parts) {
  auto* row = new QHBoxLayout;
  row->setSpacing(6);
  for (QWidget* part : parts) row->addWidget(part);
  row->addStretch(1);
  return row;
}

}  // namespace

OptionsBench::OptionsBench(SessionDesk& desk, Transport& transport, RecordingDesk& recording, QWidget* parent)
    : QWidget(parent), desk_(desk), transport_(transport), recording_(recording) {
  sentence_ = new QLabel;
  sentence_->setWordWrap(true);
  sentence_->setAccessibleName(tr("What will be recorded"));
  preRoll_ =
      lengthField(tr("Pre-roll"), tr("So much plays before it records. Placing the playhead further before "
                                     "the loop or the punch does the same."));
  postRoll_ =
      lengthField(tr("Post-roll"), tr("So much is played after the end, and captured in the handle."));
  countIn_ = count(tr("Count-in"), 0, 16, tr("Bars of click before anything plays."));
  passes_ = count(tr("Times round"), 0, 999, tr("With a loop: stops after so many times round."));
  passes_->setSpecialValueText(tr("until I stop"));
  result_ = choice(tr("Each pass"),
                   {tr("makes a new lane"), tr("replaces what plays there"), tr("is heard on top")},
                   tr("What a pass does to the composite. No earlier audio is ever touched."));
  hush_ = choice(tr("Earlier takes"), {tr("are hushed where it records"), tr("are heard too")},
                 tr("Whether you hear the old take while you record over its place."));
  playBack_ =
      check(tr("every second time round plays back"),
            tr("After a pass round the loop, the next time round plays it to you instead of recording."));
  safeReview_ = check(tr("after a punch pass, playing only plays"),
                      tr("Automatic punch stands down after a pass, so that listening never records again."));
  setAside_ =
      check(tr("set empty and broken-off passes aside"),
            tr("The last pass, stopped early with nothing played, and false starts. They can be brought "
               "back above the takes."));
  clickRecording_ = check(tr("when recording"), tr("The click sounds in rolls that record."));
  clickPlaying_ =
      check(tr("when playing"),
            tr("The click sounds in rolls that only play. Y switches both. A count-in always clicks."));
  accent_ = check(tr("accent"), tr("The first beat of a bar is told apart."));
  clickLevel_ = new QSlider(Qt::Horizontal);
  clickLevel_->setRange(-40, 6);
  clickLevel_->setFixedWidth(90);
  clickLevel_->setAccessibleName(tr("Level of the click"));
  connect(clickLevel_, &QSlider::valueChanged, this, &OptionsBench::change);
  clickLevel_->setToolTip(tr("Level of the click, -40 to +6 dB. It is never recorded."));
  backUp_ =
      seconds(tr("Back up"), tr("How far back up and pick up (Backspace) goes back before the playhead."));
  lead_ = seconds(tr("Lead-in"), tr("How much it plays before it records on."));
  snap_ = choice(tr("Snap to"),
                 {tr("nothing"), tr("bars"), tr("beats"), tr("parts of a beat"), tr("phrase edges"),
                  tr("zero crossings")},
                 tr("Where dragged edges land. Comma is finer, full stop is coarser; Alt suspends it."));
  divisions_ = count(tr("Parts of a beat"), 2, 16, tr("How many parts a beat is divided in."));
  grid_ = check(tr("show bars"), tr("Off: minutes and seconds only, for work without a grid."));

  auto* left = new QVBoxLayout;
  left->addLayout(
      line({faintLabel(tr("Pre-roll")), preRoll_.amount, preRoll_.unit, faintLabel(tr("Count-in")), countIn_,
            faintLabel(tr("Post-roll")), postRoll_.amount, postRoll_.unit}));
  left->addLayout(line({faintLabel(tr("Each pass")), result_, faintLabel(tr("Times round")), passes_}));
  left->addLayout(line({faintLabel(tr("Earlier takes")), hush_, playBack_}));
  auto* right = new QVBoxLayout;
  left->setSpacing(4);
  right->setSpacing(4);
  right->addLayout(line({faintLabel(tr("Click")), clickRecording_, clickPlaying_, accent_, clickLevel_,
                         faintLabel(tr("Snap to")), snap_, divisions_}));
  right->addLayout(line({faintLabel(tr("Back up")), backUp_, faintLabel(tr("lead-in")), lead_, grid_}));
  right->addLayout(line({safeReview_, setAside_}));
  auto* columns = new QHBoxLayout;
  columns->setSpacing(24);
  columns->addLayout(left);
  columns->addLayout(right);
  columns->addStretch(1);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(6, 2, 6, 0);
  column->setSpacing(4);
  column->addWidget(sentence_);
  column->addLayout(columns);
  column->addStretch(1);
  connect(&desk, &SessionDesk::changed, this, &OptionsBench::refresh);
  connect(&transport, &Transport::changed, this, &OptionsBench::refresh);
  connect(&transport, &Transport::moved, this, &OptionsBench::refresh);
}

OptionsBench::Length OptionsBench::lengthField(const QString& name, const QString& tip) {
  Length field;
  field.amount = new QDoubleSpinBox;
  field.amount->setRange(0, 1000);
  field.amount->setDecimals(1);
  field.amount->setSingleStep(1);
  field.amount->setFixedWidth(68);
  field.amount->setAccessibleName(name);
  field.amount->setToolTip(tip);
  field.unit = new QComboBox;
  field.unit->addItems({tr("bars"), tr("seconds")});
  field.unit->setAccessibleName(tr("%1 in").arg(name));
  field.unit->setToolTip(tip);
  connect(field.amount, &QDoubleSpinBox::valueChanged, this, &OptionsBench::change);
  connect(field.unit, &QComboBox::currentIndexChanged, this, &OptionsBench::change);
  return field;
}

QCheckBox* OptionsBench::check(const QString& text, const QString& tip) {
  auto* made = new QCheckBox(text);
  made->setToolTip(tip);
  connect(made, &QCheckBox::toggled, this, &OptionsBench::change);
  return made;
}

QComboBox* OptionsBench::choice(const QString& name, const QStringList& choices, const QString& tip) {
  auto* made = new QComboBox;
  made->addItems(choices);
  made->setAccessibleName(name);
  made->setToolTip(tip);
  connect(made, &QComboBox::currentIndexChanged, this, &OptionsBench::change);
  return made;
}

QSpinBox* OptionsBench::count(const QString& name, int least, int most, const QString& tip) {
  auto* made = new QSpinBox;
  made->setRange(least, most);
  made->setAccessibleName(name);
  made->setToolTip(tip);
  connect(made, &QSpinBox::valueChanged, this, &OptionsBench::change);
  return made;
}

QDoubleSpinBox* OptionsBench::seconds(const QString& name, const QString& tip) {
  auto* made = new QDoubleSpinBox;
  made->setRange(0, 60);
  made->setDecimals(1);
  made->setSuffix(tr(" s"));
  made->setAccessibleName(name);
  made->setToolTip(tip);
  connect(made, &QDoubleSpinBox::valueChanged, this, &OptionsBench::change);
  return made;
}

void OptionsBench::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  refresh();
}

void OptionsBench::refresh() {
  if (!isVisible()) return;
  const QString sentence = recording_.sentence();
  if (sentence_->text() != sentence) sentence_->setText(sentence);
  const RecordingOptions& options = desk_.options();
  filling_ = true;
  auto show = [](const Length& field, MusicalLength length) {
    if (!field.amount->hasFocus()) field.amount->setValue(length.amount);
    field.unit->setCurrentIndex(length.unit == LengthUnit::Bars ? 0 : 1);
  };
  auto number = [](auto* box, auto value) {
    if (!box->hasFocus()) box->setValue(value);
  };
  show(preRoll_, options.preRoll);
  show(postRoll_, options.postRoll);
  number(countIn_, options.countInBars);
  countIn_->setSuffix(options.countInBars == 1 ? tr(" bar") : tr(" bars"));
  number(passes_, options.passes);
  number(backUp_, options.backUpSeconds);
  number(lead_, options.leadSeconds);
  number(divisions_, options.divisions);
  result_->setCurrentIndex(static_cast<int>(options.result));
  hush_->setCurrentIndex(options.hush ? 0 : 1);
  playBack_->setChecked(options.playBack);
  safeReview_->setChecked(options.safeReview);
  setAside_->setChecked(options.setAside);
  clickRecording_->setChecked(options.click.recording);
  clickPlaying_->setChecked(options.click.playing);
  accent_->setChecked(options.click.accent);
  if (!clickLevel_->isSliderDown()) clickLevel_->setValue(static_cast<int>(options.click.level.value));
  snap_->setCurrentIndex(static_cast<int>(options.snap));
  divisions_->setVisible(options.snap == Snap::Division);
  grid_->setChecked(options.grid);
  filling_ = false;
}

void OptionsBench::change() {
  if (filling_) return;
  RecordingOptions options = desk_.options();
  auto length = [](const Length& field) {
    return MusicalLength{field.amount->value(),
                         field.unit->currentIndex() == 0 ? LengthUnit::Bars : LengthUnit::Seconds};
  };
  options.preRoll = length(preRoll_);
  options.postRoll = length(postRoll_);
  options.countInBars = countIn_->value();
  options.passes = passes_->value();
  options.result = static_cast<PassResult>(result_->currentIndex());
  options.hush = hush_->currentIndex() == 0;
  options.playBack = playBack_->isChecked();
  options.safeReview = safeReview_->isChecked();
  options.setAside = setAside_->isChecked();
  options.click = {clickRecording_->isChecked(),
                   clickPlaying_->isChecked(),
                   accent_->isChecked(),
                   {static_cast<double>(clickLevel_->value())}};
  options.backUpSeconds = backUp_->value();
  options.leadSeconds = lead_->value();
  options.snap = static_cast<Snap>(snap_->currentIndex());
  options.divisions = divisions_->value();
  options.grid = grid_->isChecked();
  desk_.setOptions(options);
}

}  // namespace yewdrift::app
