// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAction>
#include <QFrame>
#include <QLabel>

#include "app/desk/device_desk.h"
#include "app/desk/record_words.h"
#include "app/desk/recording_desk.h"
#include "app/desk/session_desk.h"
#include "app/desk/transport.h"
#include "app/views/level_meter.h"

namespace yewdrift::app {

/// The record state in one large word with a shape, filled while recording: readable from across the room.
class RecordState : public QWidget {
  Q_OBJECT
 public:
  RecordState(SessionDesk& desk, Transport& transport, DeviceDesk& device, RecordingDesk& recording,
              QWidget* parent = nullptr);
  [[nodiscard]] QSize sizeHint() const override { return {268, 58}; }
  [[nodiscard]] QSize minimumSizeHint() const override { return {190, 58}; }
  [[nodiscard]] RecordWords words() const;
  [[nodiscard]] QString spoken() const { return words().spoken(); }
  /// Paints anew where it says something else.
  void refresh();

 protected:
  void changeEvent(QEvent* event) override;
  void paintEvent(QPaintEvent* event) override;

 private:
  SessionDesk& desk_;
  Transport& transport_;
  DeviceDesk& device_;
  RecordingDesk& recording_;
  RecordWords seen_;
};

struct TransportActions {
  QAction* start;
  QAction* play;
  QAction* record;
  QAction* loop;
  QAction* punch;
  QAction* click;
  QAction* undo;
  QAction* redo;
};

class TransportBar : public QFrame {
  Q_OBJECT
 public:
  TransportBar(SessionDesk& desk, Transport& transport, DeviceDesk& device, RecordingDesk& recording,
               const TransportActions& actions, QWidget* parent = nullptr);

 private:
  void refresh();

  SessionDesk& desk_;
  Transport& transport_;
  DeviceDesk& device_;
  RecordingDesk& recording_;
  RecordState* state_;
  QLabel* barBeat_;
  QLabel* clock_;
  QLabel* deviceName_;
  QLabel* diskLeft_;
  LevelMeter* left_;
  LevelMeter* right_;
  QElapsedTimer diskAsked_;
};

}  // namespace yewdrift::app
