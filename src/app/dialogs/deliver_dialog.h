// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QThreadPool>
#include <QToolButton>
#include <memory>

#include "app/desk/file_desk.h"
#include "app/look/widgets.h"
#include "core/deliver/delivery.h"

namespace yewdrift::app {

/// What is handed over, in which format and where; which files that makes, before they are written.
class DeliverDialog : public QDialog {
  Q_OBJECT
 public:
  /// `chosen`: the tracks whose audio is delivered at first; none: all.
  DeliverDialog(SessionDesk& desk, FileDesk& files, const std::vector<TrackId>& chosen,
                QWidget* parent = nullptr);
  ~DeliverDialog() override;

 private:
  [[nodiscard]] DeliveryWish wish() const;
  void listTracks();
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
  QDoubleSpinBox* tail_;
  QToolButton* tracksButton_;
  QMenu* tracksMenu_;
  std::vector<std::pair<TrackId, QString>> listed_;  // in the menu
  std::vector<TrackId> left_;                        // tracks that are left out
  QLineEdit* folder_;
  PlainTable* table_;
  QLabel* sum_;
  QPushButton* deliver_;
  QPushButton* open_;
  int planned_ = 0;  // how many plans were asked for: only the last one counts
  QThreadPool pool_;
};

}  // namespace yewdrift::app
