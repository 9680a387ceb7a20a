// SPDX-License-Identifier: GPL-3.0-or-later
//
// What can be done with tracks: their place and name, takes that become tracks and tracks that become takes.
#include <QInputDialog>
#include <QMenu>

#include "app/window/main_window.h"
#include "core/edit/edit_gather.h"

namespace yewdrift::app {

void MainWindow::changeTracks(const QString& label, const std::function<Session(Session, TrackId)>& edit) {
  if (!studio_->inHand().track()) return;
  studio_->desk().apply(label, [&, tracks = studio_->inHand().tracksInHand()](Session s) {
    for (const TrackId track : tracks) s = edit(std::move(s), track);
    return s;
  });
}

/// All tracks in hand change places with their neighbour, and stay together.
void MainWindow::moveTracks(int by) {
  auto tracks = studio_->inHand().tracksInHand();
  if (by > 0) std::reverse(tracks.begin(), tracks.end());
  if (tracks.empty()) return;
  const auto placeOf = [](const Session& session, TrackId id) {
    int place = 1;
    for (const auto& track : session.tracks) {
      if (track->id == id) break;
      ++place;
    }
    return place;
  };
  const Session& now = studio_->desk().session();
  const int to = placeOf(now, tracks.front()) + by;
  if (to < 1) return studio_->messages().say(tr("It is the first track already."));
  if (to > static_cast<int>(now.tracks.size()))
    return studio_->messages().say(tr("It is the last track already."));
  studio_->desk().apply(tr("Move a track"), [&](Session session) {
    for (const TrackId track : tracks) session = placeTrack(session, track, placeOf(session, track) + by);
    return session;
  });
}

void MainWindow::makeTrackActions() {
  const auto made = [this](const QString& text, const QKeySequence& key, const QString& tip,
                           const QString& label, const std::function<Session(Session, TrackId)>& edit,
                           Deed deed = Deed::ChangeTrack) {
    return ruled(action(text, key, tip, [this, label, edit] { changeTracks(label, edit); }), deed);
  };
  do_.trackUp = ruled(
      action(
          tr("Move the track up"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Up),
          tr("The tracks in hand change places with the one above"), [this] { moveTracks(-1); }, Key::Held),
      Deed::ChangeTrack);
  do_.trackDown = ruled(
      action(
          tr("Move the track down"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Down),
          tr("The tracks in hand change places with the one below"), [this] { moveTracks(1); }, Key::Held),
      Deed::ChangeTrack);
  for (const auto& [text, key, by] : {std::tuple{tr("Previous track too"), Qt::Key_PageUp, -1},
                                      {tr("Next track too"), Qt::Key_PageDown, 1}})
    ruled(action(
              text, QKeySequence(Qt::SHIFT | key),
              tr("Takes one track more in hand, so that all are armed, moved, gathered or delivered at once"),
              [this, by = by] {
                if (!studio_->inHand().takeNextTrackAlong(by))
                  studio_->messages().say(by < 0 ? tr("No track lies above.") : tr("No track lies below."));
              },
              Key::Held),
          Deed::StepTrack);
  do_.renameTrack = ruled(action(tr("Rename the track"), QKeySequence(Qt::SHIFT | Qt::Key_F2),
                                 tr("Type another name for the track in hand, right in the list"),
                                 [this] { tracks_->rename(studio_->inHand().trackId()); }),
                          Deed::ChangeTrack);
  do_.duplicateTrack = made(tr("Duplicate the track"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_D),
                            tr("A track like it, with its takes and its composite"), tr("Duplicate a track"),
                            [](Session s, TrackId id) { return duplicateTrack(std::move(s), id); });
  do_.removeTrack =
      made(tr("Remove the track"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Delete),
           tr("With all its takes; Undo brings everything back, and its files stay"), tr("Remove a track"),
           [](Session s, TrackId id) { return removeTrack(std::move(s), id); });
  do_.spreadTakes = ruled(
      action(tr("Takes to tracks…"), {},
             tr("The takes that you choose become tracks of their own, each with its pan, for doubling"),
             [this] { showSpread(); }),
      Deed::SpreadTakes);
  do_.separate = made(
      tr("Take the mic set apart"), {}, tr("Each microphone becomes a track of its own"),
      tr("Take a mic set apart"), [](Session s, TrackId id) { return separateMicrophones(std::move(s), id); },
      Deed::TakeApart);
  do_.gatherTracks =
      ruled(action(tr("Make one mic set"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_M),
                   tr("The tracks in hand, recorded together, become one track with all their microphones"),
                   [this] { joinTracks(tr("Make a mic set"), gatherMicrophones); }),
            Deed::JoinTracks);
  do_.absorbTracks = ruled(
      action(
          tr("Take in their takes"), {},
          tr("The takes of the other tracks in hand become takes of the track that was taken in hand first"),
          [this] { joinTracks(tr("Take in takes"), absorbTracks); }),
      Deed::JoinTracks);
}

void MainWindow::joinTracks(const QString& label,
                            Session (*edit)(Session, TrackId, const std::vector<TrackId>&)) {
  const TrackId id = studio_->inHand().trackId();
  auto others = studio_->inHand().tracksInHand();
  std::erase(others, id);
  studio_->desk().apply(label, [&](const Session& s) { return edit(s, id, others); });
}

void MainWindow::showSpread() {
  delete spreadDialog_;
  spreadDialog_ = new SpreadDialog(studio_->desk(), studio_->inHand(), this);
  spreadDialog_->show();
}

/// What needs another track is offered for each of them.
void MainWindow::fillTrackMenu(QMenu& menu) {
  const Session& session = studio_->desk().session();
  const TrackId id = studio_->inHand().trackId();
  menu.addActions(
      {do_.arm, do_.renameTrack, do_.trackUp, do_.trackDown, do_.duplicateTrack, do_.removeTrack});
  menu.addSeparator();
  menu.addActions({do_.spreadTakes, do_.gatherTracks, do_.absorbTracks});
  QMenu* absorb = menu.addMenu(tr("Take in the takes of"));
  QMenu* gather = menu.addMenu(tr("Make a mic set with"));
  for (const auto& track : session.tracks) {
    if (track->id == id) continue;
    const QString name = QString::fromStdString(track->name);
    absorb->addAction(name, this, [this, id, other = track->id] {
      studio_->desk().apply(tr("Take in takes"),
                            [&](const Session& s) { return absorbTracks(s, id, {other}); });
    });
    gather->addAction(name, this, [this, id, other = track->id] {
      studio_->desk().apply(tr("Make a mic set"),
                            [&](const Session& s) { return gatherMicrophones(s, id, {other}); });
    });
  }
  absorb->setEnabled(session.tracks.size() > 1 && studio_->desk().writable());
  gather->setEnabled(absorb->isEnabled());
  menu.addAction(do_.separate);
}

void MainWindow::showTrackMenu(QPoint at) {
  QMenu menu(this);
  fillTrackMenu(menu);
  menu.addSeparator();
  menu.addActions({do_.importFiles, do_.flatten, do_.flattenAs});
  menu.exec(at);
}

}  // namespace yewdrift::app
