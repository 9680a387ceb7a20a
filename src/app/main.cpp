// SPDX-License-Identifier: GPL-3.0-or-later
#include <QApplication>
#include <QCommandLineParser>
#include <QFileDialog>
#include <QMessageBox>
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
  arguments.addPositionalArgument("session", QObject::tr("A session's folder; without one, a dialog asks."));
  arguments.process(app);
  yewdrift::app::loadFonts();
  yewdrift::app::applyTheme(yewdrift::app::savedThemeChoice());
  QString folder = arguments.positionalArguments().value(0);
  if (folder.isEmpty())
    folder = QFileDialog::getExistingDirectory(
        nullptr, QObject::tr("Open a session, or choose an empty folder for a new one"));
  if (folder.isEmpty()) return 0;
  yewdrift::app::SessionWindows windows;
  // The last window that closes ends the program; while one makes room for another, none is open.
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
    QMessageBox::warning(nullptr, QObject::tr("Yewdrift"), yewdrift::app::spoken(e));
    return 1;
  }
  return QApplication::exec();
}
