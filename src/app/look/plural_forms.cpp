// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/look/plural_forms.h"

namespace yewdrift::app {

QString EnglishPlurals::of(const char* source, int n) {
  QString text = QString::fromUtf8(source);
  if (n < 0 || !text.contains("%n")) return {};
  const bool one = n == 1;
  // "many|one": where more than an ending differs.
  if (const qsizetype bar = text.indexOf('|'); bar >= 0) return one ? text.mid(bar + 1) : text.left(bar);
  return text.replace("(es)", one ? "" : "es").replace("(s)", one ? "" : "s");
}

}  // namespace yewdrift::app
