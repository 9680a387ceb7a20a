// SPDX-License-Identifier: GPL-3.0-or-later
//
// Figures: painting 64 lanes of 10 min at 1280x800 while zooming or scrolling: < 16 ms a frame, p95; a
// session of 500 takes of 5 min, peaks cached: open and first picture < 0.5 s.
#include <benchmark/benchmark.h>

#include <QApplication>
#include <QElapsedTimer>
#include <algorithm>

#include "app/look/theme.h"
#include "app/window/main_window.h"
#include "big_session.h"

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

void paintSixtyFourLanes(benchmark::State& state) {
  const auto window = windowOn({"paint", 1, 64, 600.0, 100, false});
  waitForPeaks(*window);
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
}
BENCHMARK(paintSixtyFourLanes)->Unit(benchmark::kMillisecond)->Iterations(400);

void openFiveHundredTakes(benchmark::State& state) {
  const BigSession what{"open", 10, 50, 300.0, 20, false};
  waitForPeaks(*windowOn(what));
  for (auto unused : state) {
    const auto window = windowOn(what);
    QApplication::processEvents();
    benchmark::DoNotOptimize(window->grab());
  }
}
BENCHMARK(openFiveHundredTakes)->Unit(benchmark::kMillisecond)->Iterations(5);

}  // namespace

int main(int argc, char** argv) {
  qputenv("QT_QPA_PLATFORM", "offscreen");
  QApplication application(argc, argv);
  QApplication::setStyle("Fusion");
  yewdrift::app::loadFonts();
  yewdrift::app::applyTheme(yewdrift::app::ThemeChoice::Light);
  benchmark::Initialize(&argc, argv);
  benchmark::RunSpecifiedBenchmarks();
  return 0;
}
