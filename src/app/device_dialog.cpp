// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/device_dialog.h"

#include <QFormLayout>
#include <QHeaderView>
#include <QTabWidget>
#include <QVBoxLayout>

#include "app/widgets.h"
#include "core/device/system_device.h"

namespace yewdrift::app {

DeviceDialog::DeviceDialog(Studio& studio, Controls& controls, QWidget* parent)
    : QDialog(parent), studio_(studio), controls_(controls) {
  setWindowTitle(tr("Audio device and foot switches"));
  resize(780, 640);
  auto* tabs = new QTabWidget;
  auto* audio = new QWidget;
  auto* column = new QVBoxLayout(audio);
  auto* top = new QHBoxLayout;
  top->addWidget(makeChoice(), 1);
  top->addWidget(makeSimulated(), 1);
  column->addLayout(top);
  column->addWidget(makeLatency());
  auto* levels = new QGroupBox(tr("What comes in"));
  auto* levelColumn = new QVBoxLayout(levels);
  meterGrid_ = new QGridLayout;
  levelColumn->addLayout(meterGrid_);
  levelColumn->addWidget(
      faintLabel(tr("The mark holds the peak for two seconds; the lamp at the end lights when an "
                    "input went over, and stays until it is clicked.")));
  column->addWidget(levels);
  column->addStretch(1);
  tabs->addTab(audio, tr("Audio device"));
  tabs->addTab(makeControls(), tr("Foot switches and MIDI controls"));
  auto* whole = new QVBoxLayout(this);
  whole->addWidget(tabs);
  connect(&studio, &Studio::transportChanged, this, &DeviceDialog::refresh);
  connect(&studio, &Studio::moved, this, &DeviceDialog::feed);
  connect(&studio, &Studio::latencyMeasured, this, &DeviceDialog::showLatency);
  connect(&controls, &Controls::changed, this, &DeviceDialog::refreshControls);
  refresh();
  refreshControls();
}

QWidget* DeviceDialog::makeChoice() {
  auto* box = new QGroupBox(tr("Device"));
  auto* column = new QVBoxLayout(box);
  auto* form = new QFormLayout;
  column->addLayout(form);
  const AudioChoice& choice = studio_.audioChoice();
  driver_ = new QComboBox;
  driver_->addItem(tr("Simulated interface"), "Simulated");
  for (const std::string& driver : systemDrivers())
    driver_->addItem(QString::fromStdString(driver), QString::fromStdString(driver));
  driver_->setCurrentIndex(std::max(0, driver_->findData(choice.driver)));
  device_ = new QComboBox;
  block_ = new QComboBox;
  for (const int frames : {32, 64, 128, 256, 512, 1024, 2048, 4096})
    block_->addItem(
        tr("%1 frames, %2 ms").arg(frames).arg(1000.0 * frames / studio_.session().rate.hertz, 0, 'f', 1),
        frames);
  block_->setCurrentIndex(std::max(0, block_->findData(choice.blockFrames)));
  inputs_ = new QSpinBox;
  inputs_->setRange(0, 64);
  inputs_->setSpecialValueText(tr("as many as the tracks ask for"));
  inputs_->setValue(choice.inputs);
  auto* use = new QPushButton(tr("Use this device"));
  state_ = new QLabel;
  state_->setWordWrap(true);
  form->addRow(tr("Driver"), driver_);
  form->addRow(tr("Device"), device_);
  form->addRow(tr("Rate"), new QLabel(tr("%1 Hz, the session's").arg(studio_.session().rate.hertz)));
  form->addRow(tr("Block"), block_);
  form->addRow(tr("Inputs"), inputs_);
  column->addWidget(use);
  column->addWidget(state_);
  column->addStretch(1);
  driver_->setAccessibleName(tr("Driver"));
  device_->setAccessibleName(tr("Device"));
  block_->setAccessibleName(tr("Block"));
  inputs_->setAccessibleName(tr("Inputs"));
  connect(driver_, &QComboBox::currentIndexChanged, this, &DeviceDialog::fillDevices);
  connect(use, &QPushButton::clicked, this, &DeviceDialog::apply);
  return box;
}

QWidget* DeviceDialog::makeSimulated() {
  simulated_ = new QGroupBox(tr("Simulated interface"));
  auto* form = new QFormLayout(simulated_);
  const AudioChoice& choice = studio_.audioChoice();
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
  row->addWidget(new QLabel(tr("Connect an output to input")));
  testInput_ = new QSpinBox;
  testInput_->setRange(1, 64);
  testInput_->setAccessibleName(tr("Input of the loop-back test"));
  row->addWidget(testInput_);
  row->addWidget(new QLabel(tr("with a cable, then")));
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
    studio_.measureLatency(testInput_->value() - 1);
  });
  return box;
}

QWidget* DeviceDialog::makeControls() {
  auto* page = new QWidget;
  auto* column = new QVBoxLayout(page);
  auto* hint =
      new QLabel(tr("Choose what it should do, press Learn, then press the switch or move the control."));
  hint->setWordWrap(true);
  controlTable_ = plainTable({tr("Does"), tr("Control"), QString(), QString()},
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

void DeviceDialog::fillDevices() {
  const QString driver = driver_->currentData().toString();
  device_->clear();
  device_->addItem(tr("the default"), QString());
  if (driver != "Simulated")
    for (const DeviceDescription& found : systemDevices(driver.toStdString()))
      device_->addItem(tr("%1 (%2 in, %3 out)")
                           .arg(QString::fromStdString(found.name))
                           .arg(found.inputs)
                           .arg(found.outputs),
                       QString::fromStdString(found.name));
  device_->setCurrentIndex(std::max(0, device_->findData(studio_.audioChoice().device)));
  simulated_->setEnabled(driver == "Simulated");
}

void DeviceDialog::apply() {
  AudioChoice choice;
  choice.driver = driver_->currentData().toString();
  choice.device = device_->currentData().toString();
  choice.blockFrames = block_->currentData().toInt();
  choice.inputs = inputs_->value();
  choice.simulatedRoundTrip = roundTrip_->value();
  choice.dropoutEveryBlocks = dropouts_->value();
  choice.patched = patched_->isChecked();
  studio_.openDevice(choice);
  if (studio_.device()) saveAudioChoice(choice);
  refresh();
}

void DeviceDialog::refresh() {
  if (device_->count() == 0) fillDevices();
  const AudioDevice* device = studio_.device();
  if (!device) {
    state_->setText(tr("<b>No device is open.</b> Nothing can be heard or recorded."));
    latency_->setText(tr("Open a device first."));
    measure_->setEnabled(false);
    rebuildMeters(0);
    return;
  }
  const DeviceSettings& settings = device->settings();
  state_->setText(tr("<b>%1</b> runs at %2 Hz with blocks of %3 frames, %4 in and %5 out.")
                      .arg(studio_.deviceName().toHtmlEscaped())
                      .arg(settings.rate.hertz)
                      .arg(settings.blockFrames)
                      .arg(settings.inputs)
                      .arg(settings.outputs));
  const Frames roundTrip = studio_.roundTrip();
  latency_->setText((studio_.roundTripMeasured()
                         ? tr("<b>%1 frames (%2 ms)</b>, measured for this device, rate and block size.")
                         : tr("<b>%1 frames (%2 ms)</b>, as the device reports it; measuring is surer."))
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
  for (std::size_t i = 0; i < meters_.size(); ++i) meters_[i]->feed(studio_.inputPeak(static_cast<int>(i)));
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
