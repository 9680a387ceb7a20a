// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dialogs/device_dialog.h"

#include <QFormLayout>
#include <QHeaderView>
#include <QScrollArea>
#include <QTabWidget>
#include <QVBoxLayout>

#include "app/look/widgets.h"

namespace yewdrift::app {

DeviceDialog::DeviceDialog(SessionDesk& desk, Transport& transport, DeviceDesk& device, Controls& controls,
                           QWidget* parent)
    : QDialog(parent), desk_(desk), transport_(transport), device_(device), controls_(controls) {
  setWindowTitle(tr("Audio device and foot switches"));
  resize(900, 620);
  auto* tabs = new QTabWidget;
  auto* audio = new QWidget;
  auto* column = new QVBoxLayout(audio);
  auto* top = new QHBoxLayout;
  top->addWidget(makeChoice(), 1);
  auto* running = new QVBoxLayout;
  running->addWidget(makeGranted());
  running->addWidget(makeSimulated());
  running->addStretch(1);
  top->addLayout(running, 1);
  column->addLayout(top);
  column->addWidget(makeLatency());
  auto* levels = new QGroupBox(tr("What comes in"));
  auto* levelColumn = new QVBoxLayout(levels);
  meterGrid_ = new QGridLayout;
  silence_ = new QLabel;
  silence_->setWordWrap(true);
  silence_->setAccessibleName(tr("Why nothing comes in"));
  silence_->hide();
  levelColumn->addWidget(silence_);
  levelColumn->addLayout(meterGrid_);
  levelColumn->addWidget(
      faintLabel(tr("The mark holds the peak for two seconds; the lamp at the end lights when an "
                    "input went over, and stays until it is clicked.")));
  column->addWidget(levels);
  column->addStretch(1);
  tabs->addTab(scrolled(audio), tr("Audio device"));
  tabs->addTab(makeControls(), tr("Foot switches and MIDI controls"));
  auto* whole = new QVBoxLayout(this);
  whole->addWidget(tabs);
  connect(&transport, &Transport::changed, this, &DeviceDialog::refresh);
  connect(&device.devices(), &DeviceWatcher::changed, this, &DeviceDialog::fillDrivers);
  connect(&transport, &Transport::moved, this, &DeviceDialog::feed);
  connect(&device, &DeviceDesk::latencyMeasured, this, &DeviceDialog::showLatency);
  connect(&controls, &Controls::changed, this, &DeviceDialog::refreshControls);
  refresh();
  refreshControls();
}

QWidget* DeviceDialog::makeChoice() {
  auto* box = new QGroupBox(tr("Device"));
  auto* column = new QVBoxLayout(box);
  auto* form = new QFormLayout;
  column->addLayout(form);
  const AudioChoice& choice = device_.choice();
  driver_ = new QComboBox;
  source_ = new QComboBox;
  sink_ = new QComboBox;
  for (QComboBox* each : {driver_, source_, sink_}) {
    each->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    each->setMinimumContentsLength(18);
  }
  block_ = new QComboBox;
  for (const int frames : {32, 64, 128, 256, 512, 1024, 2048, 4096})
    block_->addItem(
        tr("%1 frames, %L2 ms").arg(frames).arg(1000.0 * frames / desk_.session().rate.hertz, 0, 'f', 1),
        frames);
  block_->setCurrentIndex(std::max(0, block_->findData(choice.blockFrames)));
  inputs_ = new QSpinBox;
  inputs_->setRange(0, 64);
  inputs_->setSpecialValueText(tr("as many as the tracks ask for"));
  inputs_->setValue(choice.inputs);
  takeUp_ = new QCheckBox(tr("use it again when it comes back"));
  takeUp_->setChecked(choice.takeUpAgain);
  takeUp_->setToolTip(
      tr("A device that was pulled out, or a sound server that ended, is taken up again by itself."));
  auto* use = new QPushButton(tr("Use this device"));
  tone_ = new QPushButton(tr("Test tone"));
  tone_->setCheckable(true);
  tone_->setToolTip(tr("A quiet tone of 1 kHz on both sides, to hear where the sound comes out."));
  form->addRow(tr("Driver"), driver_);
  form->addRow(tr("Record from"), source_);
  form->addRow(tr("Play to"), sink_);
  form->addRow(tr("Block"), block_);
  form->addRow(tr("Inputs"), inputs_);
  inputForm_ = form;
  form->addRow(takeUp_);
  auto* buttons = new QHBoxLayout;
  buttons->addWidget(use, 1);
  buttons->addWidget(tone_);
  column->addLayout(buttons);
  column->addStretch(1);
  driver_->setAccessibleName(tr("Driver"));
  source_->setAccessibleName(tr("Record from"));
  sink_->setAccessibleName(tr("Play to"));
  block_->setAccessibleName(tr("Block"));
  inputs_->setAccessibleName(tr("Inputs"));
  connect(driver_, &QComboBox::currentIndexChanged, this, &DeviceDialog::fillPoints);
  connect(use, &QPushButton::clicked, this, &DeviceDialog::apply);
  connect(tone_, &QPushButton::toggled, this, [this](bool on) { transport_.engine().setTestTone(on); });
  fillDrivers();
  return box;
}

QWidget* DeviceDialog::makeGranted() {
  granted_ = new QGroupBox(tr("As it runs now"));
  auto* column = new QVBoxLayout(granted_);
  facts_ = new QLabel;
  facts_->setWordWrap(true);
  facts_->setTextFormat(Qt::RichText);
  facts_->setAccessibleName(tr("As it runs now"));
  column->addWidget(facts_);
  column->addStretch(1);
  return granted_;
}

QWidget* DeviceDialog::makeSimulated() {
  simulated_ = new QGroupBox(tr("Simulated interface"));
  auto* form = new QFormLayout(simulated_);
  const AudioChoice& choice = device_.choice();
  roundTrip_ = new QSpinBox;
  roundTrip_->setRange(0, 48000);
  roundTrip_->setSuffix(tr(" frames"));
  roundTrip_->setValue(choice.simulatedRoundTrip);
  roundTrip_->setToolTip(tr("The delay from its output to its input."));
  dropouts_ = new QSpinBox;
  dropouts_->setRange(0, 100'000);
  dropouts_->setSpecialValueText(tr("never"));
  dropouts_->setSuffix(tr(" blocks"));
  dropouts_->setValue(choice.dropoutEveryBlocks);
  patched_ = new QCheckBox(tr("a cable from its output to its inputs"));
  patched_->setChecked(choice.patched);
  form->addRow(tr("Round trip"), roundTrip_);
  form->addRow(tr("Dropout every"), dropouts_);
  form->addRow(patched_);
  auto* hint =
      faintLabel(tr("An interface made of software. In the demo session players sit at its inputs and "
                    "play in time with what they hear."));
  hint->setWordWrap(true);
  form->addRow(hint);
  return simulated_;
}

QWidget* DeviceDialog::makeLatency() {
  auto* box = new QGroupBox(tr("Round trip"));
  auto* column = new QVBoxLayout(box);
  latency_ = new QLabel;
  latency_->setWordWrap(true);
  auto* row = new QHBoxLayout;
  row->addWidget(new QLabel(tr("Input to which a cable leads from an output")));
  testInput_ = new QSpinBox;
  testInput_->setRange(1, 64);
  testInput_->setAccessibleName(tr("Input of the loop-back test"));
  row->addWidget(testInput_);
  measure_ = new QPushButton(tr("Measure"));
  measure_->setToolTip(tr("Plays three bursts of noise and listens for them; takes three seconds."));
  row->addWidget(measure_);
  row->addStretch(1);
  result_ = new QLabel;
  result_->setWordWrap(true);
  result_->setAccessibleName(tr("Result of the loop-back test"));
  column->addWidget(latency_);
  column->addLayout(row);
  column->addWidget(result_);
  connect(measure_, &QPushButton::clicked, this, [this] {
    measure_->setEnabled(false);
    result_->setText(tr("Listening for three seconds…"));
    device_.measureLatency(testInput_->value() - 1);
  });
  return box;
}

QWidget* DeviceDialog::makeControls() {
  auto* page = new QWidget;
  auto* column = new QVBoxLayout(page);
  auto* hint =
      new QLabel(tr("Choose what it should do, press Learn, then press the switch or move the control."));
  hint->setWordWrap(true);
  controlTable_ = new PlainTable({tr("Does"), tr("Control"), QString(), QString()},
                                 tr("What foot switches and controls do"), 32);
  controlTable_->setColumnWidth(0, 280);
  controlTable_->setColumnWidth(1, 220);
  controlTable_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  sources_ = faintLabel({});
  sources_->setWordWrap(true);
  column->addWidget(hint);
  column->addWidget(controlTable_, 1);
  column->addWidget(sources_);
  return page;
}

void DeviceDialog::fillDrivers() {
  const QString wanted = driver_->count() > 0 ? driver_->currentData().toString() : device_.choice().driver;
  {
    const QSignalBlocker quiet(driver_);
    driver_->clear();
    for (const OfferedDriver& each : device_.devices().offers())
      driver_->addItem(QString::fromStdString(each.name), QString::fromStdString(each.name));
    driver_->addItem(tr("Simulated interface"), "Simulated");
    // What is chosen and does not run now stays to be seen.
    if (!wanted.isEmpty() && driver_->findData(wanted) < 0)
      driver_->addItem(tr("%1 (not running)").arg(wanted), wanted);
    driver_->setCurrentIndex(std::max(0, driver_->findData(wanted)));
  }
  fillPoints();
}

void DeviceDialog::fillPoints() {
  const QString driver = driver_->currentData().toString();
  const bool simulated = driver == "Simulated";
  const AudioChoice& choice = device_.choice();
  const DriverListing* listing = device_.devices().listingOf(driver);
  auto fill = [&](QComboBox* box, const std::vector<EndPoint>& points, const QString& chosen) {
    const QString kept =
        box->count() > 0 && !box->property("driver").isNull() && box->property("driver") == driver
            ? box->currentData().toString()
            : chosen;
    box->clear();
    box->setProperty("driver", driver);
    const EndPoint* standard = findEndPoint(points, {});
    box->addItem(standard    ? tr("the system's: %1").arg(QString::fromStdString(standard->name))
                 : simulated ? tr("the simulated interface")
                 : !listing  ? tr("not known: it does not run")
                             : tr("nothing is plugged in"),
                 QString());
    for (const EndPoint& point : points)
      box->addItem(QString::fromStdString(distinctName(point, points)), QString::fromStdString(point.id));
    if (!kept.isEmpty() && box->findData(kept) < 0) box->addItem(tr("%1 (not there now)").arg(kept), kept);
    box->setCurrentIndex(std::max(0, box->findData(kept)));
    box->setEnabled(!simulated);
    box->setToolTip(box->currentText());
  };
  const DriverListing none;
  const bool same = choice.driver == driver;
  fill(source_, (listing ? *listing : none).sources, same ? choice.source : QString());
  fill(sink_, (listing ? *listing : none).sinks, same ? choice.sink : QString());
  if (!simulated_) return;
  simulated_->setVisible(simulated);
  // A real source gives all its channels.
  inputForm_->setRowVisible(inputs_, simulated);
  takeUp_->setEnabled(!simulated);
}

void DeviceDialog::showEvent(QShowEvent* event) {
  device_.devices().look();
  device_.devices().setEager(true);
  QDialog::showEvent(event);
}

void DeviceDialog::hideEvent(QHideEvent* event) {
  tone_->setChecked(false);
  device_.devices().setEager(false);
  QDialog::hideEvent(event);
}

void DeviceDialog::apply() {
  AudioChoice choice = device_.choice();
  choice.driver = driver_->currentData().toString();
  choice.source = source_->currentData().toString();
  choice.sink = sink_->currentData().toString();
  choice.takeUpAgain = takeUp_->isChecked();
  choice.blockFrames = block_->currentData().toInt();
  choice.inputs = inputs_->value();
  choice.simulatedRoundTrip = roundTrip_->value();
  choice.dropoutEveryBlocks = dropouts_->value();
  choice.patched = patched_->isChecked();
  tone_->setChecked(false);
  device_.choose(choice);
  refresh();
}

void DeviceDialog::refresh() {
  if (simulated_ && simulated_->isVisibleTo(this) != (driver_->currentData() == "Simulated")) fillPoints();
  const AudioDevice* device = device_.device();
  tone_->setEnabled(device != nullptr);
  if (!device) {
    facts_->setText(device_.opening() ? device_.name()
                                      : tr("<b>No device is open.</b> Nothing can be heard or recorded."));
    latency_->setText(tr("Open a device first."));
    measure_->setEnabled(false);
    rebuildMeters(0);
    return;
  }
  const DeviceSettings& settings = device->settings();
  const DeviceReport report = device->report();
  auto row = [](const QString& what, const QString& value) {
    return QString("<tr><td style='padding-right:10px'>%1</td><td><b>%2</b></td></tr>")
        .arg(what, value.toHtmlEscaped());
  };
  auto named = [](const std::string& name) {
    return name.empty() ? tr("nothing") : QString::fromStdString(name);
  };
  QString facts =
      "<table>" + row(tr("Records from"), named(report.sourceName)) +
      row(tr("Plays to"), named(report.sinkName)) +
      row(tr("Block"), tr("%1 frames, %L2 ms")
                           .arg(settings.blockFrames)
                           .arg(1000.0 * settings.blockFrames / std::max(1, report.deviceRate), 0, 'f', 1)) +
      row(tr("Rate"), report.deviceRate == settings.rate.hertz
                          ? tr("%1 Hz").arg(settings.rate.hertz)
                          : tr("%1 Hz, the session's %2").arg(report.deviceRate).arg(settings.rate.hertz)) +
      row(tr("Channels"), tr("%1 in, %2 out").arg(settings.inputs).arg(settings.outputs)) + "</table>";
  if (settings.blockFrames != device_.choice().blockFrames)
    facts += tr("<p>Asked for blocks of %1; the system grants %2.</p>")
                 .arg(device_.choice().blockFrames)
                 .arg(settings.blockFrames);
  std::vector<Sentence> notes = report.notes;
  if (!report.latency.empty()) notes.push_back(report.latency);
  for (const Sentence& note : notes) facts += "<p>" + spoken(note).toHtmlEscaped() + "</p>";
  facts_->setText(facts);
  const Frames roundTrip = device_.roundTrip();
  latency_->setText((device_.roundTripMeasured()
                         ? tr("<b>%1 frames (%L2 ms)</b>, measured for this device, rate and block size.")
                         : tr("<b>%1 frames (%L2 ms)</b>, as the device reports it; measuring is surer."))
                        .arg(roundTrip.count)
                        .arg(1000.0 * secondsFromFrames(roundTrip, settings.rate), 0, 'f', 1));
  measure_->setEnabled(true);
  testInput_->setMaximum(std::max(1, settings.inputs));
  rebuildMeters(std::min(settings.inputs, 16));
}

void DeviceDialog::rebuildMeters(int inputs) {
  if (static_cast<int>(meters_.size()) == inputs) return;
  for (QWidget* part : meterParts_) part->deleteLater();
  meters_.clear();
  meterParts_.clear();
  for (int input = 0; input < inputs; ++input) {
    QLabel* label = faintLabel(tr("Input %1").arg(input + 1));
    auto* meter = new LevelMeter(tr("Input %1").arg(input + 1));
    meter->setFixedHeight(14);
    const int column = input % 2 * 2;
    meterGrid_->addWidget(label, input / 2, column);
    meterGrid_->addWidget(meter, input / 2, column + 1);
    meters_.push_back(meter);
    meterParts_.push_back(label);
    meterParts_.push_back(meter);
  }
}

void DeviceDialog::feed() {
  if (!isVisible()) return;
  const QString why = device_.nothingComesIn();
  if (why != silence_->text()) silence_->setText(why);
  if (silence_->isVisible() == why.isEmpty()) silence_->setVisible(!why.isEmpty());
  for (std::size_t i = 0; i < meters_.size(); ++i) meters_[i]->feed(device_.inputPeak(static_cast<int>(i)));
}

void DeviceDialog::showLatency(bool good, const QString& sentence) {
  result_->setText(good ? tr("<b>%1</b> Stored and used from now on.").arg(sentence.toHtmlEscaped())
                        : sentence);
  refresh();
}

void DeviceDialog::refreshControls() {
  const auto& actions = controls_.bindable();
  controlTable_->setRowCount(static_cast<int>(actions.size()));
  for (std::size_t i = 0; i < actions.size(); ++i) {
    const int row = static_cast<int>(i);
    const QString id = actions[i].id;
    const auto bound = controls_.binding(id);
    const bool learning = controls_.learning() == id;
    controlTable_->setItem(row, 0, new QTableWidgetItem(actions[i].action->text().remove('&')));
    controlTable_->setItem(row, 1,
                           new QTableWidgetItem(learning ? tr("press it now…")
                                                : bound  ? QString::fromStdString(controlText(*bound))
                                                         : tr("none")));
    auto* learn = new QPushButton(learning ? tr("Cancel") : tr("Learn"));
    learn->setAccessibleName(tr("Learn %1").arg(actions[i].action->text()));
    connect(
        learn, &QPushButton::clicked, this, [this, id] { controls_.learn(id); }, Qt::QueuedConnection);
    auto* forget = new QPushButton(tr("Forget"));
    forget->setEnabled(bound.has_value());
    connect(
        forget, &QPushButton::clicked, this, [this, id] { controls_.forget(id); }, Qt::QueuedConnection);
    controlTable_->setCellWidget(row, 2, learn);
    controlTable_->setCellWidget(row, 3, forget);
  }
  const QStringList heard = controls_.sources();
  sources_->setText(heard.isEmpty() ? tr("No MIDI system is running, so no control can be heard.")
                                    : tr("Listens to: %1").arg(heard.join(", ")));
}

}  // namespace yewdrift::app
