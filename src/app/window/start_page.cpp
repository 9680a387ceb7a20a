// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/start_page.h"

#include <QAction>
#include <QDir>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QMimeData>
#include <QVBoxLayout>

#include "app/dialogs/new_session_dialog.h"
#include "app/look/theme.h"
#include "app/look/widgets.h"
#include "app/window/message_row.h"
#include "app/window/window_place.h"

namespace yewdrift::app {

StartPage::StartPage() {
  setWindowTitle(tr("Yewdrift"));
  setAcceptDrops(true);
  makeLayout();
  connect(new_, &QPushButton::clicked, this, &StartPage::askNew);
  connect(open_, &QPushButton::clicked, this, &StartPage::askFolder);
  connect(demoButton_, &QPushButton::clicked, this, &StartPage::askDemo);
  connect(recent_, &RecentList::openAsked, this, &StartPage::choose);
  connect(recent_, &RecentList::forgotten, this, [this](const QString& folder) {
    messages_.say(
        tr("%1 is off the list; the session stays as it is.").arg(QDir::toNativeSeparators(folder)));
    refresh();
  });
  connect(&demo_, &DemoMaker::made, this, &StartPage::choose);
  connect(&demo_, &DemoMaker::failed, this, &StartPage::complain);
  connect(&demo_, &DemoMaker::cancelled, this,
          [this] { messages_.say(tr("The demo session was not made.")); });
  connect(&jobs_, &Jobs::changed, this, &StartPage::refresh);
  const auto key = [this](const QKeySequence& keys, auto deed) {
    auto* action = new QAction(this);
    action->setShortcut(keys);
    connect(action, &QAction::triggered, this, deed);
    addAction(action);
  };
  key(QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_N), [this] { askNew(); });
  key(QKeySequence::Open, [this] { askFolder(); });
  key(QKeySequence::Quit, [this] { close(); });
  recent_->refresh();
  refresh();
  if (recent_->count() > 0) recent_->setFocus();
  place(*this, "start", {980, 640});
}

StartPage::~StartPage() {
  jobs_.cancelAll();
  jobs_.waitForAll();
}

void StartPage::makeLayout() {
  auto* name = new QLabel(tr("Yewdrift"));
  name->setFont(scaledFont(2.2, QFont::DemiBold));
  auto* purpose = faintLabel(tr("Record takes, compare them phrase by phrase, join the best into one."));
  purpose->setWordWrap(true);
  const auto button = [](const QString& text, const QString& tip) {
    auto* made = new QPushButton(text);
    made->setToolTip(tip);
    made->setMinimumHeight(2 * made->fontMetrics().lineSpacing() + 6);
    return made;
  };
  new_ = button(tr("New session…"),
                tr("Make an empty session in a folder of its own (%1)")
                    .arg(QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_N).toString(QKeySequence::NativeText)));
  open_ = button(tr("Open a session…"),
                 tr("Open a session folder (%1); it can also be dropped here")
                     .arg(QKeySequence(QKeySequence::Open).toString(QKeySequence::NativeText)));
  demoButton_ = button(tr("The demo: The Lantern Ferry"), {});
  auto* demoNote =
      faintLabel(tr("A scene of a shadow-puppet play, with takes of a viola, a frame drum and a narrator, to "
                    "try everything on."));
  demoNote->setWordWrap(true);
  auto* side = new QVBoxLayout;
  side->setSpacing(10);
  side->addWidget(name);
  side->addWidget(purpose);
  side->addSpacing(14);
  for (QWidget* each : std::initializer_list<QWidget*>{new_, open_, demoButton_, demoNote})
    side->addWidget(each);
  side->addStretch(1);

  auto* heading = new QLabel(tr("Recent sessions"));
  heading->setFont(scaledFont(1.2, QFont::DemiBold));
  recent_ = new RecentList;
  nothing_ =
      faintLabel(tr("None yet. Make a new session and record a pass, or try the demo: hear two takes of a "
                    "phrase, pick one, and "
                    "look at the join."));
  nothing_->setWordWrap(true);
  nothing_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
  auto* list = new QVBoxLayout;
  list->setSpacing(8);
  list->addWidget(heading);
  list->addWidget(nothing_);
  list->addWidget(recent_, 1);
  list->addStretch(0);

  auto* columns = new QHBoxLayout;
  columns->setSpacing(28);
  columns->addLayout(side, 2);
  columns->addLayout(list, 5);
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(26, 22, 26, 12);
  all->setSpacing(12);
  all->addLayout(columns, 1);
  auto* said = new MessageRow(messages_, jobs_);
  said->hideList();
  all->addWidget(said);
}

void StartPage::refresh() {
  const bool any = recent_->count() > 0;
  recent_->setVisible(any);
  nothing_->setVisible(!any);
  demoButton_->setEnabled(!demo_.busy() && (DemoMaker::isThere() || !DemoMaker::program().isEmpty()));
  demoButton_->setToolTip(demo_.busy()               ? tr("It is being made.")
                          : demoButton_->isEnabled() ? tr("Opens it; made first where it is not there yet")
                                                     : tr("The program that makes it is not installed."));
}

QString StartPage::message() const {
  const MessageQueue::Said* said = messages_.queue().shown();
  return said ? said->sentence : QString();
}

void StartPage::askNew() {
  NewSessionDialog dialog(this);
  if (dialog.exec() == QDialog::Accepted) emit sessionAsked(dialog.folder(), dialog.session());
}

void StartPage::askFolder() {
  const QString folder = QFileDialog::getExistingDirectory(this, tr("Session folder"));
  if (!folder.isEmpty()) choose(folder);
}

void StartPage::askDemo() {
  if (DemoMaker::isThere()) return choose(DemoMaker::folder());
  messages_.say(tr("The demo session is being made; it opens as soon as it is there."));
  demo_.make();
  refresh();
}

void StartPage::choose(const QString& folder) {
  emit sessionAsked(folder, std::nullopt);
}

void StartPage::dragEnterEvent(QDragEnterEvent* event) {
  const QStringList dropped = localFiles(*event->mimeData());
  if (dropped.size() == 1 && QFileInfo(dropped.front()).isDir()) event->acceptProposedAction();
}

void StartPage::dropEvent(QDropEvent* event) {
  const QStringList dropped = localFiles(*event->mimeData());
  if (dropped.size() != 1) return;
  event->acceptProposedAction();
  choose(dropped.front());
}

void StartPage::closeEvent(QCloseEvent* event) {
  rememberPlace(*this, "start");
  QWidget::closeEvent(event);
}

}  // namespace yewdrift::app
