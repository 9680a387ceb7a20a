// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QThreadPool>
#include <memory>

#include "app/desk/file_desk.h"
#include "app/look/widgets.h"
#include "core/deliver/delivery.h"

namespace yewdrift::app {

/// What is handed over, in which format and where; which files that makes, before they are written.
class DeliverDialog : public QDialog {
  Q_OBJECT
 public:
  DeliverDialog(SessionDesk& desk, FileDesk& files, QWidget* parent = nullptr);
  ~DeliverDialog() override;

 private:
  [[nodiscard]] DeliveryWish wish() const;
  void plan();
  void tell(const Delivery& delivery, const QString& problem);
  void chooseFolder();
  void deliver();

  SessionDesk& desk_;
  FileDesk& files_;
  std::vector<std::pair<Deliverable, QCheckBox*>> what_;
  QComboBox* container_;
  QComboBox* depth_;
  QComboBox* rate_;
  QCheckBox* dither_;
  QLineEdit* folder_;
  PlainTable* table_;
  QLabel* sum_;
  QPushButton* deliver_;
  QPushButton* open_;
  int planned_ = 0;  // how many plans were asked for: only the last one counts
  QThreadPool pool_;
};

}  // namespace yewdrift::app
