// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLabel>
#include <QListView>
#include <QWidget>

#include "app/desk/session_desk.h"

namespace yewdrift::app {

/// Everything that was done, in order of time, those steps too that were undone: a click on one, or Enter,
/// goes there.
class HistoryBench : public QWidget {
  Q_OBJECT
 public:
  explicit HistoryBench(SessionDesk& desk, const QList<QAction*>& actions, QWidget* parent = nullptr);

 protected:
  void showEvent(QShowEvent* event) override;

 private:
  class Steps;
  void refresh();

  SessionDesk& desk_;
  QLabel* heading_;
  Steps* steps_;
  QListView* list_;
};

/// The core's own steps in the language of the application; others are in the one in which they were made.
QString stepName(const std::string& label);

}  // namespace yewdrift::app
