// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/demo_maker.h"

#include <QCoreApplication>
#include <QDir>
#include <QPointer>
#include <QProcess>
#include <QStandardPaths>

namespace yewdrift::app {
namespace {

struct Ending {
  bool cancelled = false;
  QString wrong;  // what the program said; empty where all went well
};

/// The last line that begins with a number: how far it has come.
double shareIn(const QByteArray& lines) {
  double share = 0.0;
  for (const QByteArray& line : lines.split('\n'))
    if (line.endsWith('%')) share = line.chopped(1).toDouble() / 100.0;
  return share;
}

Ending makeIn(const QString& program, const QString& folder, Jobs::Run& run) {
  const QString making = folder + ".making";
  QDir(making).removeRecursively();
  if (!QDir().mkpath(QFileInfo(folder).absolutePath()))
    return {false, DemoMaker::tr("The folder %1 cannot be made.").arg(QFileInfo(folder).absolutePath())};
  QProcess process;
  process.start(program, {making});
  bool wanted = process.waitForStarted();
  QByteArray said;
  while (wanted && process.state() != QProcess::NotRunning) {
    process.waitForFinished(100);
    said += process.readAllStandardOutput();
    wanted = run.tell(shareIn(said));
  }
  if (!wanted) {
    process.kill();
    process.waitForFinished();
  }
  const bool well = process.exitStatus() == QProcess::NormalExit && process.exitCode() == 0;
  if (wanted && well && QDir().rename(making, folder)) return {};
  QDir(making).removeRecursively();
  if (run.cancelled()) return {true, {}};
  const QString wrong = QString::fromUtf8(process.readAllStandardError()).trimmed();
  return {false, wrong.isEmpty() ? DemoMaker::tr("The demo session could not be made.") : wrong};
}

}  // namespace

QString DemoMaker::folder() {
  // Not the settings' place: it is a session like any other, and shared with who starts it by a script.
  return QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) +
         "/yewdrift/The Lantern Ferry";
}

bool DemoMaker::isThere() {
  return QFileInfo::exists(folder() + "/session.json");
}

QString DemoMaker::program() {
  const QString name = "yewdrift-demo-session";
  const QString beside = QStandardPaths::findExecutable(name, {QCoreApplication::applicationDirPath()});
  return beside.isEmpty() ? QStandardPaths::findExecutable(name) : beside;
}

void DemoMaker::make() {
  if (busy_) return;
  const QString program = DemoMaker::program();
  if (program.isEmpty())
    return emit failed(
        tr("The program that makes the demo session is not installed (yewdrift-demo-session)."));
  busy_ = true;
  const QString folder = DemoMaker::folder();
  jobs_.start(tr("Makes the demo session"), Jobs::Cancel::Possible,
              [self = QPointer<DemoMaker>(this), program, folder](Jobs::Run& run) {
                const Ending ending = makeIn(program, folder, run);
                QMetaObject::invokeMethod(
                    qApp,
                    [self, ending, folder] {
                      if (!self) return;
                      self->busy_ = false;
                      if (ending.cancelled) return emit self->cancelled();
                      if (!ending.wrong.isEmpty()) return emit self->failed(ending.wrong);
                      emit self->made(folder);
                    },
                    Qt::QueuedConnection);
              });
}

}  // namespace yewdrift::app
