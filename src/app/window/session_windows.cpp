// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/session_windows.h"

#include <QMessageBox>
#include <utility>

#include "app/look/spoken.h"

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
  window_->show();
}

void SessionWindows::closed() {
  const auto next = std::exchange(next_, std::nullopt);
  if (!next) return;
  const QString former = folder_;
  try {
    return open(next->folder, next->fresh);
  } catch (const std::exception& e) {
    const QString sentence = spoken(e);
    try {
      open(former, std::nullopt);
      window_->studio().messages().warn(sentence);
    } catch (const std::exception&) {
      QMessageBox::warning(nullptr, tr("Yewdrift"), sentence);
    }
  }
}

}  // namespace yewdrift::app
