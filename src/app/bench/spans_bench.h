// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAction>
#include <QCheckBox>
#include <QDoubleSpinBox>
#include <QLineEdit>
#include <QPushButton>
#include <QWidget>

#include "app/desk/messages.h"
#include "app/desk/recording_desk.h"
#include "app/desk/session_desk.h"
#include "app/desk/transport.h"
#include "app/look/widgets.h"

namespace yewdrift::app {

/// Loop and punch spans, typed: `5|1`, `2.5s` or `123456f`.
class SpansBench : public QWidget {
  Q_OBJECT
 public:
  /// `loopActions` and `punchActions` become buttons.
  SpansBench(SessionDesk& desk, Transport& transport, RecordingDesk& recording, Messages& messages,
             const QList<QAction*>& loopActions, const QList<QAction*>& punchActions,
             QWidget* parent = nullptr);

 private:
  void refresh();
  void refreshPunches();
  void typeLoop();
  void typePunch(int row, int column);
  void removePunches();

  SessionDesk& desk_;
  Transport& transport_;
  RecordingDesk& recording_;
  Messages& messages_;
  bool filling_ = false;
  QLineEdit* from_;
  QLineEdit* to_;
  QDoubleSpinBox* air_;
  QCheckBox* loop_;
  QCheckBox* punch_;
  PlainTable* punches_;
  std::optional<Span> shownLoop_;
  std::vector<Punch> shownPunches_;
};

/// Markers and dropouts: go to one, rename, remove many at once.
class MarkersBench : public QWidget {
  Q_OBJECT
 public:
  MarkersBench(SessionDesk& desk, Transport& transport, Messages& messages, QAction* drop,
               QWidget* parent = nullptr);

 private:
  void refresh();
  void rename(int row);
  void removeSelected();
  void selectDropouts();

  SessionDesk& desk_;
  Transport& transport_;
  Messages& messages_;
  bool filling_ = false;
  std::vector<Marker> shown_;
  PlainTable* table_;
  QPushButton* remove_;
  QPushButton* dropouts_;
};

}  // namespace yewdrift::app
