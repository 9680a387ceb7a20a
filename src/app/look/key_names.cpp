// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/look/key_names.h"

#include <QCoreApplication>
#include <QRegularExpression>

namespace yewdrift::app {

void KeyNames::call(const QString& made, const QString& now, const QString& deed) {
  names_[made] =
      !now.isEmpty() ? now : QCoreApplication::translate("KeyNames", "\"%1\" in the menus").arg(deed);
}

QString KeyNames::spelled(QString sentence) const {
  static const QRegularExpression named(QStringLiteral("\\[([^\\[\\] ]+)\\]"));
  for (QRegularExpressionMatch match = named.match(sentence); match.hasMatch();) {
    const QString name = names_.value(match.captured(1), match.captured(1));
    sentence.replace(match.capturedStart(), match.capturedLength(), name);
    match = named.match(sentence, match.capturedStart() + name.size());
  }
  return sentence;
}

}  // namespace yewdrift::app
