// SPDX-License-Identifier: GPL-3.0-or-later
//
// The round in which people decide: from phrase to phrase, from take to take, hear, rate, pick.
#include <QActionGroup>
#include <QMenu>

#include "app/desk/phrase_steps.h"
#include "app/window/main_window.h"
#include "core/edit/edit_takes.h"
#include "core/session/limits.h"

namespace yewdrift::app {

void MainWindow::makePhraseActions() {
  Studio* s = studio_.get();
  do_.nextPhrase = action(
      tr("Next phrase"), Qt::Key_G, tr("Take the next phrase in hand, and play from it"),
      [this] { stepPhrase(1); }, Key::Held);
  ruled(do_.nextPhrase, Deed::StepPhrase);
  do_.previousPhrase = action(
      tr("Previous phrase"), Qt::Key_S, tr("Take the previous phrase in hand, and play from it"),
      [this] { stepPhrase(-1); }, Key::Held);
  ruled(do_.previousPhrase, Deed::StepPhrase);
  do_.nextUndecided =
      action(tr("Next undecided phrase"), Qt::Key_Q,
             tr("Take the next phrase in hand in which nobody has picked yet"), [this] { goToUndecided(); });
  ruled(do_.nextUndecided, Deed::StepPhrase);
  do_.hearPhrase = action(tr("Hear the phrase"), Qt::Key_V,
                          tr("Go round the phrase in hand, else the selection, else the loop; again to stop"),
                          [s] { s->transport().toggleHearPhrase(); });
  ruled(do_.hearPhrase, Deed::HearCompared);
  do_.hearOther = action(tr("Hear the other one"), Qt::Key_T,
                         tr("Hear what was heard before, and back again: two takes against each other"),
                         [s] { s->inHand().hearOther(); });
  ruled(do_.hearOther, Deed::HearTake);
  do_.rateUp = action(
      tr("Rate it higher"), Qt::Key_X, tr("The take that is heard is worth one bud more in this phrase"),
      [this] { rateHeard(1); }, Key::Held);
  ruled(do_.rateUp, Deed::Rate);
  do_.rateDown = action(
      tr("Rate it lower"), Qt::Key_Z, tr("The take that is heard is worth one bud less in this phrase"),
      [this] { rateHeard(-1); }, Key::Held);
  ruled(do_.rateDown, Deed::Rate);
  do_.showPhrase = action(tr("Show the phrase"), QKeySequence(Qt::CTRL | Qt::Key_G),
                          tr("Zoom to the phrase in hand, with some air"), [this] {
                            if (const Phrase* phrase = studio_->inHand().phrase())
                              lanes_->lookAt(phrase->cell);
                          });
  ruled(do_.showPhrase, Deed::HearPhrase);
  do_.phraseEdge = action(tr("A phrase begins here"), QKeySequence(Qt::CTRL | Qt::Key_B),
                          tr("Cuts the phrase in hand in two at the playhead; with none in hand, the one "
                             "that is there"),
                          [this] { cutPhraseAtPlayhead(); });
  ruled(do_.phraseEdge, Deed::EditPhrases);
  do_.mergePhrases = action(tr("Merge with the next phrase"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_B),
                            tr("The phrase in hand and the next one become one"), [this] { mergePhrases(); });
  ruled(do_.mergePhrases, Deed::HearPhrase);
  do_.markTake = action(tr("Mark this spot"), Qt::Key_B,
                        tr("Marks the spot at the playhead in the take that is heard, also while it plays"),
                        [this] { markHeardAt(studio_->transport().state().position); });
  ruled(do_.markTake, Deed::Mark);
  // On the bar over the takes, where room is scarce.
  do_.previousPhrase->setIconText(tr("◂"));
  do_.nextPhrase->setIconText(tr("▸"));
  do_.nextUndecided->setIconText(tr("Undecided"));
  do_.pick->setIconText(tr("Pick"));
  do_.hearPhrase->setIconText(tr("Hear it"));
  do_.hearOther->setIconText(tr("The other"));
}

void MainWindow::goToPhrase(const Phrase& phrase) {
  studio_->inHand().takePhrase(phrase);
  studio_->transport().followPhrase();
  lanes_->bringInSight(phrase.cell);
}

void MainWindow::stepPhrase(int direction) {
  if (stepUnit(direction)) return;
  InHand& inHand = studio_->inHand();
  const Frames position = studio_->transport().state().position;
  if (stepBy_ != StepBy::Phrase) {
    const auto from = inHand.selection();
    if (stepBy_ == StepBy::Selection && !from)
      return say(tr("Select a stretch first: then [S] and [G] step by its length."));
    const auto next = steppedSpan(stepBy_, studio_->desk().ruler(), from.value_or(Span{position, position}),
                                  from            ? direction
                                  : direction > 0 ? 0
                                                  : -1);
    if (!next) return;
    inHand.dropPhrase();
    inHand.select(*next);
    studio_->transport().followPhrase();
    return lanes_->bringInSight(*next);
  }
  const auto& phrases = inHand.phrases();
  const auto next = steppedPhrase(phrases, inHand.phrasePlace(), position, direction);
  if (next) goToPhrase(Phrase(phrases[*next]));
}

/// S and G step by phrases, bars, beats, or as far as the selection is long.
void MainWindow::fillStepMenu(QMenu& menu) {
  auto* group = new QActionGroup(&menu);
  for (const auto& [text, by] : {std::pair{tr("Phrases"), StepBy::Phrase},
                                 {tr("Bars"), StepBy::Bar},
                                 {tr("Beats"), StepBy::Beat},
                                 {tr("The selection's length"), StepBy::Selection}}) {
    QAction* each = menu.addAction(text, this, [this, by = by] {
      stepBy_ = by;
      // A piece or a punch in hand would be stepped by first.
      if (const Unit unit = studio_->inHand().unit(); unit == Unit::Piece || unit == Unit::Punch)
        studio_->inHand().letGoOfUnit();
      refreshActions();
    });
    each->setCheckable(true);
    each->setChecked(by == stepBy_);
    group->addAction(each);
  }
}

void MainWindow::goToUndecided() {
  InHand& inHand = studio_->inHand();
  const Track* track = inHand.track();
  const auto& phrases = inHand.phrases();
  if (!track) return;
  const auto next =
      nextUndecided(*track, phrases, inHand.phrasePlace(), studio_->transport().state().position);
  if (!next) return say(tr("Every phrase of this track is decided."));
  goToPhrase(Phrase(phrases[*next]));
}

void MainWindow::rateHeard(int by) {
  InHand& inHand = studio_->inHand();
  const Track* track = inHand.track();
  const auto lane = inHand.heardLane();
  const Phrase* phrase = inHand.phrase();
  if (!track || !lane || !phrase) return;
  // Undo's name for it must not tell which one it is.
  const bool blind = studio_->listening().hidesNames();
  const CellNote* cell = cellOf(*track->lane(*lane), *phrase);
  const int rating = std::clamp((cell ? cell->rating : 0) + by, 0, limits::highestRating);
  studio_->desk().apply(blind ? tr("Rate a take") : tr("Rate lane %1").arg(lane->value),
                        [id = track->id, number = *lane, of = *phrase, rating](const Session& session) {
                          return changeCell(session, id, number, of, rating, std::nullopt);
                        });
}

/// As merging does, it goes by the phrase in hand: no other is cut by mistake.
void MainWindow::cutPhraseAtPlayhead() {
  const Frames at = studio_->transport().state().position;
  const Phrase* const phrase = studio_->inHand().phrase();
  if (phrase && !phrase->span.contains(at))
    return say(
        tr("The playhead lies outside the phrase in hand, which is the one that would be cut: click on the "
           "ruler where the phrase is to be cut, then try again."));
  addPhraseEdgeAt(at);
}

void MainWindow::addPhraseEdgeAt(Frames at) {
  const Track* track = studio_->inHand().track();
  if (!track) return;
  const auto phrases = studio_->inHand().phrases();
  studio_->desk().apply(tr("A phrase begins here"), [&, id = track->id](const Session& session) {
    return yewdrift::addPhraseEdge(session, id, phrases, at);
  });
}

void MainWindow::mergePhrases() {
  const Track* track = studio_->inHand().track();
  const Phrase* phrase = studio_->inHand().phrase();
  if (!track || !phrase) return;
  const auto phrases = studio_->inHand().phrases();
  const Frames edge = phrase->span.end;
  studio_->desk().apply(tr("Merge two phrases"), [&, id = track->id](const Session& session) {
    return removePhraseEdge(session, id, phrases, edge);
  });
}

void MainWindow::markHeardAt(Frames at) {
  InHand& inHand = studio_->inHand();
  const Track* track = inHand.track();
  if (!track) return;
  // What is heard there: the take alone, or the one that the composite plays.
  std::optional<LaneNumber> lane = inHand.heardLane();
  if (!lane)
    if (const Piece* piece = inHand.composite(*track).pieceAt(at)) lane = piece->lane;
  const bool blind = studio_->listening().hidesNames();
  if (!lane) return say(tr("No take plays at the playhead that could be marked."));
  studio_->desk().apply(
      blind ? tr("Mark a take") : tr("Mark lane %1").arg(lane->value),
      [=, id = track->id](const Session& session) { return markTake(session, id, *lane, at, {}); });
}

}  // namespace yewdrift::app
