// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/keys_by_focus.h"

#include <QAbstractButton>
#include <QAbstractItemView>
#include <QAbstractScrollArea>
#include <QAbstractSlider>
#include <QApplication>
#include <QComboBox>
#include <QDialog>
#include <QDoubleSpinBox>
#include <QLineEdit>
#include <QScrollBar>
#include <QSignalBlocker>
#include <QSpinBox>
#include <QTabBar>

#include "app/desk/session_desk.h"
#include "app/look/widgets.h"

namespace yewdrift::app {
namespace {

bool isOneOf(int key, std::initializer_list<int> keys) {
  return std::find(keys.begin(), keys.end(), key) != keys.end();
}

bool isArrow(int key) {
  return isOneOf(key, {Qt::Key_Left, Qt::Key_Right, Qt::Key_Up, Qt::Key_Down});
}

bool isPaging(int key) {
  return isOneOf(key, {Qt::Key_PageUp, Qt::Key_PageDown, Qt::Key_Home, Qt::Key_End});
}

/// What a cell is typed into, which closes by itself.
bool isCellEditor(const QWidget& control) {
  const QWidget* parent = control.parentWidget();
  const auto* table = parent ? qobject_cast<const PlainTable*>(parent->parentWidget()) : nullptr;
  return table && table->typing();
}

template <typename SpinBox>
void showValueAgain(SpinBox& box) {
  const QSignalBlocker quietly(&box);
  const auto value = box.value();
  box.setValue(value == box.minimum() ? box.maximum() : box.minimum());
  box.setValue(value);
}

/// What was typed and not confirmed goes.
void giveUpTyping(QWidget& field) {
  if (auto* line = qobject_cast<QLineEdit*>(&field)) {
    while (line->isUndoAvailable()) line->undo();
    line->setModified(false);
  }
  if (auto* box = qobject_cast<QSpinBox*>(&field)) showValueAgain(*box);
  if (auto* box = qobject_cast<QDoubleSpinBox*>(&field)) showValueAgain(*box);
}

}  // namespace

bool usesKey(const QWidget& control, int key, Qt::KeyboardModifiers modifiers) {
  const bool plain = !(modifiers & ~(Qt::ShiftModifier | Qt::KeypadModifier));
  if (qobject_cast<const QAbstractButton*>(&control))
    return plain && isOneOf(key, {Qt::Key_Space, Qt::Key_Select});
  if (qobject_cast<const QComboBox*>(&control)) {
    const bool opens = key == Qt::Key_F4 || (isArrow(key) && modifiers == Qt::AltModifier);
    return opens || (plain && (isArrow(key) || isPaging(key) || key == Qt::Key_Space));
  }
  if (qobject_cast<const QAbstractSlider*>(&control)) return plain && (isArrow(key) || isPaging(key));
  if (qobject_cast<const QAbstractSpinBox*>(&control)) {
    // Numbers are typed into them, letters and Space are not.
    const bool digit = key >= Qt::Key_0 && key <= Qt::Key_9;
    const bool text =
        modifiers == Qt::ControlModifier && isOneOf(key, {Qt::Key_A, Qt::Key_C, Qt::Key_V, Qt::Key_X});
    return text || (plain && (digit || isArrow(key) || isPaging(key) ||
                              isOneOf(key, {Qt::Key_Minus, Qt::Key_Plus, Qt::Key_Comma, Qt::Key_Period,
                                            Qt::Key_Delete, Qt::Key_Backspace})));
  }
  if (qobject_cast<const QAbstractItemView*>(&control)) {
    const bool digit = key >= Qt::Key_0 && key <= Qt::Key_9;
    const bool all = key == Qt::Key_A && modifiers == Qt::ControlModifier;
    return all || (plain && (digit || isArrow(key) || isPaging(key) ||
                             isOneOf(key, {Qt::Key_F2, Qt::Key_Space, Qt::Key_Delete, Qt::Key_Backspace,
                                           Qt::Key_Minus, Qt::Key_Bar})));
  }
  if (qobject_cast<const QTabBar*>(&control))
    return plain && isOneOf(key, {Qt::Key_Left, Qt::Key_Right, Qt::Key_Home, Qt::Key_End});
  return false;
}

KeysByFocus::KeysByFocus(QWidget& window, QWidget& takes, SessionDesk& desk)
    : QObject(&window), window_(window), takes_(takes), desk_(desk) {
  qApp->installEventFilter(this);
}

bool KeysByFocus::ours(const QObject* object) const {
  const auto* widget = qobject_cast<const QWidget*>(object);
  for (; widget; widget = widget->parentWidget())
    if (widget == &window_) return true;
  return false;
}

bool KeysByFocus::eventFilter(QObject* object, QEvent* event) {
  switch (event->type()) {
    case QEvent::KeyRelease:
      releasedKey_ = static_cast<QKeyEvent*>(event)->key();
      releasedAt_ = static_cast<QKeyEvent*>(event)->timestamp();
      return false;
    case QEvent::ShortcutOverride:
      if (ours(object) && repeatsInVain(*static_cast<QKeyEvent*>(event))) {
        event->accept();  // so that no shortcut is looked for
        return true;
      }
      return ours(object) &&
             overrideShortcut(*static_cast<QWidget*>(object), *static_cast<QKeyEvent*>(event));
    case QEvent::KeyPress:
      if (ours(object) && repeatsInVain(*static_cast<QKeyEvent*>(event))) return true;
      return ours(object) && press(*static_cast<QWidget*>(object), *static_cast<QKeyEvent*>(event));
    case QEvent::Wheel:
      return ours(object) && wheel(*static_cast<QWidget*>(object), *event);
    case QEvent::WindowDeactivate:
      if (object == &window_) desk_.keepHeld();
      return false;
    default:
      return false;
  }
}

bool KeysByFocus::repeatsInVain(const QKeyEvent& event) const {
  const bool repeats = event.key() == releasedKey_ && event.timestamp() != 0 &&
                       event.timestamp() == releasedAt_ && !event.isAutoRepeat();
  if (!repeats) return false;
  const QKeySequence pressed(event.keyCombination());
  const auto actions = window_.actions();
  return std::any_of(actions.begin(), actions.end(), [&](const QAction* action) {
    return !action->autoRepeat() && action->shortcuts().contains(pressed);
  });
}

bool KeysByFocus::overrideShortcut(QWidget& control, QKeyEvent& event) {
  // Asked of the control that has the focus first, then of those it lies in: their turn is not this key's.
  if (&control != control.window()->focusWidget()) return false;
  const bool drops = event.key() == Qt::Key_Escape && desk_.holding();
  if (drops || usesKey(control, event.key(), event.modifiers())) {
    event.accept();
    return true;
  }
  // Number fields would keep all letters to themselves.
  if (!qobject_cast<QAbstractSpinBox*>(&control)) return false;
  event.ignore();
  return true;
}

bool KeysByFocus::press(QWidget& control, QKeyEvent& event) {
  if (event.key() == Qt::Key_Escape && desk_.holding()) {
    desk_.dropHeld();
    return true;
  }
  const bool field = qobject_cast<QLineEdit*>(&control) || qobject_cast<QAbstractSpinBox*>(&control);
  if (control.window() != &window_ || isCellEditor(control)) return false;
  const bool escape = event.key() == Qt::Key_Escape;
  const bool enter = event.key() == Qt::Key_Return || event.key() == Qt::Key_Enter;
  if (escape && field) giveUpTyping(control);
  if (escape && (field || qobject_cast<QAbstractItemView*>(&control) || qobject_cast<QComboBox*>(&control) ||
                 qobject_cast<QAbstractButton*>(&control) || qobject_cast<QAbstractSlider*>(&control) ||
                 qobject_cast<QTabBar*>(&control))) {
    takes_.setFocus();
    return true;
  }
  // The field confirms first what was typed.
  if (enter && field)
    QMetaObject::invokeMethod(&takes_, qOverload<>(&QWidget::setFocus), Qt::QueuedConnection);
  return false;
}

bool KeysByFocus::wheel(QWidget& control, QEvent& event) {
  const bool value = qobject_cast<QComboBox*>(&control) || qobject_cast<QAbstractSpinBox*>(&control) ||
                     qobject_cast<QTabBar*>(&control) ||
                     (qobject_cast<QAbstractSlider*>(&control) && !qobject_cast<QScrollBar*>(&control));
  if (!value || control.hasFocus()) return false;
  event.ignore();  // for what it lies in
  return true;
}

}  // namespace yewdrift::app
