// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the menus on lanes, cells, phrases, joins, composite, rulers and the song strip hold.
#include <QInputDialog>
#include <QMenu>
#include <algorithm>

#include "app/look/spoken.h"
#include "app/window/main_window.h"
#include "core/edit/edit.h"
#include "core/edit/edit_pieces.h"
#include "core/edit/edit_takes.h"
#include "core/session/limits.h"

namespace yewdrift::app {

/// The markers that lie where the pointer is can go, or be called something.
void MainWindow::fillRulerMenu(QMenu& menu, Frames at, Frames reach) {
  menu.addActions({transport_.loop, do_.loopFromSelection, do_.loopAir});
  menu.addAction(tr("Drop a marker here"), this,
                 [this, at = std::max(at, Frames{})] {
                   studio_->desk().apply(tr("Drop a marker"),
                                         [at](const Session& s) { return addMarker(s, at, {}); });
                 })
      ->setEnabled(do_.marker->isEnabled());
  menu.addAction(tr("Tempo and meter"), this, [this] { showBench(SongPage); });
  // It may have moved, or another come before it, until a menu is answered.
  const auto found = [](const Session& session, const Marker& marker) {
    const auto place = std::find(session.markers.begin(), session.markers.end(), marker);
    if (place == session.markers.end()) throw refusal(tr("That marker is gone."));
    return static_cast<std::size_t>(place - session.markers.begin());
  };
  for (const Marker& marker : studio_->desk().session().markers) {
    if (std::abs((marker.at - at).count) > reach.count) continue;
    const QString name = QString::fromStdString(marker.name).simplified();
    menu.addSeparator();
    QAction* rename =
        menu.addAction(tr("Call the marker \"%1\" something else…").arg(name), this, [this, marker, found] {
          bool good = false;
          const QString named =
              QInputDialog::getText(this, tr("Name of the marker"), tr("What is there:"), QLineEdit::Normal,
                                    QString::fromStdString(marker.name), &good);
          if (good)
            studio_->desk().apply(tr("Rename a marker"), [&](const Session& s) {
              return renameMarker(s, found(s, marker), named.trimmed().toStdString());
            });
        });
    QAction* remove = menu.addAction(tr("Remove the marker \"%1\"").arg(name), this, [this, marker, found] {
      studio_->desk().apply(tr("Remove %n marker(s)", nullptr, 1),
                            [&](const Session& s) { return removeMarkers(s, {found(s, marker)}); });
    });
    for (QAction* each : {rename, remove}) each->setEnabled(studio_->desk().writable());
  }
}

void MainWindow::fillPunchMenu(QMenu& menu, Frames at) {
  menu.addActions({transport_.punch, do_.punchFromSelection, do_.onlyThisPunch});
  // A menu acts where it was opened, not at the playhead.
  const auto edge = [&](const QString& text, const QString& label, Session (*set)(Session, Frames)) {
    menu.addAction(text, this,
                   [this, label, set, at] {
                     if (studio_->desk().apply(label, [=](const Session& s) { return set(s, at); }))
                       studio_->recording().setAutoPunch(true);
                   })
        ->setEnabled(do_.punchInHere->isEnabled());
  };
  edge(do_.punchInHere->text(), tr("Set a punch-in"), punchInAt);
  edge(do_.punchOutHere->text(), tr("Set a punch-out"), punchOutAt);
  const auto& punches = studio_->desk().session().punches;
  for (std::size_t i = 0; i < punches.size(); ++i) {
    const Punch& punch = punches[i];
    if (!punch.span().contains(at)) continue;
    menu.addAction(tr("Take this punch in hand"), this, [this, i] { studio_->inHand().takePunch(i); })
        ->setEnabled(do_.takePunch->isEnabled());
    menu.addAction(tr("Remove this punch"), this,
                   [this, punch] {
                     studio_->desk().apply(tr("Remove punches"), [&](const Session& s) {
                       std::vector<Punch> kept = s.punches;
                       kept.erase(std::remove(kept.begin(), kept.end(), punch), kept.end());
                       return setPunches(s, kept);
                     });
                   })
        ->setEnabled(studio_->desk().writable());
  }
}

void MainWindow::showStripMenu(const SongStrip::Place& place, QPoint at) {
  if (place.track) {
    studio_->inHand().takeTrack(*place.track);
    return showTrackMenu(at);
  }
  QMenu menu(this);
  if (place.row == SpanGestures::Row::Punch)
    fillPunchMenu(menu, place.at);
  else
    fillRulerMenu(menu, place.at, place.reach);
  menu.exec(at);
}

/// A word on the take in that phrase.
void MainWindow::addCellNote(QMenu& menu, const Phrase* phrase) {
  InHand& inHand = studio_->inHand();
  const auto heard = inHand.heardLane();
  if (!heard || !phrase) return;
  menu.addAction(tr("Note on it in this phrase…"), this,
                 [this, id = inHand.trackId(), lane = *heard, of = *phrase] {
                   const Track* const track = studio_->desk().session().track(id);
                   const Lane* const noted = track ? track->lane(lane) : nullptr;
                   const CellNote* const cell = noted ? cellOf(*noted, of) : nullptr;
                   bool good = false;
                   const QString note = QInputDialog::getText(
                       this, tr("Note"), tr("What is there to be said of it:"), QLineEdit::Normal,
                       cell ? QString::fromStdString(cell->note) : QString(), &good);
                   if (good)
                     studio_->desk().apply(tr("Note on a take"), [&](const Session& s) {
                       return changeCell(s, id, lane, of, std::nullopt, note.trimmed().toStdString());
                     });
                 })
      ->setEnabled(do_.rateUp->isEnabled() && !studio_->listening().hidesNames());
}

void MainWindow::addPictures(QMenu& menu, TrackId id, const Lane& lane) {
  for (const auto& [text, picture] : {std::pair{tr("Waveform"), LanePicture::Waveform},
                                      {tr("Onsets"), LanePicture::Onsets},
                                      {tr("Level, with its line to be dragged"), LanePicture::Level},
                                      {tr("Pitch"), LanePicture::Pitch}}) {
    QAction* each = menu.addAction(text, this, [this, id, number = lane.number, picture = picture] {
      studio_->desk().apply(tr("Choose what a lane shows"), [=](const Session& s) {
        return changeLane(s, id, number, LaneChange{.picture = picture});
      });
    });
    each->setCheckable(true);
    each->setChecked(lane.picture == picture);
  }
}

/// The marks that lie where the pointer is can go, or be called something.
void MainWindow::addMarksNear(QMenu& menu, TrackId id, const Lane& lane, Frames at) {
  for (std::size_t i = 0; i < lane.marks.size(); ++i) {
    if (std::abs((lane.marks[i].at - at).count) > lanes_->geometry().reach().count) continue;
    const QString text = QString::fromStdString(lane.marks[i].text).simplified();
    menu.addAction(text.isEmpty() ? tr("Remove the mark here") : tr("Remove the mark \"%1\"").arg(text), this,
                   [this, id, number = lane.number, i] {
                     studio_->desk().apply(tr("Remove a mark"), [=](const Session& s) {
                       return removeTakeMark(s, id, number, i);
                     });
                   });
    menu.addAction(tr("Name the mark…"), this,
                   [this, id, number = lane.number, where = lane.marks[i].at, text] {
                     bool good = false;
                     const QString named = QInputDialog::getText(
                         this, tr("Name the mark"), tr("What is there:"), QLineEdit::Normal, text, &good);
                     if (good)
                       studio_->desk().apply(tr("Name a mark"), [=](const Session& s) {
                         return markTake(s, id, number, where, named.trimmed().toStdString());
                       });
                   });
  }
}

void MainWindow::showMenuFor(const LanesGeometry::Hit& where, QPoint at) {
  using Part = LanesGeometry::Part;
  const Track* track = studio_->inHand().track();
  if (!track) return;
  // A head lies at no place in the song: what is done there is done in the phrase in hand.
  const bool head = where.part == Part::Hint || where.part == Part::LaneName || where.part == Part::RowEdge ||
                    where.part == Part::CompositeName;
  QMenu menu(this);
  switch (where.part) {
    case Part::Hint:
    case Part::LevelLine:
    case Part::LaneName:
    case Part::RowEdge:
    case Part::Lane:
    case Part::ClipStart:
    case Part::ClipEnd:
      if (!where.lane) {
        menu.addActions({do_.rideComposite, do_.ridePieces});
        break;
      }
      if (!track->lane(*where.lane) || track->lane(*where.lane)->setAside) return;
      // What is done then is done with that take, in that phrase; unless something there is selected.
      studio_->inHand().hear(*where.lane);
      if (const auto inHand = studio_->inHand().unitSpan(); !head && (!inHand || !inHand->contains(where.at)))
        if (const Phrase* phrase = phraseAt(studio_->inHand().phrases(), where.at))
          studio_->inHand().takePhrase(Phrase(*phrase));
      menu.addActions({do_.pick, do_.pickWhole, do_.rateUp, do_.rateDown});
      addCellNote(menu, head ? studio_->inHand().phrase() : phraseAt(studio_->inHand().phrases(), where.at));
      if (head)
        menu.addAction(do_.markTake);
      else
        menu.addAction(do_.markTake->text(), this, [this, at = where.at] { markHeardAt(at); })
            ->setEnabled(do_.markTake->isEnabled());
      menu.addSeparator();
      menu.addActions({do_.takeUp, do_.takeDown, do_.nudgeEarlier, do_.nudgeLater, do_.nudgeBy});
      menu.addSeparator();
      menu.addActions({do_.muteTake, do_.cutTake, do_.giveBack, do_.asideTake, do_.removeTake, do_.lineUp});
      menu.addSeparator();
      addPictures(*menu.addMenu(tr("The lane shows")), track->id, *track->lane(*where.lane));
      if (!head) addMarksNear(menu, track->id, *track->lane(*where.lane), where.at);
      menu.addSeparator();
      if (track->lane(*where.lane)->brokenOff)
        menu.addAction(tr("Count it as whole"), this,
                       [this, id = track->id, lane = *where.lane] {
                         studio_->desk().apply(tr("Count a take as whole"), [=](const Session& s) {
                           return setLaneBrokenOff(s, id, lane, false);
                         });
                       })
            ->setEnabled(do_.asideTake->isEnabled());
      menu.addAction(tr("Name, note, gain, pitch"), this, [this] { showBench(TakePage); });
      break;
    case Part::TakeCount:
      menu.addActions({do_.foldTakes, do_.fitTakes, do_.showMeasures});
      break;
    case Part::PhraseEdge:
    case Part::PhraseRow:
      if (const Phrase* phrase = phraseAt(studio_->inHand().phrases(), where.at)) goToPhrase(Phrase(*phrase));
      menu.addActions({do_.hearPhrase, do_.showPhrase, do_.nextUndecided});
      menu.addSeparator();
      menu.addAction(do_.phraseEdge->text(), this, [this, at = where.at] { addPhraseEdgeAt(at); })
          ->setEnabled(do_.phraseEdge->isEnabled());
      menu.addAction(do_.mergePhrases);
      menu.addAction(tr("Phrases as they are found"), this, [this, id = track->id] {
        studio_->desk().apply(tr("Forget the phrases that were set"),
                              [id](const Session& s) { return forgetPhrases(s, id); });
      });
      break;
    case Part::Boundary:
      studio_->inHand().takeJoin(where.boundary);
      menu.addActions(
          {do_.hearJoin, do_.betterJoin, do_.settleJoin, do_.previousJoin, do_.nextJoin, do_.merge});
      menu.addAction(tr("The join under the magnifier"), this, [this] { showBench(JoinPage); });
      break;
    case Part::CompositeName:
    case Part::Composite:
    case Part::FadeIn:
    case Part::FadeOut:
      // What is picked then is picked there: into the piece under the pointer, unless it lies in what is in
      // hand.
      if (const auto inHand = studio_->inHand().unitSpan(); !head && (!inHand || !inHand->contains(where.at)))
        studio_->inHand().takePiece(where.at);
      menu.addActions({do_.hearComposite, do_.pick, do_.pickSilence});
      if (head)
        menu.addAction(do_.split);
      else
        menu.addAction(tr("Split here"), this, [this, at = where.at] { splitAt(at); })
            ->setEnabled(do_.split->isEnabled());
      menu.addActions({do_.fadeIn, do_.fadeOut});
      menu.addActions({do_.keepComposite, do_.nextComposite});
      fillComposites(*menu.addMenu(tr("Composites of this track")));
      if (where.part == Part::Composite && studio_->desk().writable() &&
          studio_->inHand().composite(*track).pieceAt(where.at)) {
        menu.addSeparator();
        menu.addAction(tr("Gain of this piece…"), this, [this, at = where.at] { changePieceAt(at, false); });
        menu.addAction(tr("Pitch of this piece…"), this, [this, at = where.at] { changePieceAt(at, true); });
      }
      menu.addSeparator();
      menu.addActions(
          {do_.loopFromSelection, do_.punchFromSelection, do_.rideComposite, do_.flatten, do_.flattenAs});
      break;
    case Part::Ruler:
      fillRulerMenu(menu, where.at, lanes_->geometry().reach());
      break;
    case Part::PunchRow:
      fillPunchMenu(menu, where.at);
      break;
    case Part::SetAside:
    case Part::Nothing:
      return;
  }
  menu.exec(at);
}

}  // namespace yewdrift::app
