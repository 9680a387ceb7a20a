// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QWidget>

#include "app/desk/in_hand.h"
#include "app/desk/recording_desk.h"
#include "app/desk/session_desk.h"
#include "app/desk/transport.h"

namespace yewdrift::app {

/// The track in hand: name, monitoring, where passes go, its microphones with input, gain and pan.
class TrackBench : public QWidget {
  Q_OBJECT
 public:
  explicit TrackBench(SessionDesk& desk, InHand& inHand, RecordingDesk& recording, QWidget* parent = nullptr);

 private:
  void refresh();
  void changeMicrophones(const QString& label, const std::function<void(std::vector<Microphone>&)>& change);
  void fillRow(int row, const Microphone& microphone, bool fixed);

  SessionDesk& desk_;
  InHand& inHand_;
  RecordingDesk& recording_;
  bool filling_ = false;
  std::optional<TrackId> shown_;
  std::size_t shownRows_ = 0;
  QLineEdit* name_;
  QComboBox* monitoring_;
  QComboBox* into_;
  QTableWidget* microphones_;
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
  QTableWidget* tempo_;
};

}  // namespace yewdrift::app
