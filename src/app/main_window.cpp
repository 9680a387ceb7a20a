// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/main_window.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLineEdit>
#include <QPushButton>
#include <QSettings>
#include <QSplitter>
#include <QTableWidget>
#include <QVBoxLayout>

#include "app/record_bench.h"
#include "core/edit/edit.h"

namespace yewdrift::app {

MainWindow::MainWindow(std::unique_ptr<Studio> studio) : studio_(std::move(studio)) {
  setWindowTitle(tr("%1 - Yewdrift").arg(QString::fromStdString(studio_->session().name)));
  resize(1280, 800);
  setMinimumSize(900, 620);
  makeActions();
  makeMenus();
  makeLayout();
  connect(studio_.get(), &Studio::said, this, &MainWindow::say);
  connect(studio_.get(), &Studio::sessionChanged, this, &MainWindow::refreshActions);
  connect(studio_.get(), &Studio::inHandChanged, this, &MainWindow::refreshActions);
  connect(studio_.get(), &Studio::transportChanged, this, &MainWindow::refreshActions);
  connect(studio_.get(), &Studio::progressed, this, [this](const QString& what, double share) {
    progress_->setVisible(share < 1.0);
    progress_->setFormat(what + " %p%");
    progress_->setValue(static_cast<int>(share * 100));
  });
  connect(lanes_, &LanesView::scrolled, this, [this] { song_->setShown(lanes_->visibleSpan()); });
  connect(song_, &SongStrip::scrollAsked, lanes_, &LanesView::scrollTo);
  refreshActions();
  QStringList notices;
  for (const std::string& notice : studio_->openingNotices()) notices << QString::fromStdString(notice);
  if (!notices.isEmpty())
    say(notices.size() > 3 ? tr("%1 And %2 more like it.").arg(notices.first()).arg(notices.size() - 1)
                           : notices.join(" "));
  QTimer::singleShot(0, this, [this] {
    Span all = materialOf(studio_->session());
    if (all.empty()) all = {{}, framesFromSeconds(30.0, studio_->session().rate)};
    lanes_->showSpan(all);
    lanes_->setFocus();
  });
}

MainWindow::~MainWindow() {
  // The views hold references into the studio: they go first.
  delete takeCentralWidget();
}

void MainWindow::closeEvent(QCloseEvent* event) {
  if (studio_->recording()) {
    studio_->stop();
    say(tr("Recording is being stopped and kept; close again in a moment."));
    event->ignore();
    return;
  }
  if (!studio_->flushToDisk()) {
    say(
        tr("The last change could not be saved, so the window stays open: make room on the disk or give "
           "write permission, then change anything to try again."));
    // A second close is meant.
    if (!property("closeAnyway").toBool()) {
      setProperty("closeAnyway", true);
      event->ignore();
      return;
    }
  }
  event->accept();
}

void MainWindow::makeLayout() {
  auto* central = new QWidget;
  auto* column = new QVBoxLayout(central);
  column->setContentsMargins(8, 4, 8, 8);
  column->setSpacing(6);
  bar_ = new TransportBar(*studio_, transport_);
  column->addWidget(bar_);
  song_ = new SongStrip(*studio_);
  column->addWidget(song_);

  lanes_ = new LanesView(*studio_);
  tracks_ = new TrackList(*studio_);
  tracks_->setFixedWidth(196);
  auto* middle = new QWidget;
  auto* row = new QHBoxLayout(middle);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(6);
  row->addWidget(tracks_);
  row->addWidget(lanes_, 1);

  auto* benchFrame = new QFrame;
  benchFrame->setObjectName("panel");
  auto* benchRow = new QHBoxLayout(benchFrame);
  benchRow->setContentsMargins(10, 8, 10, 8);
  bench_ = new QStackedWidget;
  bench_->addWidget(new RecordBench(*studio_));
  joinBench_ = new JoinBench(*studio_, do_.hearJoin);
  bench_->addWidget(joinBench_);
  benchRow->addWidget(bench_);
  auto* split = new QSplitter(Qt::Vertical);
  split->setChildrenCollapsible(false);
  split->addWidget(middle);
  split->addWidget(benchFrame);
  split->setStretchFactor(0, 1);
  split->setSizes({470, 138});
  column->addWidget(split, 1);

  messageFrame_ = new QFrame;
  messageFrame_->setObjectName("message");
  auto* messageRow = new QHBoxLayout(messageFrame_);
  messageRow->setContentsMargins(12, 5, 6, 5);
  messageLabel_ = new QLabel;
  messageLabel_->setWordWrap(true);
  messageLabel_->setAccessibleName(tr("Message"));
  auto* away = new QPushButton(tr("Put away"));
  connect(away, &QPushButton::clicked, messageFrame_, &QWidget::hide);
  messageRow->addWidget(messageLabel_, 1);
  messageRow->addWidget(away);
  messageFrame_->hide();
  column->addWidget(messageFrame_);
  progress_ = new QProgressBar;
  progress_->setRange(0, 100);
  progress_->hide();
  column->addWidget(progress_);
  setCentralWidget(central);
}

void MainWindow::say(const QString& sentence) {
  messageLabel_->setText(sentence);
  messageFrame_->setVisible(!sentence.isEmpty());
}

QString MainWindow::message() const {
  return messageFrame_->isHidden() ? QString() : messageLabel_->text();
}

void MainWindow::refreshActions() {
  const Studio& studio = *studio_;
  const bool recording = studio.recording();
  const bool rolling = studio.transport().rolling || recording;
  transport_.play->setIcon(icon(rolling ? "stop" : "play"));
  transport_.play->setText(rolling ? tr("Stop") : tr("Play"));
  transport_.record->setChecked(recording);
  transport_.loop->setChecked(studio.looping());
  transport_.loop->setEnabled(studio.session().loop.has_value());
  transport_.start->setEnabled(!recording);
  const auto undo = studio.history().undoLabel();
  const auto redo = studio.history().redoLabel();
  transport_.undo->setEnabled(undo && !recording);
  transport_.redo->setEnabled(redo && !recording);
  transport_.undo->setText(undo ? tr("Undo: %1").arg(QString::fromStdString(*undo)) : tr("Undo"));
  transport_.redo->setText(redo ? tr("Redo: %1").arg(QString::fromStdString(*redo)) : tr("Redo"));
  transport_.undo->setToolTip(transport_.undo->text() + " (Ctrl+Z)");
  transport_.redo->setToolTip(transport_.redo->text() + " (Ctrl+Shift+Z)");
  const Track* track = studio.trackInHand();
  const bool takes = track && !track->lanes.empty();
  const bool span = studio.selection() || studio.session().loop;
  do_.pick->setEnabled(takes && span && studio.heardLane() && !recording);
  do_.pickSilence->setEnabled(takes && span && !recording);
  const bool joins = track && !studio_->composite(*track).joins.empty();
  do_.nextJoin->setEnabled(joins);
  do_.previousJoin->setEnabled(joins);
  do_.hearJoin->setEnabled(studio.joinInHand().has_value());
  do_.flatten->setEnabled(takes && !recording);
  do_.arm->setEnabled(track && !track->backing && !recording);
  bench_->setCurrentIndex(studio.joinInHand() && !recording ? 1 : 0);
}

void MainWindow::setTheme(ThemeChoice choice) {
  QSettings().setValue("theme", choice == ThemeChoice::Light  ? "light"
                                : choice == ThemeChoice::Dark ? "dark"
                                                              : "system");
  applyTheme(choice);
  for (const auto& [act, name] : {std::pair{transport_.start, "start"},
                                  {transport_.record, "record"},
                                  {transport_.loop, "loop"},
                                  {transport_.undo, "undo"},
                                  {transport_.redo, "redo"},
                                  {do_.hearJoin, "hear"}})
    act->setIcon(icon(name));
  refreshActions();
  emit studio_->inHandChanged();
}

void MainWindow::showKeys() {
  auto* dialog = new QDialog(this);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setWindowTitle(tr("All keys"));
  dialog->resize(560, 560);
  auto* column = new QVBoxLayout(dialog);
  auto* search = new QLineEdit;
  search->setPlaceholderText(tr("Search"));
  search->setAccessibleName(tr("Search the keys"));
  auto* table = new QTableWidget(0, 2);
  table->setHorizontalHeaderLabels({tr("Does"), tr("Key")});
  table->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  table->verticalHeader()->hide();
  table->setEditTriggers(QAbstractItemView::NoEditTriggers);
  for (const QAction* each : actions_) {
    const int row = table->rowCount();
    table->insertRow(row);
    table->setItem(row, 0, new QTableWidgetItem(each->text().remove('&')));
    QStringList keys;
    for (const QKeySequence& key : each->shortcuts()) keys << key.toString(QKeySequence::NativeText);
    table->setItem(row, 1, new QTableWidgetItem(keys.join(tr(" or "))));
  }
  connect(search, &QLineEdit::textChanged, table, [table](const QString& text) {
    for (int row = 0; row < table->rowCount(); ++row)
      table->setRowHidden(
          row,
          !(table->item(row, 0)->text() + table->item(row, 1)->text()).contains(text, Qt::CaseInsensitive));
  });
  column->addWidget(search);
  column->addWidget(table);
  dialog->show();
}

}  // namespace yewdrift::app
