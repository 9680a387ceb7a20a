// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QWidget>
#include <optional>

#include "app/desk/demo_maker.h"
#include "app/desk/jobs.h"
#include "app/desk/messages.h"
#include "app/window/recent_list.h"

namespace yewdrift::app {

/// What is seen while no session is open: those of late, a new one, another folder, the demo.
class StartPage : public QWidget {
  Q_OBJECT
 public:
  StartPage();
  ~StartPage() override;
  /// What went wrong, where it can be read.
  void complain(const QString& sentence) { messages_.warn(sentence); }
  /// The sentence that is shown; empty where none is.
  [[nodiscard]] QString message() const;
  [[nodiscard]] RecentList& recent() { return *recent_; }

 signals:
  /// Another session is to be opened, made first where it is given.
  void sessionAsked(const QString& folder, const std::optional<Session>& fresh);

 protected:
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;
  void closeEvent(QCloseEvent* event) override;

 private:
  void makeLayout();
  void askNew();
  void askFolder();
  void askDemo();
  void choose(const QString& folder);
  void refresh();

  Messages messages_;
  Jobs jobs_;
  DemoMaker demo_{jobs_};
  QPushButton* new_;
  QPushButton* open_;
  QPushButton* demoButton_;
  QLabel* nothing_;
  RecentList* recent_;
};

}  // namespace yewdrift::app
