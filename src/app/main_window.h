// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLabel>
#include <QMainWindow>
#include <QProgressBar>
#include <QStackedWidget>
#include <QTimer>
#include <memory>

#include "app/join_bench.h"
#include "app/lanes_view.h"
#include "app/song_strip.h"
#include "app/studio.h"
#include "app/theme.h"
#include "app/track_list.h"
#include "app/transport_bar.h"

namespace yewdrift::app {

class MainWindow : public QMainWindow {
  Q_OBJECT
 public:
  explicit MainWindow(std::unique_ptr<Studio> studio);
  ~MainWindow() override;

  Studio& studio() { return *studio_; }
  LanesView& lanes() { return *lanes_; }
  SongStrip& song() { return *song_; }
  JoinBench& joinBench() { return *joinBench_; }
  /// The sentence shown last; empty once it was put away.
  [[nodiscard]] QString message() const;
  void say(const QString& sentence);
  /// Every key and what it does, as the overview lists them.
  [[nodiscard]] QList<QAction*> keyedActions() const { return actions_; }
  void showKeys();
  void setTheme(ThemeChoice choice);

 signals:
  /// The user wants another session in this window's place.
  void sessionAsked(const QString& folder, bool create);

 protected:
  void closeEvent(QCloseEvent* event) override;

 private:
  QAction* action(const QString& text, const QKeySequence& key, const QString& tip,
                  std::function<void()> run);
  void makeActions();
  void makeMenus();
  void makeLayout();
  void refreshActions();
  void pickHeard(bool silence);
  void stepJoin(int direction);
  void stepBar(int direction);
  void stepTrack(int direction);
  void newTrack();
  void importFiles();
  void fillDeviceMenu(QMenu* menu);
  void chooseDevice(const QString& driver, const QString& name);

  std::unique_ptr<Studio> studio_;
  TransportActions transport_{};
  struct Actions {
    QAction* pick;
    QAction* pickSilence;
    QAction* hearComposite;
    QAction* hearAbove;
    QAction* hearBelow;
    QAction* nextJoin;
    QAction* previousJoin;
    QAction* hearJoin;
    QAction* flatten;
    QAction* newTrack;
    QAction* importFiles;
    QAction* newSession;
    QAction* openSession;
    QAction* arm;
  } do_{};
  QList<QAction*> actions_;
  TransportBar* bar_ = nullptr;
  SongStrip* song_ = nullptr;
  TrackList* tracks_ = nullptr;
  LanesView* lanes_ = nullptr;
  QStackedWidget* bench_ = nullptr;
  JoinBench* joinBench_ = nullptr;
  QFrame* messageFrame_ = nullptr;
  QLabel* messageLabel_ = nullptr;
  QProgressBar* progress_ = nullptr;
};

}  // namespace yewdrift::app
