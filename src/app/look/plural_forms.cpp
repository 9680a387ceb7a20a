// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/look/plural_forms.h"

#include "core/sentence.h"

namespace yewdrift::app {

QString EnglishPlurals::of(const char* source, int n) {
  QString text = QString::fromUtf8(source);
  if (n < 0 || !text.contains("%n")) return {};
  return QString::fromStdString(englishPlural(text.toStdString(), n));
}

}  // namespace yewdrift::app
