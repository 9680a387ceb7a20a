// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QDoubleSpinBox>
#include <QWidget>

#include "app/desk/listening_desk.h"
#include "app/desk/rough_desk.h"
#include "app/look/widgets.h"

namespace yewdrift::app {

/// The phrases of the track in hand as a table: what the composite plays in each and whether a person decided
/// that; what a composite from the ratings would play there, and why. The row in hand is the phrase in hand.
class PhrasesBench : public QWidget {
  Q_OBJECT
 public:
  PhrasesBench(SessionDesk& desk, InHand& inHand, RoughDesk& rough, ListeningDesk& listening,
               const QList<QAction*>& actions, QWidget* parent = nullptr);

  enum Column { Number, Where, Plays, Rated, Decided, Rough, Why };

 signals:
  /// A phrase was chosen in the table.
  void phraseAsked(const Phrase& phrase);

 protected:
  void showEvent(QShowEvent* event) override;
  void hideEvent(QHideEvent* event) override;

 private:
  void refresh();
  void fillRow(int row, const Track& track, const ResolvedComposite& composite, const Phrase& phrase);
  void takeRow();
  QDoubleSpinBox* ruleField(const QString& name, const QString& tip, double PhraseRules::*rule);

  SessionDesk& desk_;
  InHand& inHand_;
  RoughDesk& rough_;
  ListeningDesk& listening_;
  bool filling_ = false;
  TrackId shown_;
  QLabel* heading_;
  QDoubleSpinBox* shortestRest_;
  QDoubleSpinBox* shortestPhrase_;
  PlainTable* table_;
};

}  // namespace yewdrift::app
