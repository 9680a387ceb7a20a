// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QDialog>
#include <QLabel>
#include <QPushButton>

#include "app/desk/file_desk.h"
#include "app/desk/pool_look.h"
#include "app/look/widgets.h"

namespace yewdrift::app {

/// Every audio file of the session: how long and large it is, who uses it, what is missing; each can be
/// heard.
class FilesDialog : public QDialog {
  Q_OBJECT
 public:
  FilesDialog(SessionDesk& desk, FileDesk& files, Transport& transport, QWidget* parent = nullptr);

 protected:
  bool event(QEvent* event) override;

 private:
  void makeLayout();
  void refresh();
  void refreshButtons();
  [[nodiscard]] QString whyNotHeard(const FileOfSession* file) const;
  void hear();
  void find();
  void trash();

  SessionDesk& desk_;
  FileDesk& files_;
  Transport& transport_;
  PoolLook look_;
  PlainTable* table_;
  QLabel* sum_;
  QPushButton* hear_;
  QPushButton* find_;
  QPushButton* trash_;
};

}  // namespace yewdrift::app
