// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/session_windows.h"

#include <utility>

#include "app/desk/recent_sessions.h"
#include "app/look/spoken.h"
#include "app/window/window_place.h"

namespace yewdrift::app {

SessionWindows::~SessionWindows() {
  if (window_) disconnect(window_, nullptr, this, nullptr);
  delete window_;
}

void SessionWindows::open(const QString& folder, const std::optional<Session>& fresh) {
  if (fresh) SessionFolder::create(folder.toStdString(), *fresh);
  auto studio = std::make_unique<Studio>(folder.toStdString(), mode_);
  const bool performer = std::filesystem::exists(studio->desk().folderPath() / "performer");
  auto choice = savedAudioChoice();
  if (performer) choice.driver = "Simulated";  // the demo's players sit there
  studio->device().open(choice);
  folder_ = folder;
  window_ = new MainWindow(std::move(studio));
  window_->setAttribute(Qt::WA_DeleteOnClose);
  connect(window_, &MainWindow::sessionAsked, this,
          [this](const QString& next, const std::optional<Session>& made) {
            next_ = Asked{next, made};
            // Where it stays open, it is not left for another later.
            if (!window_->close() && !window_->closes()) next_.reset();
          });
  connect(window_, &QObject::destroyed, this, &SessionWindows::closed);
  place(*window_, "session", {1280, 800});
  window_->show();
  recent::opened(folder);
}

void SessionWindows::start(const QString& wrong) {
  start_ = std::make_unique<StartPage>();
  connect(start_.get(), &StartPage::sessionAsked, this, &SessionWindows::openFromStart, Qt::QueuedConnection);
  start_->show();
  if (!wrong.isEmpty()) start_->complain(wrong);
}

void SessionWindows::openFromStart(const QString& folder, const std::optional<Session>& fresh) {
  if (!start_) return;
  try {
    open(folder, fresh);
  } catch (const std::exception& e) {
    return start_->complain(spoken(e));
  }
  start_->close();
  start_.reset();
}

void SessionWindows::closed() {
  const auto next = std::exchange(next_, std::nullopt);
  if (!next) return;
  if (next->folder.isEmpty()) return start();
  const QString former = folder_;
  try {
    return open(next->folder, next->fresh);
  } catch (const std::exception& e) {
    const QString sentence = spoken(e);
    try {
      open(former, std::nullopt);
      window_->studio().messages().warn(sentence);
    } catch (const std::exception&) {
      start(sentence);
    }
  }
}

}  // namespace yewdrift::app
