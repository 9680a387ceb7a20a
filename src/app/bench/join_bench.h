// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLabel>
#include <QWidget>

#include "app/bench/join_fields.h"
#include "app/bench/join_list.h"
#include "app/bench/join_picture.h"
#include "app/desk/in_hand.h"
#include "app/desk/session_desk.h"

namespace yewdrift::app {

/// The join in hand under the magnifier, with its numbers, what can be set of it, and what can be done.
class JoinBench : public QWidget {
  Q_OBJECT
 public:
  /// What can be done with the join in hand.
  struct Actions {
    QList<QAction*> hear;
    QList<QAction*> change;
  };
  JoinBench(SessionDesk& desk, InHand& inHand, JoinDesk& joins, const Actions& actions,
            QWidget* parent = nullptr);
  [[nodiscard]] JoinPicture& picture() { return *picture_; }

 protected:
  void showEvent(QShowEvent* event) override;

 private:
  void refresh();
  void showNumbers(const JoinCloseUp& view);

  SessionDesk& desk_;
  InHand& inHand_;
  JoinDesk& joins_;
  JoinPicture* picture_;
  JoinList* list_;
  QLabel* title_;
  QLabel* reading_;
  QLabel* numbers_;
  JoinFields* fields_;
};

}  // namespace yewdrift::app
