// SPDX-License-Identifier: GPL-3.0-or-later
//
// Makes the pictures of docs/screenshots from the demo session, by using the window as a person would. The
// program makes the time in which the simulated interface plays, so that the pictures are the same on every
// machine.
#include <QApplication>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMouseEvent>
#include <QSettings>
#include <QTimer>
#include <cstdio>

#include "app/desk/recent_sessions.h"
#include "app/look/language.h"
#include "app/look/theme.h"
#include "app/pseudo_language.h"
#include "app/window/main_window.h"
#include "app/window/start_page.h"
#include "core/edit/edit.h"
#include "core/edit/edit_composites.h"
#include "core/edit/edit_takes.h"
#include "core/error.h"

namespace {

using namespace yewdrift;
using namespace yewdrift::app;

void takeTurns(int milliseconds) {
  QElapsedTimer timer;
  timer.start();
  while (timer.elapsed() < milliseconds) QApplication::processEvents(QEventLoop::AllEvents, 20);
}

/// The window, the time that its device makes, and the folder of the pictures.
class Photographer {
 public:
  Photographer(MainWindow& window, QString folder, bool makesTime)
      : window_(window), folder_(std::move(folder)), makesTime_(makesTime) {}
  MainWindow& window() { return window_; }
  Studio& studio() { return window_.studio(); }

  /// Lets the device play for so long.
  void play(int milliseconds) {
    if (!makesTime_) return takeTurns(milliseconds);
    constexpr int turn = 32;
    for (int passed = 0; passed < milliseconds; passed += turn) {
      for (int block = 0; block < 6; ++block) {
        studio().transport().engine().service();
        studio().device().runBlockForTest();
      }
      studio().tick();
      QApplication::processEvents();
    }
  }
  /// Waits until everything that goes on in the background has ended, and has been painted.
  void settle() {
    for (int quiet = 0; quiet < 10; ++quiet) {
      takeTurns(30);
      if (busy()) quiet = 0;
    }
    studio().tick();
  }
  void shoot(const QString& name, QWidget* of = nullptr) {
    settle();
    for (auto* label : window_.findChildren<QLabel*>())  // it depends on the machine
      if (label->accessibleName() == TransportBar::tr("Room on the disk")) label->setText("room for 47 h");
    QApplication::sendPostedEvents();
    const QString path = folder_ + "/" + name + ".png";
    if (!(of ? of : &window_)->grab().save(path)) throw Error("%1 cannot be written.", path.toStdString());
    std::printf("made %s\n", qPrintable(name));
    while (studio().messages().queue().shown()) studio().messages().putAway();
  }

 private:
  bool busy() {
    return studio().jobs().busy() || studio().desk().samples().busy() || studio().desk().peaks().busy() ||
           studio().pitch().busy() || studio().joins().looking() || studio().rough().looking() ||
           studio().analysis().share() < 1.0;
  }

  MainWindow& window_;
  QString folder_;
  bool makesTime_;
};

void drag(QWidget* on, QPoint from, QPoint to) {
  auto send = [on](QEvent::Type type, QPoint at, Qt::MouseButtons held) {
    QMouseEvent event(type, QPointF(at), on->mapToGlobal(QPointF(at)),
                      type == QEvent::MouseMove ? Qt::NoButton : Qt::LeftButton, held, Qt::NoModifier);
    QApplication::sendEvent(on, &event);
  };
  send(QEvent::MouseButtonPress, from, Qt::LeftButton);
  for (int i = 1; i <= 8; ++i) send(QEvent::MouseMove, from + (to - from) * i / 8, Qt::LeftButton);
  send(QEvent::MouseButtonRelease, to, Qt::NoButton);
}

Frames bar(Studio& studio, int number) {
  return studio.desk().ruler().tempo.frameOf({number, 1.0}, studio.desk().session().rate);
}

void pickByDragging(MainWindow& window, int lane, int fromBar, int toBar) {
  LanesView& lanes = window.lanes();
  const QRect row = lanes.laneRect(lane - 1);
  drag(lanes.viewport(), {lanes.xOf(bar(window.studio(), fromBar)), row.center().y()},
       {lanes.xOf(bar(window.studio(), toBar)), row.center().y()});
}

void drawPunch(MainWindow& window, int fromBar, int toBar) {
  LanesView& lanes = window.lanes();
  const int y = lanes.punchRowRect().center().y() - 2;
  drag(lanes.viewport(), {lanes.xOf(bar(window.studio(), fromBar)), y},
       {lanes.xOf(bar(window.studio(), toBar)), y});
}

void shootBench(Photographer& photos, MainWindow::BenchPage page, const QString& name) {
  photos.window().bench().setCurrentIndex(page);
  photos.shoot(name);
}

/// Spans, options and a recording in a loop with punches.
void shootRecording(Photographer& photos) {
  MainWindow& window = photos.window();
  Studio& studio = window.studio();
  drawPunch(window, 9, 10);
  drawPunch(window, 11, 13);
  RecordingOptions options = studio.desk().options();
  options.countInBars = 1;
  options.passes = 3;
  studio.desk().setOptions(options);
  photos.settle();
  shootBench(photos, MainWindow::OptionsPage, "ready-to-record");
  shootBench(photos, MainWindow::SpansPage, "spans");
  options.countInBars = 0;
  studio.desk().setOptions(options);
  studio.recording().toggleRecord();
  photos.play(15300);  // in the second pass, a bar before it punches out
  photos.shoot("recording");
  studio.transport().dropMarker();
  studio.transport().stop();
  photos.play(900);
  photos.shoot("after-recording");
  photos.play(3000);  // until the meters have fallen
  studio.inHand().letGoOfUnit();
  while (studio.desk().history().undoLabel()) studio.desk().undo();
}

/// The narrator's phrases: rated, noted, some decided, one in hand.
void shootPhrases(Photographer& photos) {
  MainWindow& window = photos.window();
  Studio& studio = window.studio();
  const TrackId before = studio.inHand().trackId();
  studio.inHand().takeTrack(studio.desk().session().trackNamed("Narrator")->id);
  window.lanes().showSpan({{}, bar(studio, 23)});
  photos.settle();
  const auto phrases = studio.inHand().phrases();
  const TrackId id = studio.inHand().trackId();
  const auto rate = [&](int lane, std::size_t phrase, int rating, const char* note) {
    studio.desk().apply("Rate", [&](const Session& s) {
      return changeCell(s, id, LaneNumber{lane}, phrases.at(phrase), rating, std::string(note));
    });
  };
  rate(1, 0, 2, "hurried");
  rate(2, 0, 5, "");
  rate(3, 0, 3, "");
  rate(1, 1, 4, "warm");
  rate(4, 1, 2, "breath before");
  studio.desk().apply("Pick",
                      [&](const Session& s) { return pick(s, id, phrases.at(0).cell, LaneNumber{2}); });
  studio.inHand().hear(LaneNumber{1});
  studio.inHand().takePhrase(phrases.at(1));
  window.bench().setCurrentIndex(MainWindow::TakesPage);
  photos.settle();
  window.lanes().setShowsMeasures(true);
  photos.shoot("phrases");
  window.lanes().setShowsMeasures(false);
  studio.inHand().hear(std::nullopt);
  studio.inHand().takeTrack(before);
  window.bench().setCurrentIndex(MainWindow::JoinPage);
}

/// The same phrase with all takes equally loud, and blind; and how high the viola plays.
void shootListening(Photographer& photos) {
  MainWindow& window = photos.window();
  Studio& studio = window.studio();
  const TrackId before = studio.inHand().trackId();
  studio.inHand().takeTrack(studio.desk().session().trackNamed("Narrator")->id);
  window.lanes().showSpan({{}, bar(studio, 23)});
  photos.settle();
  studio.inHand().takePhrase(Phrase(studio.inHand().phrases().at(1)));
  studio.inHand().hear(LaneNumber{3});
  ListeningOptions options;
  options.matched = options.around = true;
  options.others = ListeningOptions::Others::Dimmed;
  studio.listening().setOptions(options);
  photos.shoot("level-matched");
  studio.listening().setOptions({});
  studio.listening().setBlind(true);
  studio.inHand().hearNeighbour(1);
  studio.inHand().hearNeighbour(1);
  photos.shoot("blind");
  studio.listening().setBlind(false);
  studio.inHand().takeTrack(before);
  studio.desk().apply("Show pitch", [&](const Session& s) {
    const LaneChange pitch{.picture = LanePicture::Pitch};
    return changeLane(changeLane(s, before, LaneNumber{2}, pitch), before, LaneNumber{3}, pitch);
  });
  studio.inHand().hear(LaneNumber{2});
  window.lanes().showSpan({bar(studio, 4), bar(studio, 14)});
  window.bench().setCurrentIndex(MainWindow::TakePage);
  photos.shoot("pitch");
  studio.inHand().hear(std::nullopt);
  window.bench().setCurrentIndex(MainWindow::JoinPage);
}

/// A join that is heard, with where it would be better; the same once it was improved.
void shootJoins(Photographer& photos) {
  MainWindow& window = photos.window();
  Studio& studio = window.studio();
  const TrackId id = studio.inHand().trackId();
  const Frames bad = bar(studio, 10) + framesFromSeconds(0.72, studio.desk().session().rate);
  studio.desk().apply("Pick", [&](const Session& s) {
    return pick(s, id, {bad, bar(studio, 13)}, LaneNumber{3});
  });
  studio.inHand().takeJoin(bad);
  photos.shoot("join-risky");
  studio.joins().improveInHand();
  photos.shoot("join");
}

/// The narrator's composite from the ratings, told phrase by phrase; and beside the one that was kept.
void shootRough(Photographer& photos) {
  MainWindow& window = photos.window();
  Studio& studio = window.studio();
  const TrackId before = studio.inHand().trackId();
  studio.inHand().takeTrack(studio.desk().session().trackNamed("Narrator")->id);
  const TrackId id = studio.inHand().trackId();
  studio.desk().apply("Keep", [&](const Session& s) { return keepComposite(s, id, "First evening"); });
  studio.rough().make(false);
  window.bench().setCurrentIndex(MainWindow::PhrasesPage);
  photos.shoot("rough-composite");
  studio.inHand().takeTrack(before);
}

void shootComposite(Photographer& photos) {
  MainWindow& window = photos.window();
  Studio& studio = window.studio();
  window.lanes().showSpan({bar(studio, 4), bar(studio, 22)});
  photos.settle();
  // So that all of them can be dragged over.
  window.lanes().setFitsAll(true);
  pickByDragging(window, 2, 5, 9);
  pickByDragging(window, 4, 9, 13);
  pickByDragging(window, 1, 13, 16);
  pickByDragging(window, 5, 19, 25);
  window.lanes().setFitsAll(false);
  studio.inHand().hear(LaneNumber{5});
  photos.shoot("picking");
  studio.inHand().takePiece(bar(studio, 14));
  studio.inHand().hear(LaneNumber{3});
  photos.shoot("piece-in-hand");
  studio.inHand().hear(std::nullopt);
  studio.inHand().letGoOfUnit();
  shootJoins(photos);
  shootPhrases(photos);
  shootRough(photos);
  shootListening(photos);
  window.setTheme(ThemeChoice::Dark);
  studio.inHand().select(std::nullopt);
  photos.shoot("dark");
  window.setTheme(ThemeChoice::Light);
  studio.inHand().takeJoin(std::nullopt);
  for (const auto& track : studio.desk().session().tracks)
    if (track->microphones.size() > 1) studio.inHand().takeTrack(track->id);
  window.lanes().showSpan({{}, bar(studio, 26)});
  shootBench(photos, MainWindow::TrackPage, "mic-set");
}

/// Under a PipeWire server whose sink "cable" comes back as its source; see scripts/screenshots.sh.
void shootDevice(Photographer& photos) {
  MainWindow& window = photos.window();
  AudioChoice choice;
  choice.driver = "PipeWire";
  choice.sink = "cable";
  choice.blockFrames = 1024;
  window.studio().device().open(choice);
  photos.settle();
  window.showDevice();
  auto* dialog = window.findChild<DeviceDialog*>();
  photos.settle();
  window.studio().device().measureLatency(0);
  photos.play(3600);
  window.studio().transport().engine().setTestTone(true);
  photos.shoot("device", dialog);
}

/// What would be delivered.
void shootFinish(Photographer& photos) {
  MainWindow& window = photos.window();
  for (QAction* each : window.keyedActions())
    if (each->text() == MainWindow::tr("Deliver…")) each->trigger();
  photos.settle();
  auto* dialog = window.findChild<DeliverDialog*>();
  if (!dialog) return;
  for (auto* box : dialog->findChildren<QCheckBox*>())
    if (box->text() == DeliverDialog::tr("The mix")) box->setChecked(true);
  for (auto* folder : dialog->findChildren<QLineEdit*>())  // the default depends on who runs this
    if (folder->text().endsWith("delivery"))
      folder->setText("/home/viola/Documents/The Lantern Ferry delivery");
  photos.shoot("deliver", dialog);
  dialog->close();
}

void shootDemo(Photographer& photos) {
  shootRecording(photos);
  shootComposite(photos);
  shootFinish(photos);
}

/// Every page at one size, to be looked at; in docs/screenshots none of these are kept.
void shootTour(Photographer& photos, const QString& prefix) {
  MainWindow& window = photos.window();
  Studio& studio = window.studio();
  studio.messages().warn(MainWindow::tr("Recording has stopped; make room, then go on from here."));
  window.lanes().showSpan({{}, bar(studio, 26)});
  pickByDragging(window, 2, 5, 9);
  pickByDragging(window, 1, 13, 16);
  studio.inHand().hear(LaneNumber{3});
  for (int page = 0; page < window.bench().count(); ++page) {
    if (page == MainWindow::JoinPage)
      studio.inHand().takeJoin(studio.inHand().composite(*studio.inHand().track()).joins.at(1).at);
    window.bench().setCurrentIndex(page);
    photos.shoot(QString("%1-%2").arg(prefix).arg(page));
  }
  while (studio.desk().history().undoLabel()) studio.desk().undo();
}

/// The start page with these sessions as those of late.
int shootStart(const QStringList& sessions, const QString& folder) {
  QDateTime when({2026, 5, 3}, {20, 15});
  for (qsizetype i = sessions.size(); i-- > 0; when = when.addSecs(47'000)) recent::opened(sessions[i], when);
  StartPage page;
  page.resize(1280, 800);
  page.show();
  QEventLoop loop;
  QObject::connect(&page.recent(), &RecentList::looked, &loop, &QEventLoop::quit);
  QTimer::singleShot(10'000, &loop, &QEventLoop::quit);
  loop.exec();
  takeTurns(200);
  return page.grab().save(folder + "/start.png") ? 0 : 1;
}

}  // namespace

int main(int argc, char** argv) {
  QApplication app(argc, argv);
  QApplication::setApplicationName("yewdrift-screenshots");
  QApplication::setStyle("Fusion");
  QSettings().clear();  // whatever an earlier run left
  if (argc < 3) {
    std::fputs(
        "usage: yewdrift-screenshots SESSION FOLDER [empty|device|start [SESSION...]|tour WIDTH HEIGHT "
        "[dark] [pseudo]]\n",
        stderr);
    return 2;
  }
  QStringList more = QApplication::arguments().mid(3);
  const Language language = speak(QLocale::c());
  PseudoLanguage pseudo;
  if (more.contains("pseudo")) QApplication::installTranslator(&pseudo);
  loadFonts();
  applyTheme(more.contains("dark") ? ThemeChoice::Dark : ThemeChoice::Light);
  if (more.value(0) == "start") return shootStart(QStringList{argv[1]} + more.mid(1).filter("/"), argv[2]);
  try {
    const bool makesTime = more.value(0) != "device";
    auto studio =
        std::make_unique<Studio>(argv[1], makesTime ? DeviceDesk::Mode::Driven : DeviceDesk::Mode::Normal);
    studio->setBlockMaker([&device = studio->device()] { device.runBlockForTest(); });
    studio->device().open(AudioChoice{});
    MainWindow window(std::move(studio));
    if (more.value(0) == "tour") window.resize(more.value(1).toInt(), more.value(2).toInt());
    window.show();
    Photographer photos(window, argv[2], makesTime);
    photos.settle();
    const std::string only = argc > 3 ? argv[3] : "";
    if (only == "tour")
      shootTour(photos, more.join('-'));
    else if (only == "device")
      shootDevice(photos);
    else if (!only.empty())
      photos.shoot(argv[3]);
    else
      shootDemo(photos);
  } catch (const std::exception& e) {
    std::fprintf(stderr, "%s\n", e.what());
    return 1;
  }
  return 0;
}
