// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/held_edit.h"

#include <utility>

namespace yewdrift::app {

HeldEdit::~HeldEdit() {
  if (!held()) return;
  desk_->held_ = nullptr;
  desk_->showHeld();
  // Not from here: who held it may be half destroyed, and listens itself.
  QMetaObject::invokeMethod(
      desk_, [desk = desk_.data()] { emit desk->dragged(); }, Qt::QueuedConnection);
  QMetaObject::invokeMethod(
      desk_, [desk = desk_.data()] { emit desk->changed(); }, Qt::QueuedConnection);
}

void HeldEdit::begin(const QString& label, OnEnded onEnded) {
  desk_->keepHeld();
  label_ = label;
  onEnded_ = std::move(onEnded);
  desk_->held_ = this;
}

void HeldEdit::show(SessionDesk::Edit edit) {
  if (!held()) return;
  edit_ = std::move(edit);
  desk_->showHeld();
  emit desk_->dragged();
  emit desk_->changed();
}

void HeldEdit::keep() {
  if (held()) desk_->endHeld(true);
}

void HeldEdit::drop() {
  if (held()) desk_->endHeld(false);
}

}  // namespace yewdrift::app
