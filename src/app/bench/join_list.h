// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAction>
#include <QLayout>
#include <QListWidget>
#include <QToolButton>
#include <QWidget>

#include "app/desk/join_desk.h"

namespace yewdrift::app {

/// The joins of the track in hand from the riskiest down, those that are settled left out; and what could be
/// made of the one in hand.
class JoinList : public QWidget {
  Q_OBJECT
 public:
  JoinList(SessionDesk& desk, InHand& inHand, JoinDesk& joins, const QList<QAction*>& actions,
           QWidget* parent = nullptr);
  void refresh();

 private:
  void fillList();
  void fillFindings();

  SessionDesk& desk_;
  InHand& inHand_;
  JoinDesk& joins_;
  QListWidget* list_;
  QLayout* buttons_;
  QList<QToolButton*> choices_;
};

}  // namespace yewdrift::app
