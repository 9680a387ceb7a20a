// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAction>
#include <QObject>
#include <map>

#include "app/look/key_names.h"

namespace yewdrift::app {

/// Which keys do what: those that actions were made with, until a person gives them others, which are
/// remembered. A key does one thing only.
class KeyBindings : public QObject {
  Q_OBJECT
 public:
  using QObject::QObject;
  /// They have the keys they were made with; those that are remembered take their place. Each action is known
  /// by its first key, which stays what it is in every language.
  void take(const QList<QAction*>& actions);
  [[nodiscard]] const QList<QAction*>& actions() const { return actions_; }
  /// Of actions that can have one; empty: it has none.
  [[nodiscard]] static QString keysOf(const QAction& action);
  [[nodiscard]] bool isChanged(const QAction& action) const;

  /// What sentences call them.
  [[nodiscard]] KeyNames names() const;

  /// That key, and no other. Whatever it did before it does no more; that action, if there is one.
  QAction* assign(QAction& action, const QKeySequence& key);
  void reset(QAction& action);
  void resetAll();

 signals:
  void changed();

 private:
  [[nodiscard]] static QString settingOf(const QString& id);
  QAction* takeAway(const QAction& from, const QList<QKeySequence>& keys);
  void remember(const QAction& action);

  QList<QAction*> actions_;
  std::map<const QAction*, QList<QKeySequence>> made_;
};

}  // namespace yewdrift::app
