// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the window does about recording: punching, picking up, claiming, spans, the device.
#include <QMenu>

#include "app/dialogs/new_session_dialog.h"
#include "app/window/main_window.h"
#include "core/edit/edit.h"

namespace yewdrift::app {

void MainWindow::makeRecordingActions() {
  Studio* s = studio_.get();
  do_.punchNow =
      action(tr("Punch in now"), Qt::Key_N,
             tr("While it rolls with an armed track: in, or out, right here, as often as you like"),
             [s] { s->recording().punchByHand(); });
  ruled(do_.punchNow, Deed::Punch);
  do_.backUp =
      action(tr("Back up and pick up"), Qt::Key_Backspace,
             tr("After a slip: goes back a few seconds (or to the selection), plays what is there and "
                "records on from that point"),
             [s] { s->recording().backUpAndPickUp(); });
  ruled(do_.backUp, Deed::BackUp);
  do_.backUpFromStandstill =
      action(tr("Back up and record from a standstill"), QKeySequence(Qt::SHIFT | Qt::Key_Backspace),
             tr("The same where nothing rolls: goes back a few seconds, plays what is there and records on"),
             [s] { s->recording().backUpAndPickUp(); });
  ruled(do_.backUpFromStandstill, Deed::BackUpFromStandstill);
  do_.claim = action(tr("Claim the last minute"), QKeySequence(Qt::CTRL | Qt::Key_K),
                     tr("What was played in the last minute while nothing was recorded becomes a take at the "
                        "playhead"),
                     [s] { s->recording().claim(); });
  ruled(do_.claim, Deed::Claim);
  do_.discard = action(tr("Discard what was just recorded"), QKeySequence(Qt::CTRL | Qt::Key_Backspace),
                       tr("Takes the passes of the last recording away; undo brings them back"),
                       [s] { s->recording().discardLastRecorded(); });
  ruled(do_.discard, Deed::Discard);
  do_.marker =
      action(tr("Drop a marker"), Qt::Key_H, tr("Drop a marker at the playhead, also while it rolls"),
             [s] { s->transport().dropMarker(); });
  ruled(do_.marker, Deed::Marker);
  transport_.punch =
      action(tr("Automatic punch"), QKeySequence(Qt::CTRL | Qt::Key_U),
             tr("Record in the punch spans only, on or off"), [s] {
               s->recording().setAutoPunch(!s->desk().options().punch || !s->recording().autoPunchStandsBy());
             });
  ruled(transport_.punch, Deed::AutoPunch);
  transport_.punch->setCheckable(true);
  transport_.punch->setIcon(icon("punch"));
  transport_.click =
      action(tr("Click"), Qt::Key_Y, tr("The click on or off; the options tell recording from playing"), [s] {
        RecordingOptions options = s->desk().options();
        const bool on = !(options.click.playing || options.click.recording);
        options.click.playing = on;
        options.click.recording = on;
        s->desk().setOptions(options);
      });
  transport_.click->setCheckable(true);
  transport_.click->setIcon(icon("click"));
  do_.device =
      action(tr("Audio device and foot switches…"), QKeySequence(Qt::CTRL | Qt::Key_D),
             tr("Choose the device, measure its round trip, teach foot switches"), [this] { showDevice(); });
}

void MainWindow::makeSpanActions() {
  Studio* s = studio_.get();
  do_.loopFromSelection =
      action(tr("Loop the selection"), QKeySequence(Qt::SHIFT | Qt::Key_L),
             tr("The selection becomes the loop span"), [this] { spanFromSelection(true); });
  ruled(do_.loopFromSelection, Deed::LoopFromSelection);
  do_.loopAir =
      action(tr("Give the loop air"), QKeySequence(Qt::SHIFT | Qt::Key_A),
             tr("Room to breathe in before the loop and to ring on behind it, as many bars as the Spans page "
                "says"),
             [s] {
               s->desk().apply(tr("Give the loop air"), [](const Session& session) {
                 const double bars = session.recording.airBars;
                 return widenLoop(session, bars, bars);
               });
             });
  ruled(do_.loopAir, Deed::LoopAir);
  do_.punchFromSelection =
      action(tr("Punch the selection"), Qt::Key_U, tr("The selection (else the loop) becomes a punch span"),
             [this] { spanFromSelection(false); });
  ruled(do_.punchFromSelection, Deed::PunchFromSelection);
  do_.onlyThisPunch =
      action(tr("Punch only this"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_U),
             tr("What is in hand becomes the only punch span; the others go"), [this] { punchOnlyThis(); });
  ruled(do_.onlyThisPunch, Deed::OnlyThisPunch);
  do_.punchInHere = action(tr("Punch-in here"), QKeySequence(Qt::SHIFT | Qt::Key_W),
                           tr("From the playhead on it records, up to the next punch-out"), [s] {
                             const Frames at = s->transport().state().position;
                             if (s->desk().apply(tr("Set a punch-in"), [at](const Session& session) {
                                   return punchInAt(session, at);
                                 }))
                               s->recording().setAutoPunch(true);
                           });
  ruled(do_.punchInHere, Deed::PunchHere);
  do_.punchOutHere = action(tr("Punch-out here"), QKeySequence(Qt::SHIFT | Qt::Key_R),
                            tr("Up to the playhead it records, from the last punch-in on"), [s] {
                              const Frames at = s->transport().state().position;
                              if (s->desk().apply(tr("Set a punch-out"), [at](const Session& session) {
                                    return punchOutAt(session, at);
                                  }))
                                s->recording().setAutoPunch(true);
                            });
  ruled(do_.punchOutHere, Deed::PunchHere);
  do_.snapFiner =
      action(tr("Snap finer"), Qt::Key_Comma, tr("Dragged edges snap to something finer"), [this] {
        studio_->inHand().stepSnap(1);
        saySnap();
      });
  do_.snapCoarser =
      action(tr("Snap coarser"), Qt::Key_Period, tr("Dragged edges snap to something coarser"), [this] {
        studio_->inHand().stepSnap(-1);
        saySnap();
      });
  do_.startHere =
      action(tr("Start the heard take here"), Qt::Key_W,
             tr("Pulls the start of the heard take out or in to the playhead"), [this] { pullEdge(true); });
  ruled(do_.startHere, Deed::PullEdge);
  do_.endHere =
      action(tr("End the heard take here"), Qt::Key_R,
             tr("Pulls the end of the heard take out or in to the playhead"), [this] { pullEdge(false); });
  ruled(do_.endHere, Deed::PullEdge);
}

void MainWindow::saySnap() {
  switch (studio_->desk().options().snap) {
    case Snap::Off:
      return say(tr("Snapping is off."));
    case Snap::Bar:
      return say(tr("Snaps to bars."));
    case Snap::Beat:
      return say(tr("Snaps to beats."));
    case Snap::Division:
      return say(tr("Snaps to %1 parts of a beat.").arg(studio_->desk().options().divisions));
    case Snap::PhraseEdge:
      return say(tr("Snaps to the edges of phrases, where all takes rest."));
    case Snap::ZeroCrossing:
      return say(tr("Snaps to the zero crossings of the take."));
  }
}

void MainWindow::spanFromSelection(bool loop) {
  InHand& inHand = studio_->inHand();
  const auto span = inHand.unitSpan() ? inHand.unitSpan() : studio_->desk().session().loop;
  if (!span) return;
  if (loop) {
    // What a person drew is looped as it was drawn. A phrase or a piece begins and ends where music does.
    const bool drawn = inHand.unit() == Unit::Selection || inHand.unit() == Unit::Punch;
    const Phrase* const phrase = inHand.phrase();
    const Span sounds = inHand.unit() == Unit::Phrase && phrase ? phrase->span : *span;
    studio_->desk().apply(tr("Loop the selection"), [&](const Session& s) {
      return setLoop(s, drawn || !s.recording.grid ? *span : wholeBars(s, sounds));
    });
    return;
  }
  if (studio_->desk().apply(tr("Punch the selection"), [&](const Session& s) { return addPunch(s, *span); }))
    studio_->recording().setAutoPunch(true);
}

void MainWindow::punchOnlyThis() {
  const auto span = studio_->inHand().unitSpan();
  if (!span) return;
  if (studio_->desk().apply(tr("Punch only this"),
                            [&](const Session& s) { return addPunch(setPunches(s, {}), *span); }))
    studio_->recording().setAutoPunch(true);
}

void MainWindow::pullEdge(bool start) {
  const Track* track = studio_->inHand().track();
  const auto heard = studio_->inHand().heardLane();
  const Lane* lane = track && heard ? track->lane(*heard) : nullptr;
  if (!lane || lane->clips.empty()) return;
  const Frames at = studio_->transport().state().position;
  // The clip whose edge is nearest to the playhead.
  const Clip* nearest = nullptr;
  auto away = [&](const Clip& clip) {
    return std::abs(((start ? clip.window.start : clip.window.end) - at).count);
  };
  for (const Clip& clip : lane->clips)
    if (!nearest || away(clip) < away(*nearest)) nearest = &clip;
  Span window = nearest->window;
  (start ? window.start : window.end) = at;
  studio_->desk().apply(tr("Pull a take's edge"),
                        [&](const Session& s) { return pullWindow(s, track->id, *heard, window); });
}

void MainWindow::askNewSession() {
  NewSessionDialog dialog(this);
  if (dialog.exec() == QDialog::Accepted) emit sessionAsked(dialog.folder(), dialog.session());
}

void MainWindow::showDevice() {
  if (!deviceDialog_) {
    deviceDialog_ =
        new DeviceDialog(studio_->desk(), studio_->transport(), studio_->device(), *controls_, this);
    // The transport's keys work while it is in front.
    deviceDialog_->addActions(
        {transport_.play, transport_.record, do_.punchNow, do_.backUp, transport_.start});
  }
  deviceDialog_->show();
  deviceDialog_->raise();
}

void MainWindow::fillDeviceMenu(QMenu* menu) {
  menu->clear();
  menu->addAction(do_.device);
  menu->addSeparator();
  const AudioChoice& now = studio_->device().choice();
  auto offer = [&](QMenu* in, const QString& text, bool chosen,
                   const std::function<void(AudioChoice&)>& change) {
    QAction* each =
        in->addAction(QString(text).replace('&', "&&"), this, [this, change] { chooseDevice(change); });
    each->setCheckable(true);
    each->setChecked(chosen);
  };
  offer(menu, tr("Simulated interface"), now.driver == "Simulated",
        [](AudioChoice& choice) { choice.driver = "Simulated"; });
  for (const OfferedDriver& driver : studio_->device().devices().offers()) {
    const QString name = QString::fromStdString(driver.name);
    QMenu* sub = menu->addMenu(name);
    const bool used = now.driver == name;
    auto points = [&](const QString& title, const std::vector<EndPoint>& all, QString AudioChoice::*which) {
      sub->addSection(title);
      auto choose = [name, which](const QString& id) {
        return [name, which, id](AudioChoice& choice) {
          if (choice.driver != name) choice.source = choice.sink = QString();
          choice.driver = name;
          choice.*which = id;
        };
      };
      offer(sub, tr("the system's default"), used && (now.*which).isEmpty(), choose({}));
      for (const EndPoint& point : all) {
        const QString id = QString::fromStdString(point.id);
        offer(sub, QString::fromStdString(distinctName(point, all)), used && now.*which == id, choose(id));
      }
    };
    points(tr("Record from"), driver.listing.sources, &AudioChoice::source);
    points(tr("Play to"), driver.listing.sinks, &AudioChoice::sink);
  }
}

void MainWindow::chooseDevice(const std::function<void(AudioChoice&)>& change) {
  AudioChoice choice = studio_->device().choice();
  change(choice);
  studio_->device().choose(choice);
}

}  // namespace yewdrift::app
