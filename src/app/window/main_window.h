// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QDialog>
#include <QMainWindow>
#include <QPointer>
#include <QTabWidget>
#include <QTimer>
#include <memory>

#include "app/bench/join_bench.h"
#include "app/desk/phrase_steps.h"
#include "app/desk/studio.h"
#include "app/dialogs/deliver_dialog.h"
#include "app/dialogs/device_dialog.h"
#include "app/dialogs/fades_dialog.h"
#include "app/dialogs/files_dialog.h"
#include "app/dialogs/flatten_dialog.h"
#include "app/dialogs/keys_dialog.h"
#include "app/dialogs/line_up_dialog.h"
#include "app/dialogs/spread_dialog.h"
#include "app/look/theme.h"
#include "app/views/lanes_view.h"
#include "app/views/song_strip.h"
#include "app/views/track_list.h"
#include "app/views/transport_bar.h"
#include "app/window/action_rules.h"
#include "app/window/controls.h"
#include "app/window/message_row.h"

namespace yewdrift::app {

class MainWindow : public QMainWindow {
  Q_OBJECT
 public:
  explicit MainWindow(std::unique_ptr<Studio> studio);
  ~MainWindow() override;

  Studio& studio() { return *studio_; }
  LanesView& lanes() { return *lanes_; }
  SongStrip& song() { return *song_; }
  JoinBench& joinBench() { return *joinBench_; }
  /// The sentence that is shown; empty where none is.
  [[nodiscard]] QString message() const { return messageRow_->shown(); }
  /// In answer to what a person just did.
  void say(const QString& sentence) { studio_->messages().say(sentence); }
  /// Every key and what it does, as the overview lists them.
  [[nodiscard]] QList<QAction*> keyedActions() const { return actions_; }
  void showKeys();
  KeyBindings& bindings() { return bindings_; }
  void showDevice();
  /// Foot switches and MIDI controls.
  Controls& controls() { return *controls_; }
  /// The pages of the bench, in order.
  enum BenchPage {
    RecordPage,
    OptionsPage,
    SpansPage,
    MarkersPage,
    TrackPage,
    TakePage,
    SongPage,
    JoinPage,
    TakesPage,
    PhrasesPage,
    HistoryPage,
    MessagesPage
  };
  [[nodiscard]] QTabWidget& bench() { return *bench_; }
  void setTheme(ThemeChoice choice);
  /// It was asked to close, and does so as soon as it can.
  [[nodiscard]] bool closes() const { return closing_ != Closing::No; }

 signals:
  /// The user wants another session in this window's place.
  void sessionAsked(const QString& folder, const std::optional<Session>& fresh);

 protected:
  void closeEvent(QCloseEvent* event) override;
  /// A key that nobody could use: says why.
  void keyPressEvent(QKeyEvent* event) override;
  void changeEvent(QEvent* event) override;

 private:
  /// `Held`: goes on while its key is held, as steps do.
  enum class Key { Once, Held };
  QAction* action(const QString& text, const QKeySequence& key, const QString& tip, std::function<void()> run,
                  Key how = Key::Once);
  static constexpr const char* tipProperty = "tip";
  /// What it does, and by which key.
  [[nodiscard]] static QString tipOf(const QAction& action);
  /// Can be done only where the rules of that deed allow it.
  QAction* ruled(QAction* action, Deed deed);
  [[nodiscard]] Situation situation() const;
  void makeActions();
  void makeMenus();
  void makeLayout();
  void refreshActions();
  void refreshIcons();
  void pickHeard();
  void pickInto(std::optional<LaneNumber> lane);
  void pickOver(const PickOver& over, std::optional<LaneNumber> lane);
  void offer(std::vector<LaneNumber> takes);
  void takePieceHere();
  void takePunchHere();
  bool stepUnit(int direction);
  void stepJoin(int direction);
  void stepBar(int direction);
  void stepTrack(int direction);
  void newTrack();
  void importFiles(bool backing);
  void makeRecordingActions();
  void makeSpanActions();
  void makePhraseActions();
  void makeTakeActions();
  void makeCompositeActions();
  void makeCompositeMenu();
  void splitAt(Frames at);
  void mergeInHand();
  void slipHere(double seconds);
  void takeRiskiest();
  void makeRough(bool anew);
  void showDeliver();
  void showFiles();
  void showFlatten();
  void ride(LanesView::Rides what);
  void scaleWaves(int steps);
  void pickWholeTake();
  void setEndFadeOf(CompositeEnd end);
  void hearSide(bool incoming);
  void keepComposite();
  void useComposite(const std::string& name);
  void useNextComposite();
  void hearOtherComposite();
  void fillComposites(QMenu& menu);
  void showDifferences(const std::string& name);
  void makeListeningActions();
  void makeViewActions();
  void makeViewMenu();
  void lookAtRecording();
  void makeTrackActions();
  void changeTracks(const QString& label, const std::function<Session(Session, TrackId)>& edit);
  void moveTracks(int by);
  void joinTracks(const QString& label, Session (*edit)(Session, TrackId, const std::vector<TrackId>&));
  void showSpread();
  void showFades();
  void fillTrackMenu(QMenu& menu);
  void showTrackMenu(QPoint at);
  void addPictures(QMenu& menu, TrackId id, const Lane& lane);
  void addMarksNear(QMenu& menu, TrackId id, const Lane& lane, Frames at);
  void hearPlace(int place, bool also);
  void moveTake(int by);
  void nudgeHeard(double seconds);
  void nudgeBy();
  void changePieceAt(Frames at, bool pitch);
  void showMenuFor(const LanesGeometry::Hit& where, QPoint at);
  void showStripMenu(const SongStrip::Place& place, QPoint at);
  void fillRulerMenu(QMenu& menu, Frames at, Frames reach);
  void fillPunchMenu(QMenu& menu, Frames at);
  void addCellNote(QMenu& menu, const Phrase* phrase);
  void goToPhrase(const Phrase& phrase);
  void stepPhrase(int direction);
  void fillStepMenu(QMenu& menu);
  void goToUndecided();
  void rateHeard(int by);
  void cutPhraseAtPlayhead();
  void addPhraseEdgeAt(Frames at);
  void mergePhrases();
  void markHeardAt(Frames at);
  void makeBench(QVBoxLayout* column, QWidget* middle);
  void showBench(int page);
  [[nodiscard]] bool mayClose();
  [[nodiscard]] bool mayLoseUnsaved();
  void closeWhenPossible();
  void fillDeviceMenu(QMenu* menu);
  void chooseDevice(const std::function<void(AudioChoice&)>& change);
  void spanFromSelection(bool loop);
  void punchOnlyThis();
  void pullEdge(bool start);
  void saySnap();
  void askNewSession();

  std::unique_ptr<Studio> studio_;
  TransportActions transport_{};
  struct Actions {
    QAction* pick;
    QAction* pickSilence;
    QAction* pickWhole;
    QAction* takePiece;
    QAction* takePunch;
    QAction* onlyThisPunch;
    QAction* hearComposite;
    QAction* hearAbove;
    QAction* hearBelow;
    QAction* nextJoin;
    QAction* previousJoin;
    QAction* hearJoin;
    QAction* flatten;
    QAction* flattenAs;
    QAction* newTrack;
    QAction* importFiles;
    QAction* importBacking;
    QAction* bringIn;
    QAction* deliver;
    QAction* files;
    QAction* newSession;
    QAction* openSession;
    QAction* startPage;
    QAction* arm;
    QAction* punchNow;
    QAction* backUp;
    QAction* backUpFromStandstill;
    QAction* claim;
    QAction* discard;
    QAction* marker;
    QAction* loopFromSelection;
    QAction* loopAir;
    QAction* punchFromSelection;
    QAction* punchInHere;
    QAction* punchOutHere;
    QAction* snapFiner;
    QAction* snapCoarser;
    QAction* startHere;
    QAction* endHere;
    QAction* device;
    QAction* nextPhrase;
    QAction* previousPhrase;
    QAction* nextUndecided;
    QAction* hearPhrase;
    QAction* hearOther;
    QAction* rateUp;
    QAction* rateDown;
    QAction* showPhrase;
    QAction* phraseEdge;
    QAction* mergePhrases;
    QAction* markTake;
    QAction* takeUp;
    QAction* takeDown;
    QAction* nudgeEarlier;
    QAction* nudgeLater;
    QAction* muteTake;
    QAction* cutTake;
    QAction* giveBack;
    QAction* asideTake;
    QAction* removeTake;
    QAction* others;
    QAction* matched;
    QAction* around;
    QAction* blind;
    QAction* takeAfterTake;
    QAction* lineUp;
    QAction* nudgeBy;
    QAction* zoomIn;
    QAction* zoomOut;
    QAction* wholeSong;
    QAction* showWork;
    QAction* showFormer;
    QAction* foldTakes;
    QAction* fitTakes;
    QAction* showMeasures;
    QAction* rideComposite;
    QAction* fadeIn;
    QAction* fadeOut;
    QAction* wavesHigher;
    QAction* wavesLower;
    QAction* ridePieces;
    QAction* split;
    QAction* merge;
    QAction* slipEarlier;
    QAction* slipLater;
    QAction* betterJoin;
    QAction* betterJoins;
    QAction* betterInSelection;
    QAction* settleJoin;
    QAction* nextUnsettled;
    QAction* hearOutgoing;
    QAction* hearIncoming;
    QAction* compareJoin;
    QAction* likeInHand;
    QAction* likeInSelection;
    QAction* rough;
    QAction* roughAnew;
    QAction* keepComposite;
    QAction* nextComposite;
    QAction* hearOtherComposite;
    QAction* trackUp;
    QAction* trackDown;
    QAction* renameTrack;
    QAction* duplicateTrack;
    QAction* removeTrack;
    QAction* spreadTakes;
    QAction* separate;
    QAction* gatherTracks;
    QAction* absorbTracks;
    QAction* fades;
  } do_{};
  QList<QAction*> actions_;
  struct Rule {
    QAction* action;
    Deed deed;
  };
  std::vector<Rule> rules_;
  TransportBar* bar_ = nullptr;
  SongStrip* song_ = nullptr;
  TrackList* tracks_ = nullptr;
  LanesView* lanes_ = nullptr;
  QTabWidget* bench_ = nullptr;
  Controls* controls_ = nullptr;
  DeviceDialog* deviceDialog_ = nullptr;
  KeyBindings bindings_;
  QPointer<KeysDialog> keys_;
  QPointer<LineUpDialog> lineUpDialog_;
  QPointer<DeliverDialog> deliverDialog_;
  QPointer<FilesDialog> filesDialog_;
  QPointer<FlattenDialog> flattenDialog_;
  QPointer<SpreadDialog> spreadDialog_;
  QPointer<FadesDialog> fadesDialog_;
  std::vector<std::pair<ThemeChoice, QAction*>> themes_;
  std::optional<Frames> shownJoin_;
  StepBy stepBy_ = StepBy::Phrase;
  class ListeningBar* listeningBar_ = nullptr;
  std::vector<LaneNumber> offered_;  // takes that are heard together, one of which is to be picked
  bool wasRecording_ = false;
  JoinBench* joinBench_ = nullptr;
  MessageRow* messageRow_ = nullptr;
  /// What closing waits for, once it was asked for.
  enum class Closing { No, ForRecording, ForJobs } closing_ = Closing::No;
  bool closesUnsaved_ = false;
};

}  // namespace yewdrift::app
