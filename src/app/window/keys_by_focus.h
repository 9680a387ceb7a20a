// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QKeyEvent>
#include <QPointer>
#include <QWidget>

namespace yewdrift::app {

class SessionDesk;

/// Whether a control that has the focus uses that key itself: Space on a button, arrows in a list, digits in
/// a table. Everything else is the application's.
bool usesKey(const QWidget& control, int key, Qt::KeyboardModifiers modifiers);

/// Keys and wheels go where they are meant: what the focused control uses goes to it, before any shortcut of
/// the window; Enter and Escape in a field give the focus back to the takes; Escape drops what a hand holds;
/// a wheel changes a value only where the focus is. What a hand holds is kept when the window loses the
/// focus.
class KeysByFocus : public QObject {
 public:
  /// `takes` gets the focus back. Belongs to `window`.
  KeysByFocus(QWidget& window, QWidget& takes, SessionDesk& desk);

 protected:
  bool eventFilter(QObject* object, QEvent* event) override;

 private:
  [[nodiscard]] bool ours(const QObject* object) const;
  /// The event is a repetition by a key that is held, and the key's action is done once only. The toolkit
  /// calls repetitions so only where release and press arrive together; on a busy display they do not, but
  /// both carry the same time.
  [[nodiscard]] bool repeatsInVain(const QKeyEvent& event) const;
  bool overrideShortcut(QWidget& control, QKeyEvent& event);
  bool press(QWidget& control, QKeyEvent& event);
  static bool wheel(QWidget& control, QEvent& event);

  QWidget& window_;
  QWidget& takes_;
  SessionDesk& desk_;
  int releasedKey_ = 0;
  quint64 releasedAt_ = 0;  // time of the key's event, in milliseconds; 0: none
};

}  // namespace yewdrift::app
