// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSpinBox>
#include <QWidget>

#include "app/desk/field_edit.h"
#include "app/desk/in_hand.h"
#include "app/desk/recording_desk.h"
#include "app/desk/session_desk.h"
#include "app/desk/transport.h"
#include "app/look/widgets.h"

namespace yewdrift::app {

/// The track in hand: name, monitoring, where passes go, its microphones with input, gain and pan.
class TrackBench : public QWidget {
  Q_OBJECT
 public:
  explicit TrackBench(SessionDesk& desk, InHand& inHand, RecordingDesk& recording, QWidget* parent = nullptr);

 private:
  void refresh();
  using MicrophoneEdit = std::function<void(std::vector<Microphone>&)>;
  /// Of the track that is shown, whichever is in hand by the time it is done.
  void changeMicrophones(const QString& label, const MicrophoneEdit& change);
  void rename();
  void fillRow(int row, const Microphone& microphone, bool fixed);
  void fillMicrophones(const Track& track);
  /// The values of the row's fields, but for what is being typed or stepped through.
  void showRow(int row, const Microphone& microphone);

  SessionDesk& desk_;
  InHand& inHand_;
  RecordingDesk& recording_;
  bool filling_ = false;
  TrackId shown_;  // what all fields are about
  std::size_t shownRows_ = 0;
  struct Row {
    QSpinBox* input = nullptr;
    QComboBox* channels = nullptr;
    QDoubleSpinBox* gain = nullptr;
    QSpinBox* pan = nullptr;
    std::vector<FieldEdit*> edits;
  };
  std::vector<Row> rows_;
  QLineEdit* name_;
  QComboBox* monitoring_;
  QComboBox* into_;
  PlainTable* microphones_;
  QPushButton* add_;
  QPushButton* remove_;
};

/// The session itself: what it runs at, tempo and meter with their changes.
class SongBench : public QWidget {
  Q_OBJECT
 public:
  explicit SongBench(SessionDesk& desk, Transport& transport, QWidget* parent = nullptr);

 private:
  void refresh();
  void type(int row, int column);
  void add();
  void remove();

  SessionDesk& desk_;
  Transport& transport_;
  bool filling_ = false;
  QLabel* facts_;
  PlainTable* tempo_;
  std::vector<TempoChange> shown_;
};

}  // namespace yewdrift::app
