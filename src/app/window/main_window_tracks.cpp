// SPDX-License-Identifier: GPL-3.0-or-later
//
// What can be done with tracks: their place and name, takes that become tracks and tracks that become takes.
#include <QInputDialog>
#include <QMenu>

#include "app/window/main_window.h"
#include "core/edit/edit_gather.h"

namespace yewdrift::app {

void MainWindow::makeTrackActions() {
  const auto made = [this](const QString& text, const QKeySequence& key, const QString& tip,
                           const QString& label, const std::function<Session(Session, TrackId)>& edit,
                           Key how = Key::Once, Deed deed = Deed::ChangeTrack) {
    return ruled(action(
                     text, key, tip,
                     [this, label, edit] {
                       const TrackId id = studio_->inHand().trackId();
                       if (studio_->inHand().track())
                         studio_->desk().apply(label, [&](const Session& s) { return edit(s, id); });
                     },
                     how),
                 deed);
  };
  const auto moved = [](int by) {
    return [by](Session session, TrackId id) {
      int place = 1;
      for (const auto& track : session.tracks) {
        if (track->id == id) break;
        ++place;
      }
      const int to = std::clamp(place + by, 1, static_cast<int>(session.tracks.size()));
      return to == place ? session : placeTrack(std::move(session), id, to);
    };
  };
  do_.trackUp = made(tr("Move the track up"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Up),
                     tr("The track in hand changes places with the one above"), tr("Move a track"), moved(-1),
                     Key::Held);
  do_.trackDown = made(tr("Move the track down"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Down),
                       tr("The track in hand changes places with the one below"), tr("Move a track"),
                       moved(1), Key::Held);
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
  do_.spreadTakes = made(
      tr("Spread the takes to tracks"), {},
      tr("Each take becomes a track of its own, panned from left to right, for doubling"),
      tr("Spread the takes"), [](Session s, TrackId id) { return spreadTakes(std::move(s), id, 0.7); },
      Key::Once, Deed::SpreadTakes);
  do_.separate = made(
      tr("Take the mic set apart"), {}, tr("Each microphone becomes a track of its own"),
      tr("Take a mic set apart"), [](Session s, TrackId id) { return separateMicrophones(std::move(s), id); },
      Key::Once, Deed::TakeApart);
}

/// What needs another track is offered for each of them.
void MainWindow::fillTrackMenu(QMenu& menu) {
  const Session& session = studio_->desk().session();
  const TrackId id = studio_->inHand().trackId();
  menu.addActions(
      {do_.arm, do_.renameTrack, do_.trackUp, do_.trackDown, do_.duplicateTrack, do_.removeTrack});
  menu.addSeparator();
  menu.addActions({do_.spreadTakes});
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
