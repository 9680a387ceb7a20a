// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dialogs/files_dialog.h"

#include <QFileDialog>
#include <QHeaderView>
#include <QLocale>
#include <QMessageBox>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

#include "app/look/spoken.h"

namespace yewdrift::app {
namespace {

QString inUnits(std::uint64_t bytes) {
  return QLocale().formattedDataSize(static_cast<qint64>(bytes));
}

QString formatOf(const FileOfSession& file) {
  QString channels = FilesDialog::tr("%n channel(s)", nullptr, file.channels);
  if (!file.format) return channels;
  const QString samples = *file.format == SampleFormat::Pcm16   ? FilesDialog::tr("16-bit")
                          : *file.format == SampleFormat::Pcm24 ? FilesDialog::tr("24-bit")
                                                                : FilesDialog::tr("32-bit float");
  return FilesDialog::tr("%1, %2").arg(channels, samples);
}

}  // namespace

FilesDialog::FilesDialog(SessionDesk& desk, FileDesk& files, Transport& transport, QWidget* parent)
    : QDialog(parent), desk_(desk), files_(files), transport_(transport), look_(desk) {
  setAttribute(Qt::WA_DeleteOnClose);
  setWindowTitle(tr("Audio files"));
  resize(900, 480);
  makeLayout();
  connect(&look_, &PoolLook::looked, this, &FilesDialog::refresh);
  connect(&transport, &Transport::changed, this, &FilesDialog::refreshButtons);
  refreshButtons();
  look_.look();
}

void FilesDialog::makeLayout() {
  auto* column = new QVBoxLayout(this);
  table_ = new PlainTable({tr("File"), tr("Length"), tr("Format"), tr("Size"), tr("State"), tr("Used by")},
                          tr("Audio files of the session"));
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
  table_->horizontalHeader()->setSectionResizeMode(5, QHeaderView::Stretch);
  column->addWidget(table_, 1);
  sum_ = new QLabel(tr("Being looked at…"));
  sum_->setAccessibleName(tr("What they come to"));
  sum_->setWordWrap(true);
  hear_ = new QPushButton(tr("Hear it"));
  find_ = new QPushButton(tr("Find missing files…"));
  find_->setToolTip(tr("Looks in a folder for files that are missing, and copies them into their places."));
  trash_ = new QPushButton(tr("Move unused ones to the trash…"));
  trash_->setToolTip(
      tr("Those that neither the session nor its history needs; the desktop can restore them."));
  auto* close = new QPushButton(tr("Close"));
  auto* buttons = new QHBoxLayout;
  buttons->addWidget(sum_, 1);
  for (QPushButton* each : {hear_, find_, trash_, close}) {
    each->setAutoDefault(false);  // Enter hears the file in hand
    buttons->addWidget(each);
  }
  column->addLayout(buttons);
  connect(table_, &QTableWidget::itemActivated, this, &FilesDialog::hear);
  connect(table_, &QTableWidget::currentCellChanged, this, &FilesDialog::refreshButtons);
  connect(hear_, &QPushButton::clicked, this, &FilesDialog::hear);
  connect(find_, &QPushButton::clicked, this, &FilesDialog::find);
  connect(trash_, &QPushButton::clicked, this, &FilesDialog::trash);
  connect(close, &QPushButton::clicked, this, &QDialog::close);
}

bool FilesDialog::event(QEvent* event) {
  // Whoever comes back to it sees what is there by now.
  if (event->type() == QEvent::WindowActivate) look_.look();
  return QDialog::event(event);
}

void FilesDialog::refresh() {
  const std::vector<FileOfSession>& files = look_.files();
  const QTableWidgetItem* const inHand = table_->item(table_->currentRow(), 0);
  const QString path = inHand ? inHand->text() : QString();
  table_->setRowCount(static_cast<int>(files.size()));
  const PositionWords clock = PositionWords::byClock(desk_.ruler());
  std::uint64_t all = 0;
  std::uint64_t unused = 0;
  for (int row = 0; row < table_->rowCount(); ++row) {
    const FileOfSession& file = files[static_cast<std::size_t>(row)];
    all += file.bytes;
    if (file.needed == Needed::ByNobody) unused += file.bytes;
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
    for (const QString& text : {QString::fromStdString(file.path), clock.shown(file.length), formatOf(file),
                                inUnits(file.bytes), state, used})
      table_->setItem(row, place++, new QTableWidgetItem(text));
  }
  // The file in hand stays in hand, wherever it lies now.
  const auto same = std::ranges::find(files, path.toStdString(), &FileOfSession::path);
  if (table_->rowCount() > 0)
    table_->setCurrentCell(same == files.end() ? 0 : static_cast<int>(same - files.begin()),
                           std::max(0, table_->currentColumn()));
  sum_->setText(tr("%n file(s), %1; %2 of that nobody needs.", nullptr, table_->rowCount())
                    .arg(inUnits(all), inUnits(unused)));
  refreshButtons();
}

void FilesDialog::refreshButtons() {
  const auto& files = look_.files();
  const auto any = [&files](const auto& is) { return std::any_of(files.begin(), files.end(), is); };
  find_->setEnabled(desk_.writable() &&
                    any([](const FileOfSession& file) { return file.state == FileState::Missing; }));
  trash_->setEnabled(desk_.writable() && any([](const FileOfSession& file) {
                       return file.needed == Needed::ByNobody && file.bytes > 0;
                     }));
  const int row = table_->currentRow();
  const FileOfSession* const inHand =
      row >= 0 && row < static_cast<int>(files.size()) ? &files[static_cast<std::size_t>(row)] : nullptr;
  const bool heard = inHand && !inHand->path.empty() && transport_.heardFile() == inHand->path;
  hear_->setText(heard ? tr("Stop") : tr("Hear it"));
  const QString why = whyNotHeard(inHand);
  hear_->setEnabled(why.isEmpty());
  hear_->setToolTip(!why.isEmpty() ? why
                                   : tr("Plays the file in hand by itself; again, or at its end, it stops"));
}

/// Why that file cannot be heard now; empty: it can.
QString FilesDialog::whyNotHeard(const FileOfSession* file) const {
  if (!file) return tr("No file is in hand.");
  if (file->state == FileState::Missing) return tr("It is missing: there is nothing to hear.");
  if (file->length <= Frames{} || (file->state != FileState::There && file->state != FileState::Shorter))
    return tr("It cannot be read: there is nothing to hear.");
  return transport_.mayHearFile() ? QString() : tr("While it is recorded, no file is heard.");
}

void FilesDialog::hear() {
  if (!hear_->isEnabled()) return;
  const FileOfSession& file = look_.files()[static_cast<std::size_t>(table_->currentRow())];
  transport_.toggleHearFile({file.path, file.channels, file.length});
  refreshButtons();
}

void FilesDialog::find() {
  const QString where = QFileDialog::getExistingDirectory(this, tr("Where to look"));
  if (where.isEmpty()) return;
  files_.findMissing(where.toStdString());
}

/// Never silently: it is shown what goes, and it can come back.
void FilesDialog::trash() {
  QStringList going;
  for (const FileOfSession& file : look_.files())
    if (file.needed == Needed::ByNobody) going << QString::fromStdString(file.path);
  QMessageBox ask(QMessageBox::NoIcon, tr("Move to the trash"),
                  tr("%n files that neither the session nor its history needs go to the trash:|"
                     "One file that neither the session nor its history needs goes to the trash:",
                     nullptr, static_cast<int>(going.size())) +
                      "\n\n" + going.mid(0, 12).join("\n") + (going.size() > 12 ? "\n…" : ""),
                  QMessageBox::Cancel, this);
  ask.addButton(tr("Move to the trash"), QMessageBox::AcceptRole);
  if (ask.exec() == QMessageBox::Cancel) return;
  files_.trashUnneeded();
}

}  // namespace yewdrift::app
