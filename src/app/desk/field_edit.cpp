// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/field_edit.h"

#include <QKeyEvent>

namespace yewdrift::app {
namespace {

constexpr int leftAlone = 700;  // milliseconds

}  // namespace

FieldEdit::FieldEdit(SessionDesk& desk, QWidget* field, const QString& label, std::function<void()> ended)
    : QObject(field), held_(desk), label_(label), ended_(std::move(ended)) {
  alone_.setSingleShot(true);
  alone_.setInterval(leftAlone);
  connect(&alone_, &QTimer::timeout, this, &FieldEdit::keep);
  field->installEventFilter(this);
}

void FieldEdit::show(const SessionDesk::Edit& edit) {
  if (refused_) return;
  if (!held_.held())
    held_.begin(label_, [this](HeldEdit::Ended) {
      alone_.stop();
      refused_ = pressed_;
      ended_();
    });
  if (!pressed_) alone_.start();
  held_.show(edit);
}

void FieldEdit::press() {
  pressed_ = true;
  alone_.stop();
}

void FieldEdit::release() {
  pressed_ = refused_ = false;
  keep();
}

void FieldEdit::keep() {
  alone_.stop();
  if (!held_.held()) return;
  held_.keep();
  ended_();
}

bool FieldEdit::eventFilter(QObject*, QEvent* event) {
  const bool confirmed =
      event->type() == QEvent::KeyPress && (static_cast<QKeyEvent*>(event)->key() == Qt::Key_Return ||
                                            static_cast<QKeyEvent*>(event)->key() == Qt::Key_Enter);
  if (event->type() == QEvent::FocusOut || confirmed) keep();
  return false;
}

}  // namespace yewdrift::app
