// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "core/session/session.h"

namespace yewdrift::app {

/// What a new session runs at, each asked once with a good default.
class NewSessionDialog : public QDialog {
  Q_OBJECT
 public:
  explicit NewSessionDialog(QWidget* parent = nullptr);
  /// The folder to be made, and the empty session in it.
  [[nodiscard]] QString folder() const;
  [[nodiscard]] Session session() const;

 private:
  void check();

  QLineEdit* name_;
  QLineEdit* place_;
  QComboBox* rate_;
  QComboBox* format_;
  QDoubleSpinBox* tempo_;
  QComboBox* meter_;
  QLabel* advice_;
  QPushButton* make_;
};

}  // namespace yewdrift::app
