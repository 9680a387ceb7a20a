// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QFormLayout>
#include <QGridLayout>
#include <QGroupBox>
#include <QLabel>
#include <QPushButton>
#include <QSpinBox>
#include <QTableWidget>

#include "app/desk/device_desk.h"
#include "app/desk/session_desk.h"
#include "app/desk/transport.h"
#include "app/views/level_meter.h"
#include "app/window/controls.h"

namespace yewdrift::app {

/// The audio device: which one, how it runs, what comes in, its round trip; and the controls bound to foot
/// switches. Not modal: the session goes on beside it.
class DeviceDialog : public QDialog {
  Q_OBJECT
 public:
  DeviceDialog(SessionDesk& desk, Transport& transport, DeviceDesk& device, Controls& controls,
               QWidget* parent = nullptr);

 private:
  QWidget* makeChoice();
  QWidget* makeSimulated();
  QWidget* makeLatency();
  QWidget* makeControls();
  QWidget* makeGranted();
  void fillDrivers();
  void fillPoints();
  void showEvent(QShowEvent* event) override;
  void hideEvent(QHideEvent* event) override;
  void apply();
  void refresh();
  void feed();
  void showLatency(bool good, const QString& sentence);
  void refreshControls();
  void rebuildMeters(int inputs);

  SessionDesk& desk_;
  Transport& transport_;
  DeviceDesk& device_;
  Controls& controls_;
  QComboBox* driver_ = nullptr;
  QFormLayout* inputForm_ = nullptr;
  QComboBox* source_ = nullptr;
  QComboBox* sink_ = nullptr;
  QComboBox* block_ = nullptr;
  QSpinBox* inputs_ = nullptr;
  QCheckBox* takeUp_ = nullptr;
  QPushButton* tone_ = nullptr;
  QGroupBox* granted_ = nullptr;
  QLabel* facts_ = nullptr;
  QLabel* silence_ = nullptr;
  QGroupBox* simulated_ = nullptr;
  QSpinBox* roundTrip_ = nullptr;
  QSpinBox* dropouts_ = nullptr;
  QCheckBox* patched_ = nullptr;
  QSpinBox* testInput_ = nullptr;
  QPushButton* measure_ = nullptr;
  QLabel* latency_ = nullptr;
  QLabel* result_ = nullptr;
  QGridLayout* meterGrid_ = nullptr;
  std::vector<LevelMeter*> meters_;
  std::vector<QWidget*> meterParts_;
  QTableWidget* controlTable_ = nullptr;
  QLabel* sources_ = nullptr;
};

}  // namespace yewdrift::app
