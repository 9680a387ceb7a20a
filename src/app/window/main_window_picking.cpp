// SPDX-License-Identifier: GPL-3.0-or-later
//
// Picking: what is in hand, and what a key, a button or a menu picks into it.
#include "app/views/listening_bar.h"
#include "app/window/main_window.h"
#include "core/joins/pick_over.h"

namespace yewdrift::app {

void MainWindow::pickHeard() {
  const auto& heard = studio_->inHand().heardLanes();
  if (heard.size() > 1) return offer(heard);
  if (const auto lane = studio_->inHand().heardLane()) pickInto(lane);
}

/// Over what is in hand; silence where there is no lane.
void MainWindow::pickInto(std::optional<LaneNumber> lane) {
  if (const auto over = studio_->inHand().pickOver()) pickOver(*over, lane);
}

void MainWindow::pickOver(const PickOver& over, std::optional<LaneNumber> lane) {
  InHand& inHand = studio_->inHand();
  if (!inHand.track()) return;
  offer({});
  PickRequest request{.track = inHand.trackId(), .over = over, .lane = lane};
  request.blind = lane && studio_->listening().hidesNames();
  const auto phrases = inHand.phrases();
  std::vector<Sentence> notices;
  const bool done = inHand.picking([&] {
    return studio_->desk().apply(
        lane ? tr("Pick lane %1").arg(lane->value) : tr("Pick silence"), [&](const Session& s) {
          Picked picked = yewdrift::pickOver(s, request, phrases, studio_->analysis().finder());
          notices = std::move(picked.notices);
          return std::move(picked.session);
        });
  });
  if (!done) return;
  if (lane) studio_->listening().reveal();
  if (!notices.empty()) studio_->messages().say(spoken(notices));
}

void MainWindow::pickWholeTake() {
  if (const auto heard = studio_->inHand().heardLane()) pickOver({PickOver::Kind::WholeTake, {}}, heard);
}

/// Nobody can say which of several takes that are heard together is meant: each is offered.
void MainWindow::offer(std::vector<LaneNumber> takes) {
  if (takes == offered_) return;
  offered_ = std::move(takes);
  listeningBar_->offer(offered_);
  if (offered_.empty()) return;
  QStringList numbers;
  for (const LaneNumber lane : offered_) numbers << QString::number(lane.value);
  say(tr("You hear several takes, so nothing was picked. Which one is it? Press its number: %1.")
          .arg(numbers.join(tr(", "))));
}

/// Again: the phrase at the playhead.
void MainWindow::takePieceHere() {
  InHand& inHand = studio_->inHand();
  const Frames at = studio_->transport().state().position;
  if (inHand.unit() == Unit::Piece) {
    if (const Phrase* phrase = phraseAt(inHand.phrases(), at)) return inHand.takePhrase(Phrase(*phrase));
    return inHand.letGoOfUnit();
  }
  if (!inHand.takePiece(at))
    say(tr("The composite plays nothing at the playhead that could be taken in hand."));
}

/// The one at the playhead, else the next one, else the first; with a punch in hand the one after it.
void MainWindow::takePunchHere() {
  InHand& inHand = studio_->inHand();
  const auto& punches = studio_->desk().session().punches;
  if (punches.empty()) return;
  std::size_t index = 0;
  if (inHand.unit() == Unit::Punch) {
    index = inHand.unitNumber() % punches.size();
  } else {
    const Frames at = studio_->transport().state().position;
    while (index < punches.size() && punches[index].span().end <= at) ++index;
    if (index == punches.size()) index = 0;
  }
  inHand.takePunch(index);
  if (const auto span = inHand.unitSpan(); span && span->start > -maximumPosition)
    studio_->transport().followPhrase();
}

/// To the next piece or punch, where one is in hand; false where something else is.
bool MainWindow::stepUnit(int direction) {
  InHand& inHand = studio_->inHand();
  const Unit unit = inHand.unit();
  if (unit != Unit::Piece && unit != Unit::Punch) return false;
  if (!inHand.stepUnit(direction)) {
    say(unit == Unit::Piece ? tr("There is no other piece in that direction.")
                            : tr("There is no other punch span in that direction."));
    return true;
  }
  studio_->transport().followPhrase();
  if (const auto span = studio_->listening().compared()) lanes_->bringInSight(*span);
  return true;
}

}  // namespace yewdrift::app
