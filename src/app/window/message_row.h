// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QFrame>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>

#include "app/desk/jobs.h"
#include "app/desk/messages.h"

namespace yewdrift::app {

/// What there is to say, and how far the job under way has come. Always as high, so that nothing moves under
/// the pointer when something is said.
class MessageRow : public QWidget {
  Q_OBJECT
 public:
  MessageRow(Messages& messages, Jobs& jobs, QWidget* parent = nullptr);
  /// The sentence shown; empty where none is.
  [[nodiscard]] QString shown() const;
  /// Where there is no list of all that was said.
  void hideList() { all_->hide(); }

 signals:
  /// To see all that was said.
  void allAsked();

 private:
  void refresh();
  void refreshJobs();

  Messages& messages_;
  Jobs& jobs_;
  QFrame* frame_;
  QLabel* sentence_;
  QPushButton* away_;
  QWidget* job_;
  QProgressBar* progress_;
  QPushButton* cancel_;
  QPushButton* all_;
};

}  // namespace yewdrift::app
