// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/main_window.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLineEdit>
#include <QMessageBox>
#include <QPushButton>
#include <QSettings>
#include <QSplitter>
#include <QTableWidget>
#include <QVBoxLayout>

#include "app/access/accessible_views.h"
#include "app/bench/history_bench.h"
#include "app/bench/messages_bench.h"
#include "app/bench/options_bench.h"
#include "app/bench/phrases_bench.h"
#include "app/bench/record_bench.h"
#include "app/bench/setup_bench.h"
#include "app/bench/spans_bench.h"
#include "app/bench/take_bench.h"
#include "app/bench/takes_bench.h"
#include "app/look/spoken.h"
#include "app/look/widgets.h"
#include "app/views/listening_bar.h"
#include "app/window/keys_by_focus.h"
#include "app/window/window_place.h"
#include "core/edit/edit.h"

namespace yewdrift::app {

MainWindow::MainWindow(std::unique_ptr<Studio> studio) : studio_(std::move(studio)) {
  [[maybe_unused]] static const bool readable = (installAccessibility(), true);
  setWindowTitle(
      (studio_->desk().writable() ? tr("%1 - Yewdrift") : tr("%1 (look and listen only) - Yewdrift"))
          .arg(QString::fromStdString(studio_->desk().session().name)));
  resize(1280, 800);
  setMinimumSize(900, 620);
  makeActions();
  makeRecordingActions();
  makeSpanActions();
  makePhraseActions();
  makeTakeActions();
  makeCompositeActions();
  makeListeningActions();
  makeViewActions();
  makeTrackActions();
  controls_ = new Controls({{"record", transport_.record},
                            {"punch", do_.punchNow},
                            {"back-up", do_.backUpFromStandstill},
                            {"play", transport_.play},
                            {"claim", do_.claim},
                            {"discard", do_.discard},
                            {"marker", do_.marker},
                            {"next-take", do_.hearBelow},
                            {"pick", do_.pick}},
                           this);
  makeMenus();
  makeLayout();
  bindings_.take(actions_);
  studio_->desk().setKeyNames(bindings_.names());
  const auto showKeysInTips = [this] {
    for (QAction* each : actions_) each->setToolTip(tipOf(*each));
    studio_->desk().setKeyNames(bindings_.names());
    refreshActions();
  };
  connect(&bindings_, &KeyBindings::changed, this, showKeysInTips);
  connect(&studio_->desk(), &SessionDesk::changed, this, &MainWindow::refreshActions);
  // Closing unsaved was meant for what there was then.
  connect(&studio_->desk(), &SessionDesk::committed, this, [this] { closesUnsaved_ = false; });
  connect(&studio_->inHand(), &InHand::changed, this, &MainWindow::refreshActions);
  connect(&studio_->transport(), &Transport::changed, this, &MainWindow::refreshActions);
  connect(&studio_->device(), &DeviceDesk::changed, this, &MainWindow::refreshActions);
  connect(&studio_->jobs(), &Jobs::changed, this, &MainWindow::closeWhenPossible);
  connect(&studio_->transport(), &Transport::changed, this, &MainWindow::closeWhenPossible);
  new KeysByFocus(*this, *lanes_, studio_->desk());
  lanes_->setGoodPlaces([this](Frames join) { return studio_->joins().goodPlaces(join); });
  connect(lanes_, &LanesView::scrolled, this, [this] { song_->setShown(lanes_->visibleSpan()); });
  connect(lanes_, &LanesView::refused, this, &MainWindow::say);
  connect(lanes_, &LanesView::menuAsked, this, &MainWindow::showMenuFor);
  connect(lanes_, &LanesView::filesDropped, this, [this](const QStringList& files, Frames at) {
    if (studio_->inHand().track())
      studio_->files().importTakes(files, studio_->inHand().trackId(), at);
    else
      studio_->files().importFiles(files);
  });
  connect(tracks_, &TrackList::filesDropped, this,
          [this](const QStringList& files, const std::optional<TrackId>& into) {
            if (into)
              studio_->files().importTakes(files, *into, studio_->transport().state().position);
            else
              studio_->files().importFiles(files, true);
          });
  connect(tracks_, &TrackList::refused, this, &MainWindow::say);
  connect(tracks_, &TrackList::menuAsked, this, &MainWindow::showTrackMenu);
  connect(lanes_, &LanesView::phraseAsked, this, &MainWindow::goToPhrase);
  connect(song_, &SongStrip::menuAsked, this, &MainWindow::showStripMenu);
  connect(song_, &SongStrip::scrollAsked, lanes_, &LanesView::scrollTo);
  connect(song_, &SongStrip::refused, this, &MainWindow::say);
  showKeysInTips();
  for (const Sentence& notice : studio_->desk().openingNotices()) studio_->messages().warn(spoken(notice));
  connect(&studio_->transport(), &Transport::moved, this, [this] {
    // Punched by hand or by a span: what the button would do next follows it.
    const QString next = studio_->transport().state().recording ? tr("Punch out now") : tr("Punch in now");
    if (do_.punchNow->text() != next) do_.punchNow->setText(next);
  });
  QTimer::singleShot(0, this, [this] {
    Span all = materialOf(studio_->desk().session());
    if (all.empty()) all = {{}, framesFromSeconds(30.0, studio_->desk().session().rate)};
    lanes_->showSpan(all);
    lanes_->setFocus();
  });
}

MainWindow::~MainWindow() {
  // The views hold references into the studio: they go first, and hear nothing of its end.
  disconnect(studio_.get(), nullptr, this, nullptr);
  delete takeCentralWidget();
}

bool MainWindow::mayClose() {
  if (studio_->recording().recording()) {
    studio_->transport().stop();
    closing_ = Closing::ForRecording;
    say(tr("Recording is being stopped and kept; then the window closes."));
    return false;
  }
  // What can be done again another time is not waited for; what cannot, is.
  studio_->jobs().cancelAll();
  for (const Jobs::Job& job : studio_->jobs().all())
    if (job.cancel == Jobs::Cancel::Never) {
      closing_ = Closing::ForJobs;
      say(tr("%1: the window closes as soon as that is done.").arg(job.label));
      return false;
    }
  if (!studio_->desk().flushToDisk()) return mayLoseUnsaved();
  return true;
}

/// Only by a decision: the first time the window stays open and says why, after that it asks.
bool MainWindow::mayLoseUnsaved() {
  if (!std::exchange(closesUnsaved_, true)) {
    // After what the saver has to say of it, which is on its way.
    QMetaObject::invokeMethod(
        this,
        [this] {
          studio_->messages().alarm(
              tr("The last changes could not be saved, so the window stays open: make room on the disk or "
                 "give write permission, and they are saved by themselves."),
              "saving");
        },
        Qt::QueuedConnection);
    return false;
  }
  QStringList lost;
  for (const std::string& label : studio_->desk().unsavedSteps()) lost << stepName(label);
  if (lost.isEmpty()) lost << tr("settings of the session");
  QMessageBox ask(QMessageBox::Warning, tr("Close without saving"),
                  tr("The disk does not take the session. If you close it now, this is lost:") + "\n\n" +
                      lost.mid(0, 12).join("\n") + (lost.size() > 12 ? "\n…" : ""),
                  QMessageBox::NoButton, this);
  QPushButton* const stay = ask.addButton(tr("Keep it open"), QMessageBox::RejectRole);
  QPushButton* const leave = ask.addButton(tr("Close and lose it"), QMessageBox::DestructiveRole);
  ask.setDefaultButton(stay);
  ask.setEscapeButton(stay);
  ask.exec();
  return ask.clickedButton() == leave;
}

void MainWindow::closeEvent(QCloseEvent* event) {
  event->setAccepted(mayClose());
  if (event->isAccepted()) rememberPlace(*this, "session");
}

void MainWindow::closeWhenPossible() {
  if (closing_ == Closing::No || studio_->recording().recording() || studio_->jobs().busy()) return;
  closing_ = Closing::No;
  QTimer::singleShot(0, this, &QWidget::close);
}

void MainWindow::makeLayout() {
  auto* central = new QWidget;
  auto* column = new QVBoxLayout(central);
  column->setContentsMargins(8, 4, 8, 8);
  column->setSpacing(6);
  bar_ = new TransportBar(studio_->desk(), studio_->transport(), studio_->device(), studio_->recording(),
                          transport_);
  column->addWidget(bar_);
  song_ = new SongStrip(studio_->desk(), studio_->inHand(), studio_->transport(), studio_->recording());
  column->addWidget(song_);

  lanes_ = new LanesView(studio_->desk(), studio_->inHand(), studio_->transport(), studio_->recording(),
                         studio_->analysis(), studio_->listening());
  if (QSettings().value("view/measures").toBool()) lanes_->setShowsMeasures(true);
  tracks_ = new TrackList(studio_->desk(), studio_->inHand(), studio_->transport(), studio_->device(),
                          studio_->recording());
  tracks_->setFixedWidth(196);
  auto* middle = new QWidget;
  auto* row = new QHBoxLayout(middle);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(6);
  row->addWidget(tracks_);
  auto* takes = new QVBoxLayout;
  takes->setSpacing(4);
  listeningBar_ = new ListeningBar(
      studio_->desk(), studio_->inHand(), studio_->listening(),
      {{do_.previousPhrase, do_.nextPhrase, do_.nextUndecided, do_.hearPhrase, do_.hearOther, do_.pick},
       do_.others,
       do_.matched,
       do_.around,
       do_.blind,
       do_.takeAfterTake});
  takes->addWidget(listeningBar_);
  connect(listeningBar_, &ListeningBar::offeredPicked, this, [this](LaneNumber lane) { pickInto(lane); });
  connect(&studio_->inHand(), &InHand::changed, this, [this] {
    // What is offered are the takes that are heard; with others, nobody asked.
    if (!offered_.empty() && offered_ != studio_->inHand().heardLanes()) offer({});
  });
  connect(&studio_->inHand(), &InHand::unitGone, this,
          [this] { say(tr("What was in hand is not there any more: nothing is in hand now.")); });
  connect(&studio_->inHand(), &InHand::boundaryStopped, this, [this] {
    say(
        tr("The boundary stops there: farther on hardly anything would be left of a piece, or its take has "
           "nothing more."));
  });
  takes->addWidget(lanes_, 1);
  row->addLayout(takes, 1);

  makeBench(column, middle);

  messageRow_ = new MessageRow(studio_->messages(), studio_->jobs());
  connect(messageRow_, &MessageRow::allAsked, this, [this] { showBench(MessagesPage); });
  column->addWidget(messageRow_);
  setCentralWidget(central);
}

void MainWindow::makeBench(QVBoxLayout* column, QWidget* middle) {
  bench_ = new QTabWidget;
  bench_->setObjectName("bench");
  const auto add = [this](QWidget* made, const QString& name) { bench_->addTab(scrolled(made), name); };
  add(new RecordBench(studio_->desk(), studio_->inHand(), studio_->transport(), studio_->device(),
                      studio_->recording(), {do_.punchNow, do_.backUp, do_.claim, do_.discard}),
      tr("Record"));
  add(new OptionsBench(studio_->desk(), studio_->transport(), studio_->recording()), tr("Options"));
  add(new SpansBench(studio_->desk(), studio_->transport(), studio_->recording(), studio_->messages(),
                     {do_.loopFromSelection, do_.loopAir},
                     {do_.punchFromSelection, do_.punchInHere, do_.punchOutHere}),
      tr("Spans"));
  add(new MarkersBench(studio_->desk(), studio_->transport(), studio_->messages(), do_.marker),
      tr("Markers"));
  add(new TrackBench(studio_->desk(), studio_->inHand(), studio_->recording()), tr("Track"));
  add(new TakeBench(
          studio_->desk(), studio_->inHand(), studio_->transport(), studio_->listening(),
          {do_.takeUp, do_.takeDown, do_.muteTake, do_.cutTake, do_.giveBack, do_.asideTake, do_.removeTake}),
      tr("Take"));
  add(new SongBench(studio_->desk(), studio_->transport()), tr("Song"));
  joinBench_ = new JoinBench(studio_->desk(), studio_->inHand(), studio_->joins(),
                             {{do_.hearJoin, do_.hearOutgoing, do_.hearIncoming, do_.compareJoin},
                              {do_.betterJoin, do_.settleJoin, do_.likeInHand}});
  add(joinBench_, tr("Join"));
  add(new TakesBench(studio_->desk(), studio_->inHand(), studio_->analysis(), studio_->listening(),
                     studio_->messages()),
      tr("Takes"));
  auto* phrases = new PhrasesBench(studio_->desk(), studio_->inHand(), studio_->rough(), studio_->listening(),
                                   {do_.rough, do_.roughAnew});
  connect(phrases, &PhrasesBench::phraseAsked, this, &MainWindow::goToPhrase);
  add(phrases, tr("Phrases"));
  add(new HistoryBench(studio_->desk(), {transport_.undo, transport_.redo}), tr("History"));
  add(new MessagesBench(studio_->messages(), studio_->jobs()), tr("Messages"));
  // F11 is the whole screen's; the last page has a button of its own.
  const std::map<int, QKeySequence> others{{PhrasesPage, Qt::Key_F12},
                                           {HistoryPage, QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_Z)}};
  for (int page = 0; page < MessagesPage; ++page) {
    const auto other = others.find(page);
    const QKeySequence key = other != others.end() ? other->second : QKeySequence(Qt::Key_F2 + page);
    bench_->setTabToolTip(page,
                          tr("%1 (%2)").arg(bench_->tabText(page), key.toString(QKeySequence::NativeText)));
    action(tr("Bench: %1").arg(bench_->tabText(page)), key, tr("Show this page of the bench"),
           [this, page] { showBench(page); });
  }
  auto* split = new QSplitter(Qt::Vertical);
  split->setChildrenCollapsible(false);
  split->addWidget(middle);
  split->addWidget(bench_);
  split->setStretchFactor(0, 1);
  split->setSizes({452, 158});
  column->addWidget(split, 1);
}

void MainWindow::showBench(int page) {
  bench_->setCurrentIndex(page);
}

void MainWindow::refreshActions() {
  Studio& studio = *studio_;
  const bool recording = studio.recording().recording();
  const bool rolling = studio.transport().state().rolling || recording;
  transport_.play->setIcon(icon(rolling ? "stop" : "play"));
  transport_.play->setText(rolling ? tr("Stop") : tr("Play"));
  transport_.record->setChecked(recording);
  transport_.loop->setChecked(studio.transport().looping());
  const auto undo = studio.desk().history().undoLabel();
  const auto redo = studio.desk().history().redoLabel();
  transport_.undo->setText(undo ? tr("Undo: %1").arg(stepName(*undo)) : tr("Undo"));
  transport_.redo->setText(redo ? tr("Redo: %1").arg(stepName(*redo)) : tr("Redo"));
  do_.punchNow->setText(studio.transport().state().recording ? tr("Punch out now") : tr("Punch in now"));
  // A phrase that is picked as a whole is settled with what lies around it: for that its takes are measured.
  studio.analysis().setWanted(
      this, studio.inHand().phrase() ? AnalysisDesk::Want::Files : AnalysisDesk::Want::Nothing);
  const Situation now = situation();
  for (const Rule& rule : rules_) {
    const QString whyNot = ActionRules::whyNot(rule.deed, now);
    rule.action->setEnabled(whyNot.isEmpty());
    const QString tip = whyNot.isEmpty()
                            ? tipOf(*rule.action)
                            : tipOf(*rule.action) + "\n" + studio.desk().keyNames().spelled(whyNot);
    if (rule.action->toolTip() != tip) rule.action->setToolTip(tip);
  }
  transport_.punch->setChecked(studio.desk().options().punch && !studio.desk().session().punches.empty());
  transport_.click->setChecked(studio.desk().options().click.playing ||
                               studio.desk().options().click.recording);
  // The bench turns with the work: to the join that was taken in hand, to what is being recorded.
  if (recording && !wasRecording_) {
    showBench(RecordPage);
    lookAtRecording();
  }
  if (!recording && wasRecording_ && studio.inHand().unit() == Unit::Punch)
    if (const auto punch = studio.listening().compared()) lanes_->bringInSight(*punch);
  if (studio.inHand().join() && studio.inHand().join() != shownJoin_ && !recording) showBench(JoinPage);
  const bool typing = bench_->currentWidget()->isAncestorOf(QApplication::focusWidget());
  if (!studio.inHand().join() && shownJoin_ && bench_->currentIndex() == JoinPage && !typing)
    showBench(RecordPage);
  shownJoin_ = studio.inHand().join();
  wasRecording_ = recording;
}

Situation MainWindow::situation() const {
  Studio& studio = *studio_;
  const Session& session = studio.desk().session();
  const Track* track = studio.inHand().track();
  const auto roll = studio.recording().recording() ? studio.recording().planned() : std::nullopt;
  Situation now;
  now.writable = studio.desk().writable();
  now.device = !studio.device().needed() || studio.device().alive();
  now.recording = studio.recording().recording();
  now.rolling = studio.transport().state().rolling || now.recording;
  now.punchesDecide = roll && !roll->byHand;
  now.track = track != nullptr;
  now.backing = track && track->backing;
  now.micSet = track && track->microphones.size() > 1;
  now.takes = track && !track->lanes.empty();
  now.heard = studio.inHand().heardLane().has_value();
  now.joins = track && !studio.inHand().composite(*track).joins.empty();
  now.joinInHand = studio.inHand().join().has_value();
  now.otherTracks = session.tracks.size() > 1;
  now.severalTracks = studio.inHand().tracksInHand().size() > 1;
  now.phrases = track && !studio.inHand().phrases().empty();
  now.stepsOnGrid = stepBy_ != StepBy::Phrase;
  now.phraseInHand = studio.inHand().phrase() != nullptr;
  now.selection = studio.inHand().selection().has_value();
  now.unit = studio.inHand().unitSpan().has_value();
  now.loop = session.loop.has_value();
  now.punches = !session.punches.empty();
  now.armed = !studio.recording().armedTracks().empty();
  now.justRecorded = !studio.recording().lastRecorded().empty();
  now.undo = studio.desk().holding() || studio.desk().history().undoLabel().has_value();
  now.redo = studio.desk().history().redoLabel().has_value();
  return now;
}

void MainWindow::keyPressEvent(QKeyEvent* event) {
  const QKeySequence pressed(event->keyCombination());
  if (!event->isAutoRepeat())
    for (const Rule& rule : rules_)
      if (rule.action->shortcuts().contains(pressed) && !rule.action->isEnabled())
        return say(ActionRules::whyNot(rule.deed, situation()));
  QMainWindow::keyPressEvent(event);
}

void MainWindow::setTheme(ThemeChoice choice) {
  QSettings().setValue("theme", choice == ThemeChoice::Light  ? "light"
                                : choice == ThemeChoice::Dark ? "dark"
                                                              : "system");
  applyTheme(choice);
  for (const auto& [theme, action] : themes_) action->setChecked(theme == choice);
}

void MainWindow::changeEvent(QEvent* event) {
  QMainWindow::changeEvent(event);
  if (event->type() == QEvent::PaletteChange) refreshIcons();
}

/// In the colours of the theme, whoever changed it.
void MainWindow::refreshIcons() {
  for (const auto& [act, name] : {std::pair{transport_.start, "start"},
                                  {transport_.record, "record"},
                                  {transport_.loop, "loop"},
                                  {transport_.undo, "undo"},
                                  {transport_.redo, "redo"},
                                  {transport_.punch, "punch"},
                                  {transport_.click, "click"},
                                  {do_.hearJoin, "hear"}})
    act->setIcon(icon(name));
  refreshActions();
}

void MainWindow::showKeys() {
  if (keys_) return keys_->raise();
  keys_ = new KeysDialog(bindings_, this);
  keys_->show();
}

QString MainWindow::tipOf(const QAction& action) {
  const QString tip = action.property(tipProperty).toString();
  const QString keys = KeyBindings::keysOf(action);
  return keys.isEmpty() ? tip : QString("%1 (%2)").arg(tip, keys);
}

}  // namespace yewdrift::app
