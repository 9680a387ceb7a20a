// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "app/look/widgets.h"
#include "app/window/key_bindings.h"

namespace yewdrift::app {

/// Takes one key, with whatever is held along with it.
class KeyField : public QLineEdit {
  Q_OBJECT
 public:
  KeyField();

 signals:
  void pressed(const QKeySequence& key);
  void givenUp();

 protected:
  bool event(QEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;
};

/// Every key and what it does, searchable; another key is typed right into its row.
class KeysDialog : public QDialog {
  Q_OBJECT
 public:
  explicit KeysDialog(KeyBindings& keys, QWidget* parent = nullptr);

 private:
  enum Column { Does, Key };
  void refresh();
  void search();
  void ask();
  void give(QAction& action, const QKeySequence& key);
  [[nodiscard]] QAction* chosen() const;

  KeyBindings& keys_;
  QLineEdit* search_;
  PlainTable* table_;
  QLabel* told_;
  QPushButton* change_;
  QPushButton* none_;
  QPushButton* reset_;
};

}  // namespace yewdrift::app
