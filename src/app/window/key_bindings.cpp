// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/key_bindings.h"

#include <QSettings>

namespace yewdrift::app {

QString KeyBindings::settingOf(const QString& id) {
  // A slash would be a group of settings.
  return QStringLiteral("keys/") + QString::fromLatin1(id.toUtf8().toHex());
}

void KeyBindings::take(const QList<QAction*>& actions) {
  const QSettings settings;
  for (QAction* action : actions) {
    actions_ << action;
    made_[action] = action->shortcuts();
  }
  for (QAction* action : actions_) {
    const QString setting = settingOf(made_[action].value(0).toString(QKeySequence::PortableText));
    if (!settings.contains(setting)) continue;
    const QKeySequence key(settings.value(setting).toString(), QKeySequence::PortableText);
    action->setShortcuts(key.isEmpty() ? QList<QKeySequence>{} : QList<QKeySequence>{key});
  }
  // Two that were remembered, or one that is new here, may want the same: then the first has it.
  QList<QKeySequence> given;
  for (QAction* action : actions_) {
    QList<QKeySequence> keys;
    for (const QKeySequence& key : action->shortcuts())
      if (!given.contains(key)) keys << key;
    given << keys;
    if (keys != action->shortcuts()) action->setShortcuts(keys);
  }
}

QString KeyBindings::keysOf(const QAction& action) {
  QStringList keys;
  for (const QKeySequence& key : action.shortcuts()) keys << key.toString(QKeySequence::NativeText);
  return keys.join(tr(" or "));
}

bool KeyBindings::isChanged(const QAction& action) const {
  const auto made = made_.find(&action);
  return made != made_.end() && made->second != action.shortcuts();
}

KeyNames KeyBindings::names() const {
  KeyNames names;
  for (const QAction* action : actions_)
    for (const QKeySequence& made : made_.at(action))
      // One of several keys that still does it is called as it is.
      names.call(
          made.toString(QKeySequence::PortableText),
          (action->shortcuts().contains(made) ? made : action->shortcut()).toString(QKeySequence::NativeText),
          action->text().remove('&'));
  return names;
}

QAction* KeyBindings::takeAway(const QAction& from, const QList<QKeySequence>& keys) {
  QAction* loser = nullptr;
  for (QAction* other : actions_) {
    if (other == &from) continue;
    QList<QKeySequence> left;
    for (const QKeySequence& each : other->shortcuts())
      if (!keys.contains(each)) left << each;
    if (left == other->shortcuts()) continue;
    other->setShortcuts(left);
    remember(*other);
    loser = other;
  }
  return loser;
}

QAction* KeyBindings::assign(QAction& action, const QKeySequence& key) {
  const QList<QKeySequence> keys = key.isEmpty() ? QList<QKeySequence>{} : QList<QKeySequence>{key};
  QAction* loser = takeAway(action, keys);
  action.setShortcuts(keys);
  remember(action);
  emit changed();
  return loser;
}

void KeyBindings::reset(QAction& action) {
  const auto made = made_.find(&action);
  if (made == made_.end()) return;
  takeAway(action, made->second);
  action.setShortcuts(made->second);
  remember(action);
  emit changed();
}

void KeyBindings::resetAll() {
  for (QAction* action : actions_) {
    action->setShortcuts(made_[action]);
    remember(*action);
  }
  emit changed();
}

void KeyBindings::remember(const QAction& action) {
  const QString setting = settingOf(made_[&action].value(0).toString(QKeySequence::PortableText));
  QSettings settings;
  if (isChanged(action))
    settings.setValue(setting, action.shortcuts().value(0).toString(QKeySequence::PortableText));
  else
    settings.remove(setting);
}

}  // namespace yewdrift::app
