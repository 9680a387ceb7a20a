// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QTimer>
#include <QWidget>

#include "app/desk/held_edit.h"

namespace yewdrift::app {

/// The edit of a field that shows a value: whatever its arrows, its wheel or its grip step through on the
/// way, one step of the history once it is left alone for a moment, left, or confirmed. Heard meanwhile.
class FieldEdit : public QObject {
  Q_OBJECT
 public:
  /// `label` names the step; `ended` is told whenever the field is to follow the session again.
  FieldEdit(SessionDesk& desk, QWidget* field, const QString& label, std::function<void()> ended);

  /// The field shows another value, made by that edit.
  void show(const SessionDesk::Edit& edit);
  /// A grip of it is held: it is not left alone until release().
  void press();
  void release();
  [[nodiscard]] bool held() const { return held_.held(); }

 protected:
  bool eventFilter(QObject* field, QEvent* event) override;

 private:
  void keep();

  HeldEdit held_;
  QString label_;
  std::function<void()> ended_;
  QTimer alone_;
  bool pressed_ = false;
  bool refused_ = false;  // what the grip does after it was dropped counts no more
};

}  // namespace yewdrift::app
