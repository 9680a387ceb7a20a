// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/look/language.h"

#include <QCoreApplication>
#include <QLibraryInfo>
#include <QStandardPaths>

#include "app/look/plural_forms.h"

namespace yewdrift::app {
namespace {

/// The one installed last is asked first.
void install(Language& language, std::unique_ptr<QTranslator> translator) {
  QCoreApplication::installTranslator(translator.get());
  language.push_back(std::move(translator));
}

bool installFrom(const QString& folder, const QLocale& locale, const QString& name, Language& language) {
  auto translator = std::make_unique<QTranslator>();
  if (!translator->load(locale, name, QStringLiteral("_"), folder)) return false;
  install(language, std::move(translator));
  return true;
}

}  // namespace

Language speak(const QLocale& locale) {
  Language language;
  install(language, std::make_unique<EnglishPlurals>());
  installFrom(QLibraryInfo::path(QLibraryInfo::TranslationsPath), locale, QStringLiteral("qtbase"), language);
  const QStringList folders =
      QStandardPaths::locateAll(QStandardPaths::GenericDataLocation, QStringLiteral("yewdrift/translations"),
                                QStandardPaths::LocateDirectory);
  for (const QString& folder : folders)
    if (installFrom(folder, locale, QStringLiteral("yewdrift"), language)) break;
  return language;
}

}  // namespace yewdrift::app
