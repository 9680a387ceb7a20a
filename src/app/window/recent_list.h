// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QListWidget>
#include <QThreadPool>
#include <atomic>
#include <memory>

#include "core/store/session_glimpse.h"

namespace yewdrift::app {

/// The sessions that were opened lately, each with its picture, its length and when it was opened. What they
/// hold is read in the background; those that cannot be read say so and can leave the list.
class RecentList : public QListWidget {
  Q_OBJECT
 public:
  /// What is known of a session in the list.
  struct Seen {
    enum class State { Looking, There, Missing, Unreadable };
    State state = State::Looking;
    SessionGlimpse glimpse;
    QString wrong;  // why it cannot be read
  };

  explicit RecentList(QWidget* parent = nullptr);
  ~RecentList() override;
  /// Reads the list and looks at each session anew.
  void refresh();
  [[nodiscard]] QString folderAt(int row) const;
  [[nodiscard]] const Seen& seenAt(int row) const { return seen_[static_cast<std::size_t>(row)]; }
  /// As it is read out, and shown in three lines.
  [[nodiscard]] QString spokenAt(int row) const;

 signals:
  void openAsked(const QString& folder);
  void forgotten(const QString& folder);
  void looked();  // all were looked at

 protected:
  void keyPressEvent(QKeyEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void changeEvent(QEvent* event) override;

 private:
  void look(int row);
  void show(int row, Seen seen);
  void ask(int row);
  void forget(int row);

  std::vector<Seen> seen_;
  int waiting_ = 0;
  int round_ = 0;  // of looking: what an older one found counts no more
  std::shared_ptr<std::atomic<bool>> cancelled_ = std::make_shared<std::atomic<bool>>(false);
  QThreadPool pool_;
};

}  // namespace yewdrift::app
