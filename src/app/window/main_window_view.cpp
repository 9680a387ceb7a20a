// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is shown and how large.
#include <QActionGroup>
#include <QLocale>
#include <QMenuBar>
#include <QSettings>

#include "app/window/main_window.h"
#include "core/edit/edit.h"

namespace yewdrift::app {

void MainWindow::makeViewActions() {
  do_.zoomIn = action(
      tr("Zoom in"), QKeySequence::ZoomIn, tr("Zoom in"), [this] { lanes_->zoom(0.66); }, Key::Held);
  do_.zoomOut = action(
      tr("Zoom out"), QKeySequence::ZoomOut, tr("Zoom out"), [this] { lanes_->zoom(1.5); }, Key::Held);
  do_.wavesHigher = action(
      tr("Waves higher"), QKeySequence(Qt::ALT | Qt::Key_Up),
      tr("Waves are drawn higher than the loudest take fits, to see what is soft"), [this] { scaleWaves(1); },
      Key::Held);
  do_.wavesLower = action(
      tr("Waves lower"), QKeySequence(Qt::ALT | Qt::Key_Down), tr("Waves are drawn lower again"),
      [this] { scaleWaves(-1); }, Key::Held);
  do_.wholeSong =
      action(tr("Whole song"), QKeySequence(Qt::CTRL | Qt::Key_0), tr("Show the whole song"), [this] {
        const Span all = materialOf(studio_->desk().session());
        if (all.empty()) return say(tr("There is nothing in this session yet that could be shown."));
        lanes_->lookAt(all);
      });
  do_.showWork = action(tr("Show what is worked on"), QKeySequence(Qt::CTRL | Qt::Key_L),
                        tr("Zoom to the selection, else to the loop"), [this] {
                          const auto selection = studio_->inHand().selection();
                          const auto span = selection ? selection : studio_->desk().session().loop;
                          if (!span) return say(tr("There is neither a selection nor a loop to be shown."));
                          lanes_->lookAt(*span);
                        });
  do_.showFormer = action(tr("Back to the view before"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_0),
                          tr("Show what was shown before the view went to a phrase, a loop or a recording"),
                          [this] { lanes_->showFormer(); });
  do_.foldTakes = action(tr("Fold the takes"), QKeySequence(Qt::SHIFT | Qt::Key_D),
                         tr("Fold the takes away to a hint of each, or open them again"),
                         [this] { lanes_->setFolded(!lanes_->folded()); });
  do_.fitTakes = action(tr("All takes in sight"), QKeySequence(Qt::SHIFT | Qt::Key_E),
                        tr("Lanes as low as it takes for all of them to be seen, or as high as is good to "
                           "look at"),
                        [this] { lanes_->setFitsAll(!lanes_->fitsAll()); });
  do_.showMeasures = action(tr("Measures in the cells"), QKeySequence(Qt::SHIFT | Qt::Key_G),
                            tr("Show in every cell how far the take lies from the others in time and pitch, "
                               "and how loud it is"),
                            [this] {
                              lanes_->setShowsMeasures(!lanes_->showsMeasures());
                              QSettings().setValue("view/measures", lanes_->showsMeasures());
                            });
  do_.rideComposite = action(tr("Ride the composite's level"), QKeySequence(Qt::CTRL | Qt::Key_R),
                             tr("Shows the line that rides the composite's level, to be dragged"),
                             [this] { ride(LanesView::Rides::Composite); });
  do_.ridePieces = action(tr("Ride the pieces' levels"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_R),
                          tr("Shows the line that rides each piece's own level, to be dragged"),
                          [this] { ride(LanesView::Rides::Pieces); });
}

void MainWindow::scaleWaves(int steps) {
  lanes_->scaleWaves(steps);
  const double scale = lanes_->waveScale();
  say(scale == 1.0 ? tr("Waves are as high as the loudest take fits.")
                   : tr("Waves are %1 times as high.").arg(QLocale().toString(scale, 'g', 2)));
}

/// Shown, or no more.
void MainWindow::ride(LanesView::Rides what) {
  lanes_->setRides(lanes_->rides() == what ? LanesView::Rides::Nothing : what);
}

void MainWindow::makeViewMenu() {
  QMenu* view = menuBar()->addMenu(tr("&View"));
  view->addActions({do_.zoomIn, do_.zoomOut, do_.wholeSong, do_.showPhrase, do_.showWork, do_.showFormer});
  view->addSeparator();
  view->addActions({do_.foldTakes, do_.fitTakes, do_.wavesHigher, do_.wavesLower});
  view->addActions({do_.showMeasures, do_.rideComposite});
  view->addSeparator();
  auto* themes = new QActionGroup(this);
  for (const auto& [text, choice] : {std::pair{tr("As the system"), ThemeChoice::System},
                                     {tr("Light"), ThemeChoice::Light},
                                     {tr("Dark"), ThemeChoice::Dark}}) {
    QAction* each = view->addAction(text, this, [this, choice = choice] { setTheme(choice); });
    each->setCheckable(true);
    each->setChecked(savedThemeChoice() == choice);
    themes->addAction(each);
    themes_.emplace_back(choice, each);
  }
  view->addAction(
      action(tr("Next theme"), QKeySequence(Qt::CTRL | Qt::Key_T), tr("Light, dark, the system's"), [this] {
        const ThemeChoice now = savedThemeChoice();
        setTheme(now == ThemeChoice::System  ? ThemeChoice::Light
                 : now == ThemeChoice::Light ? ThemeChoice::Dark
                                             : ThemeChoice::System);
      }));
  view->addSeparator();
  view->addAction(action(tr("Full screen"), Qt::Key_F11, tr("Full screen, on or off"),
                         [this] { setWindowState(windowState() ^ Qt::WindowFullScreen); }));
}

/// What is recorded in a loop is what one wants to see.
void MainWindow::lookAtRecording() {
  const auto roll = studio_->recording().planned();
  if (!roll || !roll->timeline.loop) return;
  const Span loop = *roll->timeline.loop;
  const Frames air{loop.length().count / 10};
  if (const Span shown = lanes_->visibleSpan();
      shown.length() > loop.length() * 2 || !shown.contains(loop.start))
    lanes_->lookAt({std::max(Frames{}, loop.start - air), loop.end + air});
}

}  // namespace yewdrift::app
