// SPDX-License-Identifier: GPL-3.0-or-later
//
// Figures: painting 64 lanes of 10 min and 60 phrases at 1280x800 while zooming or scrolling: < 16 ms a
// frame, p95; a session of 500 takes of 5 min, peaks cached: open and first picture < 0.5 s; a paint of the
// enlarged join < 8 ms; the interface's thread standing still < 2 % of a core, recording < 15 %.
#include <benchmark/benchmark.h>

#include <QApplication>
#include <QElapsedTimer>
#include <QMouseEvent>
#include <QTimer>
#include <algorithm>
#include <ctime>

#include "app/look/language.h"
#include "app/look/theme.h"
#include "app/window/main_window.h"
#include "big_session.h"
#include "core/edit/edit.h"
#include "core/edit/edit_access.h"

namespace {

using namespace yewdrift;
using namespace yewdrift::bench;

std::unique_ptr<app::MainWindow> windowOn(const BigSession& what) {
  { const SessionFolder made = makeBigSession(what); }
  auto window = std::make_unique<app::MainWindow>(std::make_unique<app::Studio>(workFolder() / what.name));
  window->show();
  return window;
}

void waitForPeaks(app::MainWindow& window) {
  window.grab();
  do QApplication::processEvents(QEventLoop::WaitForMoreEvents, 50);
  while (window.studio().desk().peaks().busy());
}

/// Sixty of them, as if a person had set them.
void addPhrases(app::MainWindow& window) {
  window.studio().desk().apply("Phrases", [&](Session session) {
    Track& track = editTrack(session, session.tracks.front()->id);
    for (std::int64_t i = 0; i < 60; ++i)
      track.phrases.push_back({Frames{480000 * i}, Frames{480000 * i + 400000}});
    return session;
  });
}

/// With the measures in the cells too, as far as they are there by then: `measures` says in how many phrases.
void paintSixtyFourLanes(benchmark::State& state) {
  const auto window = windowOn({"paint", 1, 64, 600.0, 100, false});
  waitForPeaks(*window);
  addPhrases(*window);
  window->lanes().setShowsMeasures(state.range(0) != 0);
  QElapsedTimer waited;
  waited.start();
  while (state.range(0) != 0 && waited.elapsed() < 30'000)
    QApplication::processEvents(QEventLoop::AllEvents, 50);
  QImage picture(window->lanes().viewport()->size(), QImage::Format_ARGB32_Premultiplied);
  std::vector<double> milliseconds;
  int frame = 0;
  for (auto unused : state) {
    QElapsedTimer timer;
    timer.start();
    const bool zooming = frame / 50 % 2 == 0;
    if (zooming)
      window->lanes().zoom(frame % 50 < 25 ? 0.9 : 1.0 / 0.9);
    else
      window->lanes().scrollTo(window->lanes().scale().origin + Frames{48000});
    window->lanes().viewport()->render(&picture);
    milliseconds.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
    ++frame;
  }
  std::sort(milliseconds.begin(), milliseconds.end());
  state.counters["p95_ms"] = milliseconds[milliseconds.size() * 95 / 100];
  state.counters["median_ms"] = milliseconds[milliseconds.size() / 2];
  const auto& phrases = window->studio().inHand().phrases();
  state.counters["measures"] =
      static_cast<double>(std::count_if(phrases.begin(), phrases.end(), [&](const Phrase& phrase) {
        return !window->studio().analysis().measuresOf(phrase).empty();
      }));
  state.counters["phrases"] = static_cast<double>(window->studio().inHand().phrases().size());
}
BENCHMARK(paintSixtyFourLanes)->Unit(benchmark::kMillisecond)->Iterations(400)->Arg(0)->Arg(1);

/// CPU time of this thread.
double interfaceSeconds() {
  timespec now{};
  clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
  return static_cast<double>(now.tv_sec) + static_cast<double>(now.tv_nsec) * 1e-9;
}

/// So close that the samples themselves are drawn: as many milliseconds over the width, all lanes in sight
/// that can be, every screen scrolled by a tenth.
void paintSixtyFourLanesClose(benchmark::State& state) {
  const auto window = windowOn({"close", 1, 64, 600.0, 100, false});
  waitForPeaks(*window);
  addPhrases(*window);
  window->lanes().setFitsAll(true);
  const Frames width{48 * state.range(0)};
  Frames from{480000};
  QImage picture(window->lanes().viewport()->size(), QImage::Format_ARGB32_Premultiplied);
  std::vector<double> milliseconds;
  for (auto unused : state) {
    from += Frames{width.count / 10};
    const double before = interfaceSeconds();
    window->lanes().showSpan({from, from + width});
    window->lanes().viewport()->render(&picture);
    milliseconds.push_back(1000.0 * (interfaceSeconds() - before));
    // What was read meanwhile comes in, as between a hand's moves.
    QElapsedTimer rest;
    for (rest.start(); rest.elapsed() < 16;) QApplication::processEvents(QEventLoop::AllEvents, 4);
  }
  std::sort(milliseconds.begin(), milliseconds.end());
  state.counters["p95_ms"] = milliseconds[milliseconds.size() * 95 / 100];
  state.counters["median_ms"] = milliseconds[milliseconds.size() / 2];
}
BENCHMARK(paintSixtyFourLanesClose)
    ->Unit(benchmark::kMillisecond)
    ->Iterations(100)
    ->Arg(4)
    ->Arg(20)
    ->Arg(500);

void openFiveHundredTakes(benchmark::State& state) {
  const BigSession what{"open", 10, 50, 300.0, 20, false};
  waitForPeaks(*windowOn(what));
  for (auto unused : state) {
    auto window = windowOn(what);
    QApplication::processEvents();
    benchmark::DoNotOptimize(window->grab());
    state.PauseTiming();  // closing it is no part of it
    window.reset();
    state.ResumeTiming();
  }
}
BENCHMARK(openFiveHundredTakes)->Unit(benchmark::kMillisecond)->Iterations(5);

/// What a paint of the enlarged join costs, as it is first shown and zoomed out ten times; at 1920x1080. Aim:
/// 8 ms, and a drag, which paints over what is there, no more.
void paintJoin(benchmark::State& state, bool dragging) {
  const auto window = windowOn({"join", 1, 8, 300.0, 200, false});
  waitForPeaks(*window);
  window->resize(1920, 1080);
  app::InHand& inHand = window->studio().inHand();
  const Frames join = inHand.composite(*inHand.track()).joins.at(3).at;
  inHand.takeJoin(join);
  app::JoinPicture& picture = window->joinBench().picture();
  picture.zoom(static_cast<double>(state.range(0)));
  QApplication::processEvents();
  QImage image(picture.size(), QImage::Format_ARGB32_Premultiplied);
  const auto at = [&](int x, QEvent::Type type) {
    QMouseEvent event(type, QPointF(x, 20), picture.mapToGlobal(QPointF(x, 20)), Qt::LeftButton,
                      Qt::LeftButton, {});
    QApplication::sendEvent(&picture, &event);
  };
  state.counters["shown_ms"] = static_cast<double>(picture.shown()->span.length().count) / 48.0;
  const int edge = picture.xOf(join + picture.shown()->join.shape.after);
  if (dragging) at(edge, QEvent::MouseButtonPress);
  int turn = 0;
  for (auto unused : state) {
    if (dragging)
      at(edge + 20 + ++turn % 200, QEvent::MouseMove);
    else
      picture.resize(picture.width(), picture.height() ^ 1);  // drawn from nothing
    picture.render(&image);
  }
}
BENCHMARK_CAPTURE(paintJoin, whole, false)->Unit(benchmark::kMillisecond)->Arg(1)->Arg(10)->Iterations(50);
BENCHMARK_CAPTURE(paintJoin, drag, true)->Unit(benchmark::kMillisecond)->Arg(1)->Arg(10)->Iterations(50);

/// Per cent of a core that the interface's thread takes in 5 s: 12 tracks of 30 takes, 1920x1080. Aims: 2 %
/// standing still, 15 % recording.
void load(benchmark::State& state, bool recording) {
  const auto window = windowOn({"load", 12, 30, 300.0, 60, false});
  app::Studio& studio = window->studio();
  studio.device().open(app::AudioChoice{});
  window->resize(1920, 1080);
  waitForPeaks(*window);
  if (recording) {
    const TrackId id = studio.inHand().trackId();
    studio.desk().apply("Arm",
                        [id](const Session& s) { return setTrackSwitch(s, id, TrackSwitch::Arm, true); });
    studio.recording().toggleRecord();
  }
  const auto run = [](int milliseconds) {
    QElapsedTimer timer;
    timer.start();
    QEventLoop loop;
    QTimer::singleShot(milliseconds, &loop, &QEventLoop::quit);
    loop.exec();
    return static_cast<double>(timer.nsecsElapsed()) * 1e-9;
  };
  run(1500);
  for (auto unused : state) {
    const double before = interfaceSeconds();
    const double passed = run(5000);
    state.counters["percent"] = 100.0 * (interfaceSeconds() - before) / passed;
  }
  studio.transport().stop();
  run(500);
}
BENCHMARK_CAPTURE(load, standing_still, false)->Unit(benchmark::kMillisecond)->Iterations(1);
BENCHMARK_CAPTURE(load, recording, true)->Unit(benchmark::kMillisecond)->Iterations(1);

}  // namespace

int main(int argc, char** argv) {
  qputenv("QT_QPA_PLATFORM", "offscreen");
  QApplication application(argc, argv);
  QApplication::setStyle("Fusion");
  const yewdrift::app::Language language = yewdrift::app::speak(QLocale::c());
  yewdrift::app::loadFonts();
  yewdrift::app::applyTheme(yewdrift::app::ThemeChoice::Light);
  benchmark::Initialize(&argc, argv);
  benchmark::RunSpecifiedBenchmarks();
  return 0;
}
