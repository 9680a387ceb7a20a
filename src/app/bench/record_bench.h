// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAction>
#include <QLabel>
#include <QVBoxLayout>
#include <QWidget>
#include <vector>

#include "app/desk/device_desk.h"
#include "app/desk/in_hand.h"
#include "app/desk/recording_desk.h"
#include "app/desk/session_desk.h"
#include "app/desk/transport.h"
#include "app/views/level_meter.h"

namespace yewdrift::app {

/// What pressing record would do, in a sentence; while recording, how it goes; under it the next thing to
/// try and what can be done at once. Beside it the level of every armed input.
class RecordBench : public QWidget {
  Q_OBJECT
 public:
  /// `actions` become buttons under the sentence.
  RecordBench(SessionDesk& desk, InHand& inHand, Transport& transport, DeviceDesk& device,
              RecordingDesk& recording, const QList<QAction*>& actions, QWidget* parent = nullptr);

 private:
  void refresh();
  void feed();
  void rebuildMeters();
  [[nodiscard]] QString advice() const;

  struct Meter {
    int input = 0;
    QWidget* row = nullptr;
    LevelMeter* level = nullptr;
  };

  SessionDesk& desk_;
  InHand& inHand_;
  Transport& transport_;
  DeviceDesk& device_;
  RecordingDesk& recording_;
  QLabel* heading_;
  QLabel* sentence_;
  QLabel* advice_;
  QVBoxLayout* meterColumn_;
  std::vector<Meter> meters_;
  std::vector<std::pair<QString, int>> metered_;
};

/// "2 hours 10 minutes": how long the armed tracks can be recorded until the disk is full; empty where
/// nothing is armed.
QString diskTimeLeft(const SessionDesk& desk, const RecordingDesk& recording);

}  // namespace yewdrift::app
