// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QMap>
#include <QString>

namespace yewdrift::app {

/// How keys are called in sentences: these name a key as it was made, in brackets ("[S] and [G] step"), and
/// are spelled before they are shown, since a person may have given other keys to what they are about.
class KeyNames {
 public:
  /// What was made with that key has this one now; an empty `now`: it has none, and is `deed` in the menus.
  void call(const QString& made, const QString& now, const QString& deed);
  [[nodiscard]] QString spelled(QString sentence) const;

 private:
  QMap<QString, QString> names_;
};

}  // namespace yewdrift::app
