// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QFrame>

#include "app/desk/listening_desk.h"

class QAction;

namespace yewdrift::app {

/// What the round of listening needs at hand, and how one listens, over the takes: what cannot be seen there
/// must not be heard unawares.
class ListeningBar : public QFrame {
  Q_OBJECT
 public:
  struct Actions {
    QList<QAction*> round;  // step, hear, pick
    QAction* others;
    QAction* matched;
    QAction* around;
    QAction* blind;
    QAction* takeAfterTake;
  };
  ListeningBar(InHand& inHand, ListeningDesk& listening, const Actions& actions, QWidget* parent = nullptr);

 private:
  void refresh();

  InHand& inHand_;
  ListeningDesk& listening_;
  class ElidedLabel* heard_;
};

}  // namespace yewdrift::app
