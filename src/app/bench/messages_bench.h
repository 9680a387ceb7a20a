// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QTableWidget>
#include <QVBoxLayout>
#include <QWidget>

#include "app/desk/jobs.h"
#include "app/desk/messages.h"

namespace yewdrift::app {

/// All that was said, the newest first, and all that is under way, each with its progress and Cancel.
class MessagesBench : public QWidget {
  Q_OBJECT
 public:
  MessagesBench(Messages& messages, Jobs& jobs, QWidget* parent = nullptr);

 protected:
  void showEvent(QShowEvent* event) override;

 private:
  void refresh();
  void refreshJobs();

  Messages& messages_;
  Jobs& jobs_;
  QTableWidget* table_;
  QVBoxLayout* jobColumn_;
  std::vector<int> shownJobs_;
};

}  // namespace yewdrift::app
