// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QFrame>

#include "app/desk/listening_desk.h"

class QAction;

class QHBoxLayout;
class QLabel;
class QToolButton;

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
  ListeningBar(SessionDesk& desk, InHand& inHand, ListeningDesk& listening, const Actions& actions,
               QWidget* parent = nullptr);
  /// Several takes are heard together, and one of them is to be picked: a button for each, until none is
  /// offered.
  void offer(const std::vector<LaneNumber>& takes);

 signals:
  void offeredPicked(LaneNumber lane);

 private:
  void refresh();
  [[nodiscard]] QString unitInWords();
  [[nodiscard]] QString placeInWords();

  SessionDesk& desk_;
  InHand& inHand_;
  ListeningDesk& listening_;
  class ElidedLabel* heard_;
  QLabel* unit_;
  QHBoxLayout* offers_;
  std::vector<QToolButton*> offerButtons_;
};

}  // namespace yewdrift::app
