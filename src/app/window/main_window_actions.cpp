// SPDX-License-Identifier: GPL-3.0-or-later
//
// Menus, keys and what they do.
#include <QFileDialog>
#include <QInputDialog>
#include <QMenuBar>

#include "app/window/main_window.h"
#include "core/edit/edit.h"
#include "core/edit/edit_pieces.h"
#include "core/edit/edit_takes.h"
#include "core/store/import_audio.h"

namespace yewdrift::app {

QAction* MainWindow::action(const QString& text, const QKeySequence& key, const QString& tip,
                            std::function<void()> run, Key how) {
  auto* made = new QAction(text, this);
  made->setShortcut(key);
  made->setAutoRepeat(how == Key::Held);
  made->setProperty(tipProperty, tip);
  made->setToolTip(tipOf(*made));
  connect(made, &QAction::triggered, this, [run = std::move(run)] { run(); });
  addAction(made);
  if (!key.isEmpty()) actions_ << made;
  return made;
}

QAction* MainWindow::ruled(QAction* action, Deed deed) {
  rules_.push_back({action, deed});
  return action;
}

void MainWindow::makeActions() {
  Studio* s = studio_.get();
  transport_.start = action(tr("Back to the start"), Qt::Key_Home, tr("Playhead back to the start"),
                            [s] { s->transport().locate({}); });
  ruled(transport_.start, Deed::GoElsewhere);
  transport_.play =
      action(tr("Play"), Qt::Key_Space, tr("Play or stop"), [s] { s->transport().togglePlay(); });
  ruled(transport_.play, Deed::Play);
  transport_.record =
      action(tr("Record"), QKeySequence(Qt::SHIFT | Qt::Key_N),
             tr("Record to the armed tracks, or stop recording"), [s] { s->recording().toggleRecord(); });
  ruled(transport_.record, Deed::Record);
  transport_.record->setCheckable(true);
  transport_.loop = action(tr("Loop"), Qt::Key_L, tr("Go round the loop span, on or off"),
                           [this] { studio_->transport().setLooping(!studio_->transport().looping()); });
  ruled(transport_.loop, Deed::Loop);
  transport_.loop->setCheckable(true);
  transport_.undo = action(
      tr("Undo"), QKeySequence::Undo, tr("Undo"), [s] { s->desk().undo(); }, Key::Held);
  ruled(transport_.undo, Deed::Undo);
  transport_.redo = action(
      tr("Redo"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z), tr("Redo"), [s] { s->desk().redo(); },
      Key::Held);
  ruled(transport_.redo, Deed::Redo);
  for (const auto& [act, name] : {std::pair{transport_.start, "start"},
                                  {transport_.play, "play"},
                                  {transport_.record, "record"},
                                  {transport_.loop, "loop"},
                                  {transport_.undo, "undo"},
                                  {transport_.redo, "redo"}})
    act->setIcon(icon(name));

  do_.hearAbove = action(
      tr("Hear the take above"), Qt::Key_E, tr("Hear the take above"), [s] { s->inHand().hearNeighbour(-1); },
      Key::Held);
  ruled(do_.hearAbove, Deed::HearTake);
  do_.hearAbove->setShortcuts({Qt::Key_E, Qt::Key_Up});
  do_.hearBelow = action(
      tr("Hear the take below"), Qt::Key_D, tr("Hear the take below"), [s] { s->inHand().hearNeighbour(1); },
      Key::Held);
  ruled(do_.hearBelow, Deed::HearTake);
  do_.hearBelow->setShortcuts({Qt::Key_D, Qt::Key_Down});
  do_.hearComposite = action(tr("Hear the composite"), Qt::Key_C, tr("Hear the composite"), [s] {
    s->listening().other().hear(std::nullopt);
    s->inHand().hear(std::nullopt);
  });
  do_.pick =
      action(tr("Pick the take that is heard"), Qt::Key_F,
             tr("The composite plays the heard take over what is in hand (a phrase, a selection, a piece, a "
                "punch), else over the loop"),
             [this] { pickHeard(); });
  ruled(do_.pick, Deed::Pick);
  do_.pickSilence = action(tr("Pick silence"), QKeySequence(Qt::SHIFT | Qt::Key_F),
                           tr("The composite is silent over what is in hand, else over the loop"),
                           [this] { pickInto(std::nullopt); });
  ruled(do_.pickSilence, Deed::PickSilence);
  do_.pickWhole = action(tr("Pick the whole take"), QKeySequence(Qt::ALT | Qt::SHIFT | Qt::Key_F),
                         tr("The composite plays the heard take wherever that has something"),
                         [this] { pickWholeTake(); });
  ruled(do_.pickWhole, Deed::PickWhole);
  do_.pickWhole->setShortcuts(
      {QKeySequence(Qt::ALT | Qt::SHIFT | Qt::Key_F), QKeySequence(Qt::CTRL | Qt::Key_F)});
  do_.takePiece =
      action(tr("Take the piece in hand"), QKeySequence(Qt::SHIFT | Qt::Key_S),
             tr("The piece of the composite at the playhead: takes are heard and picked for it, and "
                "nothing else changes; again for the phrase there"),
             [this] { takePieceHere(); });
  ruled(do_.takePiece, Deed::EditComposite);
  do_.takePunch =
      action(tr("Take the punch in hand"), QKeySequence(Qt::SHIFT | Qt::Key_U),
             tr("The punch span at the playhead, else the next one: its passes are heard and picked "
                "for it, and nothing else changes"),
             [this] { takePunchHere(); });
  ruled(do_.takePunch, Deed::TakePunch);
  do_.nextJoin = action(
      tr("Next join"), Qt::Key_J, tr("Put the next join on the bench"), [this] { stepJoin(1); }, Key::Held);
  ruled(do_.nextJoin, Deed::StepJoin);
  do_.previousJoin = action(
      tr("Previous join"), QKeySequence(Qt::SHIFT | Qt::Key_J), tr("Put the previous join on the bench"),
      [this] { stepJoin(-1); }, Key::Held);
  ruled(do_.previousJoin, Deed::StepJoin);
  do_.hearJoin = action(tr("Hear the join"), Qt::Key_K, tr("Go round the join in hand; again to stop"),
                        [s] { s->transport().toggleHearJoin(s->joins().around()); });
  ruled(do_.hearJoin, Deed::HearJoin);
  do_.hearJoin->setIcon(icon("hear"));
  ruled(action(
            tr("A bar back"), Qt::Key_Left, tr("Playhead a bar back"), [this] { stepBar(-1); }, Key::Held),
        Deed::GoElsewhere);
  ruled(action(
            tr("A bar on"), Qt::Key_Right, tr("Playhead a bar on"), [this] { stepBar(1); }, Key::Held),
        Deed::GoElsewhere);
  ruled(action(
            tr("Previous track"), Qt::Key_PageUp, tr("Take the previous track in hand"),
            [this] { stepTrack(-1); }, Key::Held),
        Deed::StepTrack);
  ruled(action(
            tr("Next track"), Qt::Key_PageDown, tr("Take the next track in hand"), [this] { stepTrack(1); },
            Key::Held),
        Deed::StepTrack);
  do_.arm = action(tr("Arm the track in hand"), Qt::Key_M, tr("Arm the track in hand, or disarm it"), [this] {
    const Track* track = studio_->inHand().track();
    if (!track) return;
    changeTracks(tr("Arm a track"), [on = !track->armed](Session session, TrackId id) {
      return requireTrack(session, id).backing ? session
                                               : setTrackSwitch(std::move(session), id, TrackSwitch::Arm, on);
    });
  });
  ruled(do_.arm, Deed::Arm);
  do_.flatten = action(tr("Flatten the composite"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_F),
                       tr("Render the composite to one new file that takes its place"),
                       [s] { s->files().flattenInHand(); });
  ruled(do_.flatten, Deed::Flatten);
  do_.flattenAs = action(tr("Flatten…"), QKeySequence(Qt::CTRL | Qt::ALT | Qt::SHIFT | Qt::Key_F),
                         tr("Choose what of the composite is flattened, and what becomes of its takes"),
                         [this] { showFlatten(); });
  ruled(do_.flattenAs, Deed::Flatten);
  do_.newTrack = action(tr("New track…"), QKeySequence(Qt::CTRL | Qt::Key_N), tr("Add a track to record to"),
                        [this] { newTrack(); });
  ruled(do_.newTrack, Deed::NewTrack);
  do_.importFiles =
      action(tr("Import files as takes…"), QKeySequence(Qt::CTRL | Qt::Key_I),
             tr("Each file becomes a lane of the track in hand"), [this] { importFiles(false); });
  ruled(do_.importFiles, Deed::Import);
  do_.importBacking = action(tr("Import backing tracks…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_I),
                             tr("Each file becomes a backing track of its own, from the session's start on"),
                             [this] { importFiles(true); });
  ruled(do_.importBacking, Deed::Import);
  do_.deliver =
      action(tr("Deliver…"), QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_D),
             tr("Stems, takes, composites, tempo map, edit list and take sheet, for others to open"),
             [this] { showDeliver(); });
  do_.files = action(tr("Audio files…"), QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_F),
                     tr("Every audio file, who uses it, what is missing and what is unused"),
                     [this] { showFiles(); });
  do_.bringIn = ruled(
      action(tr("Bring in unused files"), {},
             tr("Audio files in the session's folder that neither it nor its history needs become takes of "
                "tracks of their own"),
             [s] { s->files().bringInUnneeded(); }),
      Deed::Import);
  do_.newSession = action(tr("New session…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_N),
                          tr("Make an empty session in a folder of its own"), [this] { askNewSession(); });
  do_.openSession = action(tr("Open a session…"), QKeySequence::Open, tr("Open a session folder"), [this] {
    const QString folder = QFileDialog::getExistingDirectory(this, tr("Session folder"));
    if (!folder.isEmpty()) emit sessionAsked(folder, std::nullopt);
  });
  do_.startPage = action(tr("Start page"), QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_S),
                         tr("Close this session and choose among those of late"),
                         [this] { emit sessionAsked({}, std::nullopt); });
}

void MainWindow::makeMenus() {
  QMenu* session = menuBar()->addMenu(tr("&Session"));
  session->addActions({do_.newSession, do_.openSession, do_.startPage});
  session->addSeparator();
  session->addAction(do_.bringIn);
  session->addActions({do_.deliver, do_.files});
  session->addSeparator();
  session->addAction(action(tr("Close"), QKeySequence::Quit, tr("Close; everything is on disk already"),
                            [this] { close(); }));
  QMenu* edit = menuBar()->addMenu(tr("&Edit"));
  edit->addActions({transport_.undo, transport_.redo});
  QMenu* transport = menuBar()->addMenu(tr("&Transport"));
  transport->addActions({transport_.play, transport_.record, transport_.loop, transport_.start});
  transport->addSeparator();
  transport->addActions({do_.punchNow, do_.backUp, do_.backUpFromStandstill, do_.claim, do_.discard});
  transport->addSeparator();
  transport->addActions({transport_.punch, transport_.click, do_.marker});
  QMenu* spans = menuBar()->addMenu(tr("S&pans"));
  spans->addActions({do_.loopFromSelection, do_.loopAir});
  spans->addSeparator();
  spans->addActions({do_.punchFromSelection, do_.onlyThisPunch, do_.punchInHere, do_.punchOutHere});
  spans->addSeparator();
  spans->addActions({do_.startHere, do_.endHere});
  spans->addSeparator();
  spans->addActions({do_.snapFiner, do_.snapCoarser});
  QMenu* track = menuBar()->addMenu(tr("T&rack"));
  track->addActions({do_.newTrack, do_.importFiles, do_.importBacking});
  track->addSeparator();
  track->addActions({do_.flatten, do_.flattenAs});
  QMenu* change = track->addMenu(tr("The track in hand"));
  connect(change, &QMenu::aboutToShow, this, [this, change] {
    change->clear();
    fillTrackMenu(*change);
  });
  QMenu* takes = menuBar()->addMenu(tr("Ta&kes"));
  takes->addActions({do_.rateUp, do_.rateDown, do_.markTake});
  takes->addSeparator();
  takes->addActions({do_.takeUp, do_.takeDown, do_.nudgeEarlier, do_.nudgeLater, do_.nudgeBy});
  takes->addSeparator();
  takes->addActions({do_.muteTake, do_.cutTake, do_.giveBack, do_.asideTake, do_.removeTake, do_.lineUp});
  takes->addSeparator();
  takes->addActions({do_.phraseEdge, do_.mergePhrases});
  makeCompositeMenu();
  QMenu* listen = menuBar()->addMenu(tr("&Listen"));
  listen->addActions({do_.hearAbove, do_.hearBelow, do_.hearOther, do_.hearComposite});
  listen->addSeparator();
  listen->addActions(
      {do_.previousPhrase, do_.nextPhrase, do_.nextUndecided, do_.hearPhrase, do_.takeAfterTake});
  listen->addSeparator();
  QMenu* steps = listen->addMenu(tr("Step by"));
  connect(steps, &QMenu::aboutToShow, this, [this, steps] {
    steps->clear();
    fillStepMenu(*steps);
  });
  listen->addActions({do_.others, do_.matched, do_.around, do_.blind});
  listen->addSeparator();
  listen->addActions({do_.nextJoin, do_.previousJoin, do_.hearJoin});
  QMenu* device = menuBar()->addMenu(tr("&Device"));
  connect(device, &QMenu::aboutToShow, this, [this, device] { fillDeviceMenu(device); });
  makeViewMenu();
  QMenu* help = menuBar()->addMenu(tr("&Help"));
  help->addAction(action(tr("All keys"), Qt::Key_F1, tr("Every key, searchable"), [this] { showKeys(); }));
}

void MainWindow::showDeliver() {
  if (deliverDialog_) return deliverDialog_->raise();
  const auto tracks = studio_->inHand().tracksInHand();
  deliverDialog_ = new DeliverDialog(studio_->desk(), studio_->files(),
                                     tracks.size() > 1 ? tracks : std::vector<TrackId>{}, this);
  deliverDialog_->show();
}

void MainWindow::showFlatten() {
  if (flattenDialog_) flattenDialog_->close();  // it was on another track or selection, perhaps
  flattenDialog_ = new FlattenDialog(studio_->desk(), studio_->inHand(), studio_->files(), this);
  flattenDialog_->show();
}

void MainWindow::showFiles() {
  if (filesDialog_) return filesDialog_->raise();
  filesDialog_ = new FilesDialog(studio_->desk(), studio_->files(), studio_->transport(), this);
  filesDialog_->show();
}

void MainWindow::stepJoin(int direction) {
  const Track* track = studio_->inHand().track();
  if (!track) return;
  const auto& joins = studio_->inHand().composite(*track).joins;
  if (joins.empty()) return;
  const Frames from = studio_->inHand().join().value_or(studio_->transport().state().position);
  const Join* next = direction > 0 ? &joins.front() : &joins.back();
  if (direction > 0) {
    for (const Join& join : joins)
      if (join.at > from) {
        next = &join;
        break;
      }
  } else {
    for (const Join& join : joins)
      if (join.at < from) next = &join;
  }
  studio_->inHand().takeJoin(next->at);
  if (!lanes_->visibleSpan().contains(next->at))
    lanes_->scrollTo(next->at - Frames{lanes_->visibleSpan().length().count / 2});
}

void MainWindow::stepBar(int direction) {
  const Ruler ruler = studio_->desk().ruler();
  const Frames at = studio_->transport().state().position;
  if (!studio_->desk().options().grid)
    return studio_->transport().locate(
        std::max(Frames{}, at + framesFromSeconds(5.0 * direction, ruler.rate)));
  const Frames bar = ruler.tempo.barStart(at, ruler.rate);
  // Back from inside a bar goes to its start, as one expects of "back".
  const int offset = direction > 0 ? 1 : (at - bar > framesFromSeconds(0.25, ruler.rate) ? 0 : -1);
  studio_->transport().locate(std::max(Frames{}, ruler.tempo.barStart(at, ruler.rate, offset)));
}

void MainWindow::stepTrack(int direction) {
  const auto& tracks = studio_->desk().session().tracks;
  const Track* now = studio_->inHand().track();
  for (std::size_t i = 0; i < tracks.size(); ++i)
    if (&*tracks[i] == now) {
      const int next = static_cast<int>(i) + direction;
      if (next >= 0 && next < static_cast<int>(tracks.size()))
        studio_->inHand().takeTrack(tracks[static_cast<std::size_t>(next)]->id);
      return;
    }
}

void MainWindow::newTrack() {
  bool good = false;
  const QString name =
      QInputDialog::getText(this, tr("New track"), tr("Name of the track, for example the instrument:"),
                            QLineEdit::Normal, {}, &good)
          .trimmed();
  if (!good || name.isEmpty()) return;
  const bool made = studio_->desk().apply(tr("Add the track %1").arg(name), [&](const Session& s) {
    std::vector<Microphone> microphones = microphonesFor(1);
    microphones.front().input = firstFreeInput(s);
    return addTrack(s, name.toStdString(), std::move(microphones));
  });
  if (made) studio_->inHand().takeTrack(studio_->desk().session().tracks.back()->id);
}

void MainWindow::importFiles(bool backing) {
  const QStringList files = QFileDialog::getOpenFileNames(
      this, backing ? tr("Files to import as backing") : tr("Files to import as takes"), {},
      tr("Audio (*.wav *.flac *.aif *.aiff *.ogg *.mp3 *.w64 *.rf64 *.caf);;All files (*)"));
  if (files.isEmpty()) return;
  studio_->files().importFiles(files, backing);
}

}  // namespace yewdrift::app
