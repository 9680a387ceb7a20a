// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/options_bench.h"

#include <QVBoxLayout>

#include "app/look/flow_layout.h"
#include "app/look/widgets.h"

namespace yewdrift::app {
OptionsBench::OptionsBench(SessionDesk& desk, Transport& transport, RecordingDesk& recording, QWidget* parent)
    : QWidget(parent), desk_(desk), transport_(transport), recording_(recording) {
  sentence_ = new QLabel;
  sentence_->setWordWrap(true);
  sentence_->setAccessibleName(tr("What will be recorded"));
  preRoll_ =
      lengthField(tr("Pre-roll"),
                  tr("So much plays before it records. Placing the playhead further before the loop or "
                     "the punch does the same."),
                  [](RecordingOptions& o, MusicalLength length) { o.preRoll = length; });
  postRoll_ = lengthField(tr("Post-roll"), tr("So much is played after the end, and captured in the handle."),
                          [](RecordingOptions& o, MusicalLength length) { o.postRoll = length; });
  fillPreRoll_ =
      check(tr("a count-in fills it"),
            tr("Where the song's start leaves no room for all of the pre-roll, a count-in takes its place."),
            [](RecordingOptions& o, bool on) { o.fillPreRoll = on; });
  playOn_ = check(tr("until I stop"),
                  tr("After the last punch-out it plays on until you stop, so that you hear how it goes on."),
                  [](RecordingOptions& o, bool on) { o.playOn = on; });
  keepWhole_ = check(tr("a broken-off pass leaves a whole take in front"),
                     tr("A pass that you stopped early does not play in place of the whole take before it, "
                        "until you pick it."),
                     [](RecordingOptions& o, bool on) { o.keepWhole = on; });
  cue_ = choice(tr("Cue in the ear"), {tr("off"), tr("before punches"), tr("before punches and wraps")},
                tr("A low tick counts the beats to go, for when you play alone. It is never recorded."),
                [](RecordingOptions& o, int which) { o.click.cue = static_cast<Cue>(which); });
  countIn_ = count(tr("Count-in"), 0, 16, tr("Bars of click before anything plays."),
                   [](RecordingOptions& o, int bars) { o.countInBars = bars; });
  passes_ = count(tr("Times round"), 0, 999, tr("With a loop: stops after so many times round."),
                  [](RecordingOptions& o, int passes) { o.passes = passes; });
  passes_->setSpecialValueText(tr("until I stop"));
  result_ = choice(tr("Each pass"),
                   {tr("makes a new lane"), tr("replaces what plays there"), tr("is heard on top")},
                   tr("What a pass does to the composite. No earlier audio is ever touched."),
                   [](RecordingOptions& o, int which) { o.result = static_cast<PassResult>(which); });
  hush_ = choice(tr("Earlier takes"), {tr("are hushed where it records"), tr("are heard too")},
                 tr("Whether you hear the old take while you record over its place."),
                 [](RecordingOptions& o, int which) { o.hush = which == 0; });
  playBack_ =
      check(tr("every second time round plays back"),
            tr("After a pass round the loop, the next time round plays it to you instead of recording."),
            [](RecordingOptions& o, bool on) { o.playBack = on; });
  safeReview_ = check(tr("after a punch pass, playing only plays"),
                      tr("Automatic punch stands down after a pass, so that listening never records again."),
                      [](RecordingOptions& o, bool on) { o.safeReview = on; });
  setAside_ =
      check(tr("set empty passes and false starts aside"),
            tr("The last pass, stopped early with nothing played, and false starts. They can be brought "
               "back above the takes."),
            [](RecordingOptions& o, bool on) { o.setAside = on; });
  clickRecording_ = check(tr("when recording"), tr("The click sounds in rolls that record."),
                          [](RecordingOptions& o, bool on) { o.click.recording = on; });
  clickPlaying_ =
      check(tr("when playing"),
            tr("The click sounds in rolls that only play. Y switches both. A count-in always clicks."),
            [](RecordingOptions& o, bool on) { o.click.playing = on; });
  accent_ = check(tr("accent"), tr("The first beat of a bar is told apart."),
                  [](RecordingOptions& o, bool on) { o.click.accent = on; });
  clickLevel_ = new QSlider(Qt::Horizontal);
  clickLevel_->setRange(-40, 6);
  clickLevel_->setFixedWidth(90);
  clickLevel_->setAccessibleName(tr("Level of the click"));
  connect(clickLevel_, &QSlider::valueChanged, this, [this](int level) {
    change([level](RecordingOptions& o) { o.click.level = {static_cast<double>(level)}; });
  });
  clickLevel_->setToolTip(tr("Level of the click, -40 to +6 dB. It is never recorded."));
  backUp_ =
      seconds(tr("Back up"), tr("How far back up and pick up (Backspace) goes back before the playhead."),
              [](RecordingOptions& o, double amount) { o.backUpSeconds = amount; });
  lead_ = seconds(tr("Lead-in"), tr("How much it plays before it records on."),
                  [](RecordingOptions& o, double amount) { o.leadSeconds = amount; });
  snap_ = choice(tr("Snap to"),
                 {tr("nothing"), tr("bars"), tr("beats"), tr("parts of a beat"), tr("phrase edges"),
                  tr("zero crossings")},
                 tr("Where dragged edges land. Comma is finer, full stop is coarser; Alt suspends it."),
                 [](RecordingOptions& o, int which) { o.snap = static_cast<Snap>(which); });
  divisions_ = count(tr("Parts of a beat"), 2, 16, tr("How many parts a beat is divided in."),
                     [](RecordingOptions& o, int parts) { o.divisions = parts; });
  grid_ = check(tr("show bars"), tr("Off: minutes and seconds only, for work without a grid."),
                [](RecordingOptions& o, bool on) { o.grid = on; });

  auto* all = new FlowLayout;
  for (QWidget* each :
       {group({faintLabel(tr("Pre-roll")), preRoll_.amount, preRoll_.unit, fillPreRoll_}),
        group({faintLabel(tr("Count-in, bars")), countIn_}),
        group({faintLabel(tr("Post-roll")), postRoll_.amount, postRoll_.unit, playOn_}),
        group({faintLabel(tr("Cue")), cue_}), group({faintLabel(tr("Each pass")), result_}),
        group({faintLabel(tr("Times round")), passes_}), group({faintLabel(tr("Earlier takes")), hush_}),
        group({playBack_}),
        group({faintLabel(tr("Click")), clickRecording_, clickPlaying_, accent_, clickLevel_}),
        group({faintLabel(tr("Snap to")), snap_, divisions_}),
        group({faintLabel(tr("Back up")), backUp_, faintLabel(tr("lead-in")), lead_}), group({grid_}),
        group({safeReview_}), group({setAside_}), group({keepWhole_})})
    all->addWidget(each);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(6, 2, 6, 0);
  column->setSpacing(4);
  column->addWidget(sentence_);
  column->addLayout(all);
  column->addStretch(1);
  connect(&desk, &SessionDesk::changed, this, &OptionsBench::refresh);
  connect(&transport, &Transport::changed, this, &OptionsBench::refresh);
  connect(&transport, &Transport::moved, this, &OptionsBench::refresh);
}

OptionsBench::Length OptionsBench::lengthField(const QString& name, const QString& tip,
                                               const Set<MusicalLength>& set) {
  Length field;
  field.amount = new QDoubleSpinBox;
  field.amount->setRange(0, 1000);
  field.amount->setDecimals(1);
  field.amount->setSingleStep(1);
  field.amount->setKeyboardTracking(false);
  field.amount->setAccessibleName(name);
  field.amount->setToolTip(tip);
  field.unit = new QComboBox;
  field.unit->addItems({tr("bars"), tr("seconds")});
  field.unit->setAccessibleName(tr("%1 in").arg(name));
  field.unit->setToolTip(tip);
  const auto changed = [this, field, set] {
    const MusicalLength length{field.amount->value(),
                               field.unit->currentIndex() == 0 ? LengthUnit::Bars : LengthUnit::Seconds};
    change([&](RecordingOptions& options) { set(options, length); });
  };
  connect(field.amount, &QDoubleSpinBox::valueChanged, this, changed);
  connect(field.unit, &QComboBox::currentIndexChanged, this, changed);
  return field;
}

QCheckBox* OptionsBench::check(const QString& text, const QString& tip, const Set<bool>& set) {
  auto* made = new QCheckBox(text);
  made->setToolTip(tip);
  connect(made, &QCheckBox::toggled, this,
          [this, set](bool on) { change([&](RecordingOptions& options) { set(options, on); }); });
  return made;
}

QComboBox* OptionsBench::choice(const QString& name, const QStringList& choices, const QString& tip,
                                const Set<int>& set) {
  auto* made = new QComboBox;
  made->addItems(choices);
  made->setAccessibleName(name);
  made->setToolTip(tip);
  connect(made, &QComboBox::currentIndexChanged, this,
          [this, set](int which) { change([&](RecordingOptions& options) { set(options, which); }); });
  return made;
}

QSpinBox* OptionsBench::count(const QString& name, int least, int most, const QString& tip,
                              const Set<int>& set) {
  auto* made = new QSpinBox;
  made->setRange(least, most);
  made->setKeyboardTracking(false);
  made->setAccessibleName(name);
  made->setToolTip(tip);
  connect(made, &QSpinBox::valueChanged, this,
          [this, set](int value) { change([&](RecordingOptions& options) { set(options, value); }); });
  return made;
}

QDoubleSpinBox* OptionsBench::seconds(const QString& name, const QString& tip, const Set<double>& set) {
  auto* made = new QDoubleSpinBox;
  made->setRange(0, 60);
  made->setDecimals(1);
  made->setKeyboardTracking(false);
  made->setSuffix(tr(" s"));
  made->setAccessibleName(name);
  made->setToolTip(tip);
  connect(made, &QDoubleSpinBox::valueChanged, this,
          [this, set](double value) { change([&](RecordingOptions& options) { set(options, value); }); });
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
    if (!beingTyped(*field.amount)) field.amount->setValue(length.amount);
    field.unit->setCurrentIndex(length.unit == LengthUnit::Bars ? 0 : 1);
  };
  auto number = [](auto* box, auto value) {
    if (!beingTyped(*box)) box->setValue(value);
  };
  show(preRoll_, options.preRoll);
  show(postRoll_, options.postRoll);
  fillPreRoll_->setChecked(options.fillPreRoll);
  playOn_->setChecked(options.playOn);
  keepWhole_->setChecked(options.keepWhole);
  cue_->setCurrentIndex(static_cast<int>(options.click.cue));
  number(countIn_, options.countInBars);
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

/// Each field changes what it stands for, and nothing else.
void OptionsBench::change(const std::function<void(RecordingOptions&)>& set) {
  if (filling_) return;
  RecordingOptions options = desk_.options();
  set(options);
  desk_.setOptions(options);
}

}  // namespace yewdrift::app
