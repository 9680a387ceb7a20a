// SPDX-License-Identifier: GPL-3.0-or-later
#define CATCH_CONFIG_EXTERNAL_INTERFACES  // listeners
#include <QApplication>
#include <QSettings>
#include <QTemporaryDir>
#include <catch2/catch.hpp>

#include "app/look/language.h"
#include "app/look/theme.h"
#include "runner.h"

namespace {

/// What one test leaves in the settings is no matter of the next.
struct FreshSettings : Catch::TestEventListenerBase {
  using TestEventListenerBase::TestEventListenerBase;
  void testCaseStarting(const Catch::TestCaseInfo&) override { QSettings().clear(); }
};
CATCH_REGISTER_LISTENER(FreshSettings)

}  // namespace

int main(int argc, char** argv) {
  // Settings of its own: several test programs run at a time. (Qt's own test mode has one place for all.)
  const QTemporaryDir config;
  qputenv("XDG_CONFIG_HOME", config.path().toUtf8());
  qputenv("XDG_DATA_HOME", (config.path() + "/share").toUtf8());
  QApplication app(argc, argv);
  QApplication::setApplicationName("yewdrift-tests");
  QApplication::setOrganizationName("yewdrift-tests");
  QApplication::setStyle("Fusion");
  const yewdrift::app::Language language = yewdrift::app::speak(QLocale::c());
  yewdrift::app::loadFonts();
  yewdrift::app::applyTheme(yewdrift::app::ThemeChoice::Light);
  return yewdrift::test::runTests(argc, argv);
}
