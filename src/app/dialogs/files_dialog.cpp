// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dialogs/files_dialog.h"

#include <QFileDialog>
#include <QHeaderView>
#include <QLocale>
#include <QMessageBox>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/look/spoken.h"

namespace yewdrift::app {
namespace {

QString inUnits(std::uint64_t bytes) {
  return QLocale().formattedDataSize(static_cast<qint64>(bytes));
}

}  // namespace

FilesDialog::FilesDialog(SessionDesk& desk, FileDesk& files, QWidget* parent)
    : QDialog(parent), desk_(desk), files_(files) {
  setAttribute(Qt::WA_DeleteOnClose);
  setWindowTitle(tr("Audio files"));
  resize(820, 480);
  auto* column = new QVBoxLayout(this);
  table_ =
      new PlainTable({tr("File"), tr("Size"), tr("State"), tr("Used by")}, tr("Audio files of the session"));
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::ResizeToContents);
  column->addWidget(table_, 1);
  sum_ = new QLabel;
  sum_->setAccessibleName(tr("What they come to"));
  sum_->setWordWrap(true);
  find_ = new QPushButton(tr("Find missing files…"));
  find_->setToolTip(tr("Looks in a folder for files that are missing, and copies them into their places."));
  trash_ = new QPushButton(tr("Move unused ones to the trash…"));
  trash_->setToolTip(
      tr("Those that neither the session nor its history needs; the desktop can restore them."));
  auto* close = new QPushButton(tr("Close"));
  auto* buttons = new QHBoxLayout;
  buttons->addWidget(sum_, 1);
  for (QPushButton* each : {find_, trash_, close}) buttons->addWidget(each);
  column->addLayout(buttons);
  connect(find_, &QPushButton::clicked, this, &FilesDialog::find);
  connect(trash_, &QPushButton::clicked, this, &FilesDialog::trash);
  connect(close, &QPushButton::clicked, this, &QDialog::close);
  refresh();
}

bool FilesDialog::event(QEvent* event) {
  // Whoever comes back to it sees what is there by now.
  if (event->type() == QEvent::WindowActivate) refresh();
  return QDialog::event(event);
}

void FilesDialog::refresh() {
  const auto files = desk_.files();
  table_->setRowCount(static_cast<int>(files.size()));
  std::uint64_t all = 0;
  std::uint64_t unused = 0;
  bool missing = false;
  for (int row = 0; row < table_->rowCount(); ++row) {
    const FileOfSession& file = files[static_cast<std::size_t>(row)];
    all += file.bytes;
    if (file.needed == Needed::ByNobody) unused += file.bytes;
    missing = missing || file.state == FileState::Missing;
    QStringList users;
    for (const FileUser& user : file.users)
      users << tr("%1, lane %2").arg(QString::fromStdString(user.track)).arg(user.lane.value);
    const QString state = file.state == FileState::There     ? tr("there")
                          : file.state == FileState::Missing ? tr("missing")
                          : file.state == FileState::Shorter ? tr("shorter than it was")
                                                             : tr("cannot be read");
    const QString used = file.needed == Needed::ForHistory ? tr("only what can be undone")
                         : file.needed == Needed::ByNobody ? tr("nobody")
                                                           : users.join(", ");
    int place = 0;
    for (const QString& text : {QString::fromStdString(file.path), inUnits(file.bytes), state, used})
      table_->setItem(row, place++, new QTableWidgetItem(text));
  }
  sum_->setText(tr("%n file(s), %1; %2 of that nobody needs.", nullptr, table_->rowCount())
                    .arg(inUnits(all), inUnits(unused)));
  find_->setEnabled(missing);
  trash_->setEnabled(unused > 0 && desk_.writable());
}

void FilesDialog::find() {
  const QString where = QFileDialog::getExistingDirectory(this, tr("Where to look"));
  if (where.isEmpty()) return;
  files_.findMissing(where.toStdString());
  refresh();
}

/// Never silently: it is shown what goes, and it can come back.
void FilesDialog::trash() {
  QStringList going;
  for (const FileOfSession& file : desk_.files())
    if (file.needed == Needed::ByNobody) going << QString::fromStdString(file.path);
  QMessageBox ask(QMessageBox::NoIcon, tr("Move to the trash"),
                  tr("%n file(s) that neither the session nor its history needs go to the trash:", nullptr,
                     static_cast<int>(going.size())) +
                      "\n\n" + going.mid(0, 12).join("\n") + (going.size() > 12 ? "\n…" : ""),
                  QMessageBox::Cancel, this);
  ask.addButton(tr("Move them"), QMessageBox::AcceptRole);
  if (ask.exec() == QMessageBox::Cancel) return;
  files_.trashUnneeded();
  refresh();
}

}  // namespace yewdrift::app
