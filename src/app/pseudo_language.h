// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QTranslator>

#include "app/look/plural_forms.h"

namespace yewdrift::app {

/// A language that nobody speaks: every sentence that can be translated comes accented and 40 % longer, so
/// that tests and pictures show what has no room and what was never handed to a translator.
class PseudoLanguage : public QTranslator {
 public:
  [[nodiscard]] bool isEmpty() const override { return false; }
  [[nodiscard]] QString translate(const char*, const char* source, const char*, int n) const override {
    const QString singular = EnglishPlurals::of(source, n);
    return of(singular.isEmpty() ? QString::fromUtf8(source) : singular);
  }
  [[nodiscard]] static QString of(const QString& source) {
    static const QString plain = QStringLiteral("aeiouyAEIOUcnsz");
    static const QString accented = QStringLiteral("äéïöüýÄÉÏÖÜçñšž");
    QString text;
    bool tag = false;
    for (qsizetype i = 0; i < source.size(); ++i) {
      const QChar c = source[i];
      if (c == '<') tag = true;
      if (c == '>') tag = false;
      // Places of arguments and letters of menus stay.
      const bool kept = tag || (i > 0 && (source[i - 1] == '%' || source[i - 1] == '&'));
      const qsizetype at = plain.indexOf(c);
      text += kept || at < 0 ? c : accented[at];
    }
    if (source.trimmed().size() < 2) return text;
    for (qsizetype more = (source.size() * 2 + 4) / 5; more > 0; more -= 6)
      text +=
          (more > 2 ? QStringLiteral(" ") : QString()) + QString(std::min<qsizetype>(more, 5), QChar(0xF8));
    return text;
  }
};

}  // namespace yewdrift::app
