// SPDX-License-Identifier: GPL-3.0-or-later
//
// Makes the pictures of docs/screenshots from the demo session, by using the window as a person would.
#include <QApplication>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QKeyEvent>
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

namespace {

using namespace yewdrift;
using namespace yewdrift::app;

void wait(int milliseconds) {
  QElapsedTimer timer;
  timer.start();
  while (timer.elapsed() < milliseconds) QApplication::processEvents(QEventLoop::AllEvents, 20);
}

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

class Photographer {
 public:
  Photographer(MainWindow& window, QString folder) : window_(window), folder_(std::move(folder)) {}
  void shoot(const QString& name, QWidget* of = nullptr) {
    wait(150);
    const bool good = (of ? of : &window_)->grab().save(folder_ + "/" + name + ".png");
    std::printf("%s %s\n", good ? "made" : "FAILED", qPrintable(name));
  }

 private:
  MainWindow& window_;
  QString folder_;
};

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

void shootBench(MainWindow& window, Photographer& photos, MainWindow::BenchPage page, const QString& name) {
  window.bench().setCurrentIndex(page);
  photos.shoot(name);
}

/// Spans, options and a recording in a loop with punches.
void shootRecording(MainWindow& window, Photographer& photos) {
  Studio& studio = window.studio();
  drawPunch(window, 9, 10);
  drawPunch(window, 11, 13);
  RecordingOptions options = studio.desk().options();
  options.countInBars = 1;
  options.passes = 3;
  studio.desk().setOptions(options);
  wait(100);
  shootBench(window, photos, MainWindow::OptionsPage, "ready-to-record");
  shootBench(window, photos, MainWindow::SpansPage, "spans");
  options.countInBars = 0;
  studio.desk().setOptions(options);
  studio.recording().toggleRecord();
  wait(15300);  // in the second pass, a bar before it punches out
  photos.shoot("recording");
  studio.transport().dropMarker();
  studio.transport().stop();
  wait(900);
  photos.shoot("after-recording");
  studio.inHand().letGoOfUnit();
  while (studio.desk().history().undoLabel()) studio.desk().undo();
}

/// The narrator's phrases: rated, noted, some decided, one in hand.
void shootPhrases(MainWindow& window, Photographer& photos) {
  Studio& studio = window.studio();
  const TrackId before = studio.inHand().trackId();
  studio.inHand().takeTrack(studio.desk().session().trackNamed("Narrator")->id);
  window.lanes().showSpan({{}, bar(studio, 23)});
  wait(400);
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
  wait(3000);
  window.lanes().setShowsMeasures(true);
  wait(300);
  photos.shoot("phrases");
  window.lanes().setShowsMeasures(false);
  studio.inHand().hear(std::nullopt);
  studio.inHand().takeTrack(before);
  window.bench().setCurrentIndex(MainWindow::JoinPage);
}

/// The same phrase with all takes equally loud, and blind; and how high the viola plays.
void shootListening(MainWindow& window, Photographer& photos) {
  Studio& studio = window.studio();
  const TrackId before = studio.inHand().trackId();
  studio.inHand().takeTrack(studio.desk().session().trackNamed("Narrator")->id);
  window.lanes().showSpan({{}, bar(studio, 23)});
  wait(400);
  studio.inHand().takePhrase(Phrase(studio.inHand().phrases().at(1)));
  studio.inHand().hear(LaneNumber{3});
  ListeningOptions options;
  options.matched = options.around = true;
  options.others = ListeningOptions::Others::Dimmed;
  studio.listening().setOptions(options);
  wait(1500);
  photos.shoot("level-matched");
  studio.listening().setOptions({});
  studio.listening().setBlind(true);
  studio.inHand().hearNeighbour(1);
  studio.inHand().hearNeighbour(1);
  wait(800);
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
  for (int tries = 0; tries < 60 && studio.analysis().share() < 1.0; ++tries) wait(500);
  wait(1000);
  photos.shoot("pitch");
  studio.inHand().hear(std::nullopt);
  window.bench().setCurrentIndex(MainWindow::JoinPage);
}

/// A join that is heard, with where it would be better; the same once it was improved.
void shootJoins(MainWindow& window, Photographer& photos) {
  Studio& studio = window.studio();
  const TrackId id = studio.inHand().trackId();
  const Frames bad = bar(studio, 10) + framesFromSeconds(0.72, studio.desk().session().rate);
  studio.desk().apply("Pick", [&](const Session& s) {
    return pick(s, id, {bad, bar(studio, 13)}, LaneNumber{3});
  });
  studio.inHand().takeJoin(bad);
  wait(2500);
  photos.shoot("join-risky");
  studio.joins().improveInHand();
  wait(2500);
  photos.shoot("join");
}

/// The narrator's composite from the ratings, told phrase by phrase; and beside the one that was kept.
void shootRough(MainWindow& window, Photographer& photos) {
  Studio& studio = window.studio();
  const TrackId before = studio.inHand().trackId();
  studio.inHand().takeTrack(studio.desk().session().trackNamed("Narrator")->id);
  const TrackId id = studio.inHand().trackId();
  studio.desk().apply("Keep", [&](const Session& s) { return keepComposite(s, id, "First evening"); });
  studio.rough().make(false);
  window.bench().setCurrentIndex(MainWindow::PhrasesPage);
  wait(4000);
  photos.shoot("rough-composite");
  studio.inHand().takeTrack(before);
}

void shootComposite(MainWindow& window, Photographer& photos) {
  Studio& studio = window.studio();
  window.lanes().showSpan({bar(studio, 4), bar(studio, 22)});
  wait(100);
  // So that all of them can be dragged over.
  window.lanes().setFitsAll(true);
  pickByDragging(window, 2, 5, 9);
  pickByDragging(window, 4, 9, 13);
  pickByDragging(window, 1, 13, 16);
  pickByDragging(window, 5, 19, 25);
  window.lanes().setFitsAll(false);
  studio.inHand().hear(LaneNumber{5});
  wait(200);
  photos.shoot("picking");
  studio.inHand().takePiece(bar(studio, 14));
  studio.inHand().hear(LaneNumber{3});
  wait(200);
  photos.shoot("piece-in-hand");
  studio.inHand().hear(std::nullopt);
  studio.inHand().letGoOfUnit();
  shootJoins(window, photos);
  shootPhrases(window, photos);
  shootRough(window, photos);
  shootListening(window, photos);
  window.setTheme(ThemeChoice::Dark);
  studio.inHand().select(std::nullopt);
  photos.shoot("dark");
  window.setTheme(ThemeChoice::Light);
  studio.inHand().takeJoin(std::nullopt);
  for (const auto& track : studio.desk().session().tracks)
    if (track->microphones.size() > 1) studio.inHand().takeTrack(track->id);
  window.lanes().showSpan({{}, bar(studio, 26)});
  shootBench(window, photos, MainWindow::TrackPage, "mic-set");
}

/// Under a PipeWire server whose sink "cable" comes back as its source; see scripts/screenshots.sh.
void shootDevice(MainWindow& window, Photographer& photos) {
  AudioChoice choice;
  choice.driver = "PipeWire";
  choice.sink = "cable";
  choice.blockFrames = 1024;
  window.studio().device().open(choice);
  wait(2500);
  window.showDevice();
  auto* dialog = window.findChild<DeviceDialog*>();
  wait(1500);
  window.studio().device().measureLatency(0);
  wait(3600);
  window.studio().transport().engine().setTestTone(true);
  wait(500);
  photos.shoot("device", dialog);
}

/// What would be delivered.
void shootFinish(MainWindow& window, Photographer& photos) {
  for (QAction* each : window.keyedActions())
    if (each->text() == MainWindow::tr("Deliver…")) each->trigger();
  wait(1500);
  auto* dialog = window.findChild<DeliverDialog*>();
  if (!dialog) return;
  for (auto* box : dialog->findChildren<QCheckBox*>())
    if (box->text() == DeliverDialog::tr("The mix")) box->setChecked(true);
  wait(500);
  photos.shoot("deliver", dialog);
  dialog->close();
}

void shootDemo(MainWindow& window, Photographer& photos) {
  shootRecording(window, photos);
  shootComposite(window, photos);
  shootFinish(window, photos);
}

/// Every page at one size, to be looked at; in docs/screenshots none of these are kept.
void shootTour(MainWindow& window, Photographer& photos, const QString& prefix) {
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
  QSettings().clear();
  QDateTime when({2026, 5, 3}, {20, 15});
  for (qsizetype i = sessions.size(); i-- > 0; when = when.addSecs(47'000)) recent::opened(sessions[i], when);
  StartPage page;
  page.resize(1280, 800);
  page.show();
  QEventLoop loop;
  QObject::connect(&page.recent(), &RecentList::looked, &loop, &QEventLoop::quit);
  QTimer::singleShot(10'000, &loop, &QEventLoop::quit);
  loop.exec();
  wait(200);
  return page.grab().save(folder + "/start.png") ? 0 : 1;
}

}  // namespace

int main(int argc, char** argv) {
  QApplication app(argc, argv);
  QApplication::setApplicationName("yewdrift-screenshots");
  QApplication::setStyle("Fusion");
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
    auto studio = std::make_unique<Studio>(argv[1]);
    studio->device().open(AudioChoice{});
    MainWindow window(std::move(studio));
    if (more.value(0) == "tour") window.resize(more.value(1).toInt(), more.value(2).toInt());
    window.show();
    wait(1500);
    Photographer photos(window, argv[2]);
    const std::string only = argc > 3 ? argv[3] : "";
    if (only == "tour")
      shootTour(window, photos, more.join('-'));
    else if (only == "device")
      shootDevice(window, photos);
    else if (!only.empty())
      photos.shoot(argv[3]);
    else
      shootDemo(window, photos);
  } catch (const std::exception& e) {
    std::fprintf(stderr, "%s\n", e.what());
    return 1;
  }
  return 0;
}
