// SPDX-License-Identifier: GPL-3.0-or-later
#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <cstdio>

#include "app/look/language.h"
#include "app/look/spoken.h"
#include "app/look/theme.h"
#include "app/window/session_windows.h"
#include "core/engine/open_readers.h"
#include "core/error.h"

int main(int argc, char** argv) {
  yewdrift::OpenReaders::raiseLimit();
  QApplication app(argc, argv);
  QApplication::setApplicationName("yewdrift");
  QApplication::setOrganizationName("yewdrift");
  QApplication::setStyle("Fusion");
  const yewdrift::app::Language language = yewdrift::app::speak(QLocale());
  QCommandLineParser arguments;
  arguments.setApplicationDescription(
      QObject::tr("Records takes, compares them and joins the best into one."));
  arguments.addHelpOption();
  arguments.addPositionalArgument("session",
                                  QObject::tr("A session's folder; without one, the start page is shown."));
  arguments.process(app);
  yewdrift::app::loadFonts();
  yewdrift::app::applyTheme(yewdrift::app::savedThemeChoice());
  const QString folder = arguments.positionalArguments().value(0);
  yewdrift::app::SessionWindows windows;
  // The last window that closes ends the program; while one makes room for another, none is open.
  if (folder.isEmpty()) {
    windows.start();
    return QApplication::exec();
  }
  try {
    const QDir chosen(folder);
    std::optional<yewdrift::Session> fresh;
    if (chosen.exists() && chosen.isEmpty()) {
      fresh.emplace();
      fresh->name = chosen.dirName().toStdString();
    }
    windows.open(folder, fresh);
  } catch (const std::exception& e) {
    std::fprintf(stderr, "yewdrift: %s\n", e.what());
    windows.start(yewdrift::app::spoken(e));
  }
  return QApplication::exec();
}
