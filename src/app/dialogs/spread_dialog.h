// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QCheckBox>
#include <QDialog>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QPushButton>
#include <vector>

#include "app/desk/in_hand.h"
#include "core/edit/edit_gather.h"

namespace yewdrift::app {

/// Which takes of the track in hand become tracks of their own, and where each of them lies between left and
/// right. It stays with the track that it was opened on.
class SpreadDialog : public QDialog {
  Q_OBJECT
 public:
  SpreadDialog(SessionDesk& desk, InHand& inHand, QWidget* parent = nullptr);

 private:
  void spreadEvenly();
  void refresh();
  void apply();
  [[nodiscard]] std::vector<SpreadTake> chosen() const;

  SessionDesk& desk_;
  TrackId track_;
  struct Row {
    LaneNumber lane;
    QCheckBox* chosen;
    QDoubleSpinBox* pan;
  };
  std::vector<Row> rows_;
  QDoubleSpinBox* width_;
  QLabel* result_;
  QPushButton* make_;
};

}  // namespace yewdrift::app
