// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QWidget>

#include "app/desk/listening_desk.h"
#include "app/desk/messages.h"
#include "app/look/widgets.h"

namespace yewdrift::app {

/// The takes of the phrase in hand as a table: what a person noted of each, and what can be measured. Nothing
/// in it judges. Sorted by the column that is clicked; the row in hand is the take that is heard.
class TakesBench : public QWidget {
  Q_OBJECT
 public:
  TakesBench(SessionDesk& desk, InHand& inHand, AnalysisDesk& analysis, ListeningDesk& listening,
             Messages& messages, QWidget* parent = nullptr);

  enum Column {
    Take,
    Rated,
    Chosen,
    Timing,
    Grid,
    Pitch,
    Tuning,
    Loudness,
    Peak,
    Noise,
    Clicks,
    Marks,
    Sounds,
    Note
  };

 protected:
  void showEvent(QShowEvent* event) override;
  void hideEvent(QHideEvent* event) override;

 private:
  void refresh();
  void explainColumns();
  void fillRow(int row, const CellEvidence& cell, const Lane& lane);
  void typed(QTableWidgetItem* item);
  void takeRow();

  SessionDesk& desk_;
  InHand& inHand_;
  AnalysisDesk& analysis_;
  ListeningDesk& listening_;
  Messages& messages_;
  bool filling_ = false;
  QLabel* heading_;
  PlainTable* table_;
};

}  // namespace yewdrift::app
