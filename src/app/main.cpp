// SPDX-License-Identifier: GPL-3.0-or-later
#include <QApplication>
#include <QCommandLineParser>
#include <QFileDialog>
#include <QMessageBox>
#include <cstdio>

#include "app/look/theme.h"
#include "app/window/main_window.h"
#include "core/engine/open_readers.h"
#include "core/error.h"

namespace {

using yewdrift::app::MainWindow;
using yewdrift::app::Studio;

/// Opens a session in a window, made first where it is given; the window asks for others and then goes.
void openWindow(const QString& folder, const std::optional<yewdrift::Session>& fresh) {
  if (fresh) yewdrift::SessionFolder::create(folder.toStdString(), *fresh);
  auto studio = std::make_unique<Studio>(folder.toStdString());
  const bool performer = std::filesystem::exists(studio->desk().folderPath() / "performer");
  auto choice = yewdrift::app::savedAudioChoice();
  if (performer) choice.driver = "Simulated";  // the demo's players sit there
  studio->device().open(choice);
  auto* window = new MainWindow(std::move(studio));
  window->setAttribute(Qt::WA_DeleteOnClose);
  QObject::connect(window, &MainWindow::sessionAsked, window,
                   [window](const QString& next, const std::optional<yewdrift::Session>& made) {
                     try {
                       openWindow(next, made);
                       window->close();
                     } catch (const std::exception& e) {
                       window->say(QString::fromUtf8(e.what()));
                     }
                   });
  window->show();
}

}  // namespace

int main(int argc, char** argv) {
  yewdrift::OpenReaders::raiseLimit();
  QApplication app(argc, argv);
  QApplication::setApplicationName("yewdrift");
  QApplication::setOrganizationName("yewdrift");
  QApplication::setStyle("Fusion");
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
  try {
    const QDir chosen(folder);
    std::optional<yewdrift::Session> fresh;
    if (chosen.exists() && chosen.isEmpty()) {
      fresh.emplace();
      fresh->name = chosen.dirName().toStdString();
    }
    openWindow(folder, fresh);
  } catch (const std::exception& e) {
    std::fprintf(stderr, "yewdrift: %s\n", e.what());
    QMessageBox::warning(nullptr, QObject::tr("Yewdrift"), QString::fromUtf8(e.what()));
    return 1;
  }
  return QApplication::exec();
}
