// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/look/key_names.h"

#include <QCoreApplication>
#include <QRegularExpression>

namespace yewdrift::app {

void KeyNames::call(const QString& made, const QString& now, const QString& deed) {
  names_[made] =
      !now.isEmpty() ? now : QCoreApplication::translate("KeyNames", "\"%1\" in the menus").arg(deed);
}

namespace {

/// A sign that would be taken for one of the sentence is called by its name.
QString inSentence(const QString& key) {
  if (key == ",") return QCoreApplication::translate("KeyNames", "the comma key");
  if (key == ".") return QCoreApplication::translate("KeyNames", "the full stop key");
  return key;
}

}  // namespace

QString KeyNames::spelled(QString sentence) const {
  static const QRegularExpression named(QStringLiteral("\\[([^\\[\\] ]+)\\]"));
  for (QRegularExpressionMatch match = named.match(sentence); match.hasMatch();) {
    const QString name = inSentence(names_.value(match.captured(1), match.captured(1)));
    sentence.replace(match.capturedStart(), match.capturedLength(), name);
    match = named.match(sentence, match.capturedStart() + name.size());
  }
  return sentence;
}

}  // namespace yewdrift::app
