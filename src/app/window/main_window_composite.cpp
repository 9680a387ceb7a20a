// SPDX-License-Identifier: GPL-3.0-or-later
//
// What can be done with the composite beside picking: its pieces split, merged and slipped; several of them
// side by side.
#include <QInputDialog>
#include <QMenuBar>

#include "app/window/main_window.h"
#include "core/edit/edit_composites.h"
#include "core/edit/edit_pieces.h"

namespace yewdrift::app {

void MainWindow::makeCompositeActions() {
  do_.split = ruled(action(tr("Split at the playhead"), QKeySequence(Qt::SHIFT | Qt::Key_C),
                           tr("A boundary here: another take can be picked from here on"),
                           [this] { splitAt(studio_->transport().state().position); }),
                    Deed::EditComposite);
  do_.merge = ruled(action(tr("Merge at the join in hand"), QKeySequence(Qt::SHIFT | Qt::Key_K),
                           tr("The boundary goes: what plays before it plays on"), [this] { mergeInHand(); }),
                    Deed::EditJoin);
  do_.slipEarlier = ruled(action(
                              tr("Slip earlier"), QKeySequence(Qt::ALT | Qt::SHIFT | Qt::Key_Left),
                              tr("The piece at the playhead plays its take a millisecond earlier"),
                              [this] { slipHere(-0.001); }, Key::Held),
                          Deed::EditComposite);
  do_.slipLater = ruled(action(
                            tr("Slip later"), QKeySequence(Qt::ALT | Qt::SHIFT | Qt::Key_Right),
                            tr("The piece at the playhead plays its take a millisecond later"),
                            [this] { slipHere(0.001); }, Key::Held),
                        Deed::EditComposite);
  // Window managers take some keys with Alt and Shift for themselves.
  do_.slipEarlier->setShortcuts(
      {QKeySequence(Qt::ALT | Qt::SHIFT | Qt::Key_Left), QKeySequence(Qt::SHIFT | Qt::Key_Left)});
  do_.slipLater->setShortcuts(
      {QKeySequence(Qt::ALT | Qt::SHIFT | Qt::Key_Right), QKeySequence(Qt::SHIFT | Qt::Key_Right)});
  do_.fadeIn = ruled(action(tr("Fade in at the start…"), {},
                            tr("How long the composite fades in; the grip at its start is dragged, too"),
                            [this] { setEndFadeOf(CompositeEnd::Start); }),
                     Deed::EditComposite);
  do_.fadeOut = ruled(action(tr("Fade out at the end…"), {},
                             tr("How long the composite fades out; the grip at its end is dragged, too"),
                             [this] { setEndFadeOf(CompositeEnd::End); }),
                      Deed::EditComposite);
  do_.betterJoin = ruled(
      action(tr("A better place"), QKeySequence(Qt::CTRL | Qt::Key_J),
             tr("The join in hand goes to the best place near it, with the crossfade that disturbs least"),
             [this] { studio_->joins().improveInHand(); }),
      Deed::EditJoin);
  do_.betterJoins =
      ruled(action(tr("Better places for all joins"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_J),
                   tr("Each join of the track goes to the best place near it; those you set or settled stay"),
                   [this] { studio_->joins().improveAll(); }),
            Deed::EditJoins);
  // The stretch that is selected, or nothing where there is none, which is said.
  const auto selected = [this] {
    const std::optional<Span> span = studio_->inHand().selection();
    if (!span) say(tr("Select a stretch first: the joins in it are meant."));
    return span;
  };
  do_.betterInSelection = ruled(
      action(tr("Better places in the selection"), {},
             tr("Each join in the selection goes to the best place near it; those you set or settled stay"),
             [this, selected] {
               if (const auto span = selected()) studio_->joins().improveAll(span);
             }),
      Deed::EditJoins);
  do_.settleJoin =
      ruled(action(tr("Settled"), QKeySequence(Qt::SHIFT | Qt::Key_H),
                   tr("The join in hand was heard and is well: it leaves the list; again to take it up"),
                   [this] { studio_->joins().settle(); }),
            Deed::EditJoin);
  do_.hearOutgoing =
      ruled(action(tr("What goes out, alone"), QKeySequence(Qt::SHIFT | Qt::Key_O),
                   tr("Go round the join in hand with the take before it alone; again for both"),
                   [this] { hearSide(false); }),
            Deed::HearJoin);
  do_.hearIncoming =
      ruled(action(tr("What comes in, alone"), QKeySequence(Qt::SHIFT | Qt::Key_I),
                   tr("Go round the join in hand with the take behind it alone; again for both"),
                   [this] { hearSide(true); }),
            Deed::HearJoin);
  do_.compareJoin = ruled(action(tr("Before and after"), QKeySequence(Qt::SHIFT | Qt::Key_P),
                                 tr("The join in hand as it was before it was last changed; again: as it is"),
                                 [this] { studio_->joins().compareBefore(); }),
                          Deed::EditJoin);
  do_.likeInHand = ruled(
      action(tr("All joins like this one"), {},
             tr("All joins of the track get this one's length, curve and bend; those that are settled stay"),
             [this] { studio_->joins().setAllLikeInHand(); }),
      Deed::EditJoin);
  do_.likeInSelection =
      ruled(action(tr("Joins in the selection like this one"), {},
                   tr("Those in the selection get this one's length, curve and bend; settled ones stay"),
                   [this, selected] {
                     if (const auto span = selected()) studio_->joins().setAllLikeInHand(span);
                   }),
            Deed::EditJoin);
  do_.fades =
      ruled(action(tr("Fades of many…"), QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_J),
                   tr("Length and curve of all crossfades, and the fades at both ends, of all tracks in "
                      "hand at once; settled joins stay"),
                   [this] { showFades(); }),
            Deed::EditComposite);
  do_.hearOutgoing->setIconText(tr("Out"));
  do_.hearIncoming->setIconText(tr("In"));
  do_.compareJoin->setIconText(QStringLiteral("⇆"));
  do_.likeInHand->setIconText(tr("To all"));
  do_.nextUnsettled =
      ruled(action(tr("Riskiest join"), QKeySequence(Qt::SHIFT | Qt::Key_Q),
                   tr("The join that is most likely heard, and is not settled, goes on the bench"),
                   [this] { takeRiskiest(); }),
            Deed::StepJoin);
  do_.rough = ruled(
      action(
          tr("Rough composite"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_G),
          tr("Where you have not picked, the take that is rated best plays, and of those rated alike the one "
             "whose joins are heard least"),
          [this] { makeRough(false); }),
      Deed::EditPhrases);
  do_.roughAnew =
      ruled(action(tr("Rough composite, all anew"), {},
                   tr("The same in every phrase, also where you have picked"), [this] { makeRough(true); }),
            Deed::EditPhrases);
  do_.keepComposite =
      ruled(action(tr("Keep the composite as…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_K),
                   tr("A copy of what the track plays is kept under a name, to go back to"),
                   [this] { keepComposite(); }),
            Deed::EditComposite);
  do_.hearOtherComposite = ruled(
      action(
          tr("Hear the other composite"), QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_C),
          tr("Hear and see another of the track's composites, with where it differs; again: the one in use"),
          [this] { hearOtherComposite(); }),
      Deed::HearTake);
  do_.nextComposite =
      ruled(action(tr("Use the next composite"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_C),
                   tr("Another of the track's composites plays; also while it rolls"),
                   [this] { useNextComposite(); }),
            Deed::EditComposite);
}

void MainWindow::makeCompositeMenu() {
  QMenu* menu = menuBar()->addMenu(tr("&Composite"));
  menu->addActions(
      {do_.pick, do_.pickWhole, do_.pickSilence, do_.takePiece, do_.takePunch, do_.split, do_.merge});
  menu->addSeparator();
  menu->addActions({do_.slipEarlier, do_.slipLater, do_.fadeIn, do_.fadeOut});
  menu->addSeparator();
  menu->addActions({do_.nextUnsettled, do_.betterJoin, do_.betterJoins, do_.betterInSelection, do_.likeInHand,
                    do_.likeInSelection, do_.fades, do_.settleJoin});
  menu->addActions({do_.compareJoin, do_.hearOutgoing, do_.hearIncoming});
  menu->addSeparator();
  menu->addActions({do_.rough, do_.roughAnew});
  menu->addSeparator();
  menu->addActions({do_.keepComposite, do_.hearOtherComposite, do_.nextComposite});
  QMenu* others = menu->addMenu(tr("Composites of this track"));
  connect(others, &QMenu::aboutToShow, this, [this, others] {
    others->clear();
    fillComposites(*others);
  });
  menu->addSeparator();
  menu->addActions({do_.rideComposite, do_.ridePieces, do_.flatten, do_.flattenAs});
}

void MainWindow::showFades() {
  delete fadesDialog_;
  fadesDialog_ = new FadesDialog(studio_->desk(), studio_->inHand(), studio_->messages(), this);
  fadesDialog_->show();
}

/// Its reasons are on the bench, phrase by phrase.
void MainWindow::makeRough(bool anew) {
  showBench(PhrasesPage);
  studio_->rough().make(anew);
}

/// The piece from there on is what is picked next.
void MainWindow::splitAt(Frames at) {
  const Track* const track = studio_->inHand().track();
  if (!track) return;
  const TrackId id = track->id;
  const Frames place = studio_->inHand().splitPlace(at);
  if (studio_->desk().apply(tr("Split the composite"),
                            [=](const Session& s) { return splitPiece(s, id, place); }))
    studio_->inHand().takePiece(place);
}

void MainWindow::mergeInHand() {
  const Track* const track = studio_->inHand().track();
  const auto join = studio_->inHand().join();
  if (!track || !join) return;
  studio_->desk().apply(tr("Merge two pieces"),
                        [id = track->id, at = *join](const Session& s) { return mergePieces(s, id, at); });
}

void MainWindow::slipHere(double seconds) {
  const Track* const track = studio_->inHand().track();
  if (!track) return;
  const Frames at = studio_->transport().state().position;
  const TrackId id = track->id;
  SessionDesk& desk = studio_->desk();
  const Piece* const piece = studio_->inHand().composite(*track).pieceAt(at);
  const Frames before = piece ? piece->slip : Frames{};
  if (!desk.apply(tr("Slip a piece"), [=, rate = desk.session().rate](const Session& s) {
        return changePiece(s, id, at,
                           {.slip = reachableSlip(s, id, at, before + framesFromSeconds(seconds, rate))});
      }))
    return;
  if (const Piece* now = studio_->inHand().composite(*studio_->inHand().track()).pieceAt(at))
    say(now->slip == before ? tr("The take has no more material on that side.")
                            : slipInWords(now->slip, desk.session().rate));
}

void MainWindow::takeRiskiest() {
  JoinDesk& joins = studio_->joins();
  showBench(JoinPage);
  joins.want();
  const auto next = joins.nextUnsettled();
  if (!next)
    return say(joins.looking() ? tr("Still listening to the joins; a moment.")
                               : tr("All joins are settled."));
  studio_->inHand().takeJoin(next);
  if (!lanes_->visibleSpan().contains(*next))
    lanes_->scrollTo(*next - Frames{lanes_->visibleSpan().length().count / 2});
}

/// One side of the join in hand, without a crossfade.
void MainWindow::hearSide(bool incoming) {
  InHand& inHand = studio_->inHand();
  const Track* const track = inHand.track();
  const auto at = inHand.join();
  if (!track || !at) return;
  const Piece* const piece = inHand.composite(*track).pieceAt(incoming ? *at : *at - Frames{1});
  if (!piece || !piece->lane) return say(tr("That side of the join is silent."));
  const auto lane = piece->lane;
  const bool again = studio_->transport().hearsJoin() && inHand.heardLane() == lane;
  if (!studio_->transport().hearsJoin()) studio_->transport().toggleHearJoin(studio_->joins().around());
  inHand.hear(again ? std::nullopt : lane);
}

void MainWindow::keepComposite() {
  const Track* const track = studio_->inHand().track();
  if (!track) return;
  const TrackId id = track->id;
  bool good = false;
  const QString name = QInputDialog::getText(this, tr("Keep the composite"), tr("Its name:"),
                                             QLineEdit::Normal, QString(), &good)
                           .trimmed();
  if (!good) return;
  if (studio_->desk().apply(tr("Keep the composite"), [id, kept = name.toStdString()](const Session& s) {
        return yewdrift::keepComposite(s, id, kept);
      }))
    say(tr("Kept as \"%1\". What you change from now on is another composite.").arg(name));
}

void MainWindow::useComposite(const std::string& name) {
  const Track* const track = studio_->inHand().track();
  if (!track) return;
  if (studio_->desk().apply(tr("Use another composite"), [id = track->id, name](const Session& s) {
        return yewdrift::useComposite(s, id, name);
      }))
    say(tr("\"%1\" plays.").arg(QString::fromStdString(name)));
}

void MainWindow::useNextComposite() {
  const Track* const track = studio_->inHand().track();
  if (!track) return;
  std::vector<std::string> names = compositeNames(*track);
  if (names.size() < 2)
    return say(
        tr("The track has only this composite: keep it under a name ([Ctrl+Shift+K]), and change it."));
  const std::string now = names.front();
  std::sort(names.begin(), names.end());
  const auto next = std::upper_bound(names.begin(), names.end(), now);
  useComposite(next == names.end() ? names.front() : *next);
}

/// At once, also while it plays, and no step of the history.
void MainWindow::hearOtherComposite() {
  OtherComposite& other = studio_->listening().other();
  studio_->inHand().hear(std::nullopt);
  if (!other.toggle())
    return say(
        tr("The track has only this composite: keep it under a name ([Ctrl+Shift+K]), and change it."));
  if (!other.heard()) return say(tr("You hear the composite in use."));
  say(tr("You hear \"%1\"; it differs in %n place(s).", nullptr, static_cast<int>(other.differences().size()))
          .arg(QString::fromStdString(*other.heard())));
}

void MainWindow::fillComposites(QMenu& menu) {
  const Track* const track = studio_->inHand().track();
  if (!track) return;
  std::vector<std::string> names = compositeNames(*track);
  const std::string used = names.front();
  std::sort(names.begin(), names.end());
  for (const std::string& name : names) {
    QAction* use = menu.addAction(QString::fromStdString(name), this, [this, name] { useComposite(name); });
    use->setCheckable(true);
    use->setChecked(name == used);
  }
  if (names.size() < 2) return;
  menu.addSeparator();
  for (const std::string& name : names) {
    if (name == used) continue;
    menu.addAction(tr("Hear \"%1\"").arg(QString::fromStdString(name)), this, [this, name] {
      studio_->inHand().hear(std::nullopt);
      studio_->listening().other().hear(name);
    });
    menu.addAction(tr("Show where \"%1\" differs").arg(QString::fromStdString(name)), this,
                   [this, name] { showDifferences(name); });
    menu.addAction(tr("Remove \"%1\"").arg(QString::fromStdString(name)), this, [this, name] {
      const Track* const now = studio_->inHand().track();
      if (!now) return;
      studio_->desk().apply(tr("Remove a composite"),
                            [id = now->id, name](const Session& s) { return removeComposite(s, id, name); });
    });
  }
}

/// The first place behind the playhead, and how many there are.
void MainWindow::showDifferences(const std::string& name) {
  const Track* const track = studio_->inHand().track();
  if (!track) return;
  const auto spans = differencesBetween(*track, track->composite, compositeNamed(*track, name),
                                        studio_->desk().session().rate);
  if (spans.empty()) return say(tr("\"%1\" plays the same.").arg(QString::fromStdString(name)));
  const Frames at = studio_->transport().state().position;
  const auto next = std::find_if(spans.begin(), spans.end(), [at](Span span) { return span.start > at; });
  const Span shown = next == spans.end() ? spans.front() : *next;
  studio_->inHand().dropPhrase();
  studio_->inHand().select(shown);
  lanes_->lookAt(
      {shown.start - Frames{shown.length().count / 4}, shown.end + Frames{shown.length().count / 4}});
  say(tr("\"%1\" differs in %n place(s); one is selected.", nullptr, static_cast<int>(spans.size()))
          .arg(QString::fromStdString(name)));
}

}  // namespace yewdrift::app
