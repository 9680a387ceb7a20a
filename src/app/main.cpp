// SPDX-License-Identifier: GPL-3.0-or-later
#include <QApplication>
#include <QCommandLineParser>
#include <QFileDialog>
#include <QMessageBox>
#include <QSettings>
#include <cstdio>

#include "app/main_window.h"
#include "app/theme.h"
#include "core/error.h"

namespace {

using yewdrift::app::MainWindow;
using yewdrift::app::Studio;

void createSession(const QString& folder) {
  yewdrift::Session session;
  session.name = QFileInfo(folder).fileName().toStdString();
  yewdrift::SessionFolder::create(folder.toStdString(), session);
}

/// Opens a session in a window; the window asks for others and then goes.
void openWindow(const QString& folder, bool create) {
  if (create) createSession(folder);
  auto studio = std::make_unique<Studio>(folder.toStdString());
  const bool performer = std::filesystem::exists(studio->folderPath() / "performer");
  QSettings settings;
  const QString driver = performer ? "Simulated" : settings.value("device/driver", "Simulated").toString();
  studio->openDevice(driver, performer ? QString() : settings.value("device/name").toString());
  auto* window = new MainWindow(std::move(studio));
  window->setAttribute(Qt::WA_DeleteOnClose);
  QObject::connect(window, &MainWindow::sessionAsked, window, [window](const QString& next, bool makeNew) {
    try {
      openWindow(next, makeNew);
      window->close();
    } catch (const std::exception& e) {
      window->say(QString::fromUtf8(e.what()));
    }
  });
  window->show();
}

}  // namespace

int main(int argc, char** argv) {
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
    openWindow(folder, chosen.exists() && chosen.isEmpty());
  } catch (const std::exception& e) {
    std::fprintf(stderr, "yewdrift: %s\n", e.what());
    QMessageBox::warning(nullptr, QObject::tr("Yewdrift"), QString::fromUtf8(e.what()));
    return 1;
  }
  return QApplication::exec();
}
