// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QDialog>
#include <QLabel>
#include <QPushButton>

#include "app/desk/file_desk.h"
#include "app/look/widgets.h"

namespace yewdrift::app {

/// Every audio file of the session: its size and state, who uses it; missing ones are found again, those that
/// nobody needs go to the trash.
class FilesDialog : public QDialog {
  Q_OBJECT
 public:
  FilesDialog(SessionDesk& desk, FileDesk& files, QWidget* parent = nullptr);

 protected:
  bool event(QEvent* event) override;

 private:
  void refresh();
  void find();
  void trash();

  SessionDesk& desk_;
  FileDesk& files_;
  PlainTable* table_;
  QLabel* sum_;
  QPushButton* find_;
  QPushButton* trash_;
};

}  // namespace yewdrift::app
