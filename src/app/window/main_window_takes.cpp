// SPDX-License-Identifier: GPL-3.0-or-later
//
// What can be done with the take that is heard: its place, its cuts, where it lies.
#include <QInputDialog>
#include <QMenu>

#include "app/window/main_window.h"
#include "core/edit/edit_pieces.h"
#include "core/edit/edit_takes.h"
#include "core/session/limits.h"

namespace yewdrift::app {

void MainWindow::makeTakeActions() {
  const auto made = [this](const QString& text, const QKeySequence& key, const QString& tip, Deed deed,
                           const std::function<void(TrackId, LaneNumber)>& run, Key how = Key::Once) {
    return ruled(action(
                     text, key, tip,
                     [this, run] {
                       const Track* track = studio_->inHand().track();
                       if (track && studio_->inHand().heardLane())
                         run(track->id, *studio_->inHand().heardLane());
                     },
                     how),
                 deed);
  };
  SessionDesk& desk = studio_->desk();
  do_.takeUp = made(
      tr("Move the take up"), QKeySequence(Qt::CTRL | Qt::Key_Up),
      tr("The take that is heard changes places with "
         "the one above"),
      Deed::ChangeTake, [this](TrackId, LaneNumber) { moveTake(-1); }, Key::Held);
  do_.takeDown = made(
      tr("Move the take down"), QKeySequence(Qt::CTRL | Qt::Key_Down),
      tr("The take that is heard changes places "
         "with the one below"),
      Deed::ChangeTake, [this](TrackId, LaneNumber) { moveTake(1); }, Key::Held);
  do_.nudgeEarlier = made(
      tr("Nudge earlier"), QKeySequence(Qt::ALT | Qt::Key_Left),
      tr("The take that is heard lies a millisecond "
         "earlier"),
      Deed::ChangeTake, [this](TrackId, LaneNumber) { nudgeHeard(-0.001); }, Key::Held);
  do_.nudgeLater = made(
      tr("Nudge later"), QKeySequence(Qt::ALT | Qt::Key_Right),
      tr("The take that is heard lies a millisecond "
         "later"),
      Deed::ChangeTake, [this](TrackId, LaneNumber) { nudgeHeard(0.001); }, Key::Held);
  do_.nudgeBy = made(tr("Nudge by…"), {}, tr("The take that is heard lies so much later, or earlier"),
                     Deed::ChangeTake, [this](TrackId, LaneNumber) { nudgeBy(); });
  do_.muteTake = made(tr("Mute the take, or not"), QKeySequence(Qt::CTRL | Qt::Key_M),
                      tr("Silent where the composite plays it; heard where it is listened to"),
                      Deed::ChangeTake, [&desk](TrackId id, LaneNumber lane) {
                        desk.apply(tr("Mute a take"), [=](const Session& s) {
                          const Lane& now = requireLane(requireTrack(s, id), lane);
                          return changeLane(s, id, lane, LaneChange{.muted = !now.muted});
                        });
                      });
  do_.cutTake =
      made(tr("Cut the selection out of the take"), Qt::Key_Delete,
           tr("The take that is heard is silent there; it can be given back"), Deed::CutTake,
           [this, &desk](TrackId id, LaneNumber lane) {
             const auto span = studio_->inHand().selection();
             if (span)
               desk.apply(tr("Cut a take"), [=](const Session& s) { return cutLane(s, id, lane, *span); });
           });
  do_.giveBack = made(tr("Give back what was cut"), QKeySequence(Qt::SHIFT | Qt::Key_Delete),
                      tr("What was cut out of the take that is heard, within the selection"), Deed::CutTake,
                      [this, &desk](TrackId id, LaneNumber lane) {
                        const auto span = studio_->inHand().selection();
                        if (span)
                          desk.apply(tr("Give back a cut"),
                                     [=](const Session& s) { return restoreLane(s, id, lane, *span); });
                      });
  do_.asideTake = made(
      tr("Set the take aside"), {}, tr("Kept, but not among the takes; a click brings it back"),
      Deed::ChangeTake, [&desk](TrackId id, LaneNumber lane) {
        desk.apply(tr("Set a take aside"), [=](const Session& s) { return setLaneAside(s, id, lane, true); });
      });
  do_.removeTake =
      made(tr("Remove the take"), {}, tr("With its picks; Undo brings all of it back, and its file stays"),
           Deed::ChangeTake, [&desk](TrackId id, LaneNumber lane) {
             desk.apply(tr("Remove a take"), [=](const Session& s) { return removeLane(s, id, lane); });
           });
  do_.lineUp = made(tr("Line the take up…"), QKeySequence(Qt::CTRL | Qt::Key_E),
                    tr("Finds by how much the take that is heard lies early or late against another take, or "
                       "the grid, and says how sure that is"),
                    Deed::ChangeTake, [this](TrackId, LaneNumber lane) {
                      delete lineUpDialog_;
                      lineUpDialog_ =
                          new LineUpDialog(studio_->desk(), studio_->inHand(), studio_->lineUp(), lane, this);
                      lineUpDialog_->show();
                    });
}

void MainWindow::moveTake(int by) {
  const Track* track = studio_->inHand().track();
  const auto lane = studio_->inHand().heardLane();
  if (!track || !lane) return;
  int place = 0;
  int count = 0;
  for (const auto& each : track->lanes)
    if (!each->setAside) {
      ++count;
      if (each->number == *lane) place = count;
    }
  if (place == 0) return;
  const int to = std::clamp(place + by, 1, count);
  if (to == place)
    return studio_->messages().say(by < 0 ? tr("It is the first take already.")
                                          : tr("It is the last take already."));
  studio_->desk().apply(tr("Move a take"),
                        [=, id = track->id](const Session& s) { return placeLane(s, id, *lane, to); });
}

void MainWindow::nudgeHeard(double seconds) {
  const Track* track = studio_->inHand().track();
  const auto lane = studio_->inHand().heardLane();
  if (!track || !lane) return;
  const Frames step = framesFromSeconds(std::abs(seconds), studio_->desk().session().rate);
  studio_->desk().apply(tr("Nudge a take"), [=, id = track->id](const Session& s) {
    return nudgeLane(s, id, *lane, seconds < 0.0 ? -step : step);
  });
}

void MainWindow::nudgeBy() {
  const Track* track = studio_->inHand().track();
  const auto lane = studio_->inHand().heardLane();
  if (!track || !lane) return;
  const TrackId id = track->id;
  bool good = false;
  const QString typed = QInputDialog::getText(
      this, tr("Nudge lane %1").arg(lane->value),
      tr("Later by, for example 12.5ms or 480f; with a minus: earlier"), QLineEdit::Normal, "10ms", &good);
  if (!good) return;
  const std::string text = typed.trimmed().toStdString();
  const bool earlier = text.starts_with('-');
  studio_->desk().apply(tr("Nudge a take"), [&](const Session& s) {
    const Frames by = parseDuration(earlier ? text.substr(1) : text, s.ruler(), {});
    return nudgeLane(s, id, *lane, earlier ? -by : by);
  });
}

/// Of the piece there, beside what its take is set to.
void MainWindow::changePieceAt(Frames at, bool pitch) {
  const Track* track = studio_->inHand().track();
  const Piece* piece = track ? studio_->inHand().composite(*track).pieceAt(at) : nullptr;
  if (!piece) return;
  const TrackId id = track->id;
  bool good = false;
  const double now = pitch ? piece->pitch.value : piece->gain.value;
  const double value =
      pitch ? QInputDialog::getDouble(this, tr("Pitch of this piece"), tr("Cents:"), now,
                                      -limits::widestPitch.value, limits::widestPitch.value, 1, &good)
            : QInputDialog::getDouble(this, tr("Gain of this piece"), tr("Decibels:"), now, -60.0, 24.0, 1,
                                      &good);
  if (!good || value == now) return;
  studio_->desk().apply(pitch ? tr("Shift a piece") : tr("Set a piece's gain"), [=](const Session& s) {
    return changePiece(s, id, at,
                       pitch ? PieceChange{.pitch = Cents{value}} : PieceChange{.gain = Decibels{value}});
  });
}

/// How long the composite fades in, or out, by number.
void MainWindow::setEndFadeOf(CompositeEnd end) {
  const Track* track = studio_->inHand().track();
  if (!track) return;
  const bool in = end == CompositeEnd::Start;
  const SampleRate rate = studio_->desk().session().rate;
  EndFade fade = in ? track->composite.fadeIn : track->composite.fadeOut;
  const double now = secondsFromFrames(fade.length, rate) * 1000.0;
  bool good = false;
  const double value =
      QInputDialog::getDouble(this, in ? tr("Fade the composite in") : tr("Fade the composite out"),
                              tr("Milliseconds (0: as it was played):"), now, 0.0, 600'000.0, 1, &good);
  if (!good || value == now) return;
  fade.length = framesFromSeconds(value / 1000.0, rate);
  studio_->desk().apply(
      in ? tr("Fade the composite in") : tr("Fade the composite out"),
      [id = track->id, end, fade](const Session& s) { return setEndFade(s, id, end, fade); });
}

}  // namespace yewdrift::app
