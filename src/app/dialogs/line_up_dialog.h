// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QPushButton>

#include "app/desk/line_up_desk.h"

namespace yewdrift::app {

/// To what a take is lined up, what was found, and how sure that is; it moves only when that is taken.
class LineUpDialog : public QDialog {
  Q_OBJECT
 public:
  LineUpDialog(SessionDesk& desk, InHand& inHand, LineUpDesk& lineUp, LaneNumber take,
               QWidget* parent = nullptr);
  ~LineUpDialog() override;

 private:
  void look();
  void refresh();

  LineUpDesk& lineUp_;
  LaneNumber take_;
  QComboBox* reference_;
  QComboBox* within_;
  QLabel* found_;
  QPushButton* takeIt_;
};

}  // namespace yewdrift::app
