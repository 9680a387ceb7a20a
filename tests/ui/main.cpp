// SPDX-License-Identifier: GPL-3.0-or-later
#define CATCH_CONFIG_RUNNER
#include <QApplication>
#include <QStandardPaths>
#include <catch2/catch.hpp>

#include "app/theme.h"

int main(int argc, char** argv) {
  QStandardPaths::setTestModeEnabled(true);
  QApplication app(argc, argv);
  QApplication::setApplicationName("yewdrift-tests");
  QApplication::setOrganizationName("yewdrift-tests");
  QApplication::setStyle("Fusion");
  yewdrift::app::loadFonts();
  yewdrift::app::applyTheme(yewdrift::app::ThemeChoice::Light);
  return Catch::Session().run(argc, argv);
}
