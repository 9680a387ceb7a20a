// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QTranslator>

namespace yewdrift::app {

/// The plural forms of the language that the sources are written in, by Qt's own mechanism: a sentence with
/// %n in it, such as "%n take(s)" or "%n passes|1 pass" where letters at the end do not do, is said in the
/// singular for 1 and in the plural for all else. Other languages bring theirs in their translations, which
/// are asked first.
class EnglishPlurals : public QTranslator {
 public:
  [[nodiscard]] bool isEmpty() const override { return false; }
  [[nodiscard]] QString translate(const char*, const char* source, const char*, int n) const override {
    return of(source, n);
  }
  /// Null where there is nothing to count in it.
  [[nodiscard]] static QString of(const char* source, int n);
};

}  // namespace yewdrift::app
