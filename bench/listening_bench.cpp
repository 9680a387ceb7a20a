// SPDX-License-Identifier: GPL-3.0-or-later
//
// Figures: another take is heard within one block of being asked for; analysis of a take, as a multiple of
// its own length in time; all takes of five minutes made equally loud, as it is done anew after each edit.
#include <benchmark/benchmark.h>

#include <cmath>

#include "big_session.h"
#include "core/analysis/file_analysis.h"
#include "core/analysis/level_matching.h"
#include "core/device/simulated_device.h"
#include "core/edit/edit.h"
#include "core/engine/engine.h"
#include "core/plan/file_sample_source.h"

namespace {

using namespace yewdrift;
using namespace yewdrift::bench;

/// How many blocks it takes until what sounds is no more what it was; asked for at any moment of a roll.
void switchTake(benchmark::State& state) {
  constexpr int block = 64;
  const SessionFolder folder = makeBigSession({"flatten", 1, 8, 300.0, 200, true});
  const TrackId id = folder.session().tracks.front()->id;
  const auto engineOn = [&] {
    auto engine = std::make_unique<Engine>(folder.session().rate, block, Engine::Service::ByHand);
    FileCorrelationMeter meter(folder.disk());
    meter.setFiles(*folder.session().pool);
    engine->setPlan(folder.disk(), Compiler(meter).compile(folder.session(), {{}, {}, id}));
    return engine;
  };
  // One that switches, and one that goes on, side by side.
  const auto switching = engineOn();
  const auto staying = engineOn();
  SimulatedInterface interface;
  interface.settings.blockFrames = block;
  SimulatedDevice first(interface, *switching);
  SimulatedDevice second(interface, *staying);
  for (Engine* engine : {switching.get(), staying.get()}) {
    engine->play({{48000}, std::nullopt, 0, std::nullopt, {}});
    engine->settle();
  }
  const auto run = [&] {
    first.runBlock();
    second.runBlock();
    switching->service();
    staying->service();
  };
  std::int64_t most = 0;
  std::int64_t all = 0;
  int lane = 1;
  for (auto unused : state) {
    for (int i = 0; i < 20; ++i) run();
    lane = lane % 8 + 1;
    switching->hear(id, LaneNumber{lane});
    std::int64_t blocks = 0;
    do {
      run();
      ++blocks;
    } while (first.lastOutput()[0] == second.lastOutput()[0] && blocks < 1000);
    staying->hear(id, LaneNumber{lane});
    most = std::max(most, blocks);
    all += blocks;
  }
  state.counters["blocks"] = static_cast<double>(all) / static_cast<double>(state.iterations());
  state.counters["most_blocks"] = static_cast<double>(most);
}
BENCHMARK(switchTake)->Iterations(200)->Unit(benchmark::kMicrosecond);

void analyseTake(benchmark::State& state) {
  const SessionFolder folder = makeBigSession({"flatten", 1, 8, 300.0, 200, true});
  const PoolFile& file = folder.session().pool->front();
  const std::atomic<bool> never{false};
  for (auto unused : state) {
    std::filesystem::remove_all(folder.path() / "cache");
    benchmark::DoNotOptimize(analyseFile(folder.disk(), file, folder.session().rate, never));
  }
  state.counters["times_real_time"] = benchmark::Counter(
      secondsFromFrames(file.length, folder.session().rate) * static_cast<double>(state.iterations()),
      benchmark::Counter::kIsRate);
}
BENCHMARK(analyseTake)->Unit(benchmark::kMillisecond)->UseRealTime()->Iterations(3);

/// So many takes of five minutes, all of one file.
struct ManyTakes {
  explicit ManyTakes(std::int64_t count)
      : folder(makeBigSession({"flatten", 1, 8, 300.0, 200, true})), session(folder.session()) {
    const std::atomic<bool> never{false};
    analysis = analyseFile(folder.disk(), session.pool->front(), session.rate, never);
    const TrackId id = track().id;
    while (static_cast<std::int64_t>(track().lanes.size()) < count)
      session = addFileAsLane(std::move(session), id, session.pool->front(), {}, "more");
  }
  [[nodiscard]] const Track& track() const { return *session.tracks.front(); }
  [[nodiscard]] FindAnalysis find() const {
    return [this](int) { return &analysis; };
  }
  const SessionFolder folder;
  Session session;
  FileAnalysis analysis;
  const Span whole{-maximumPosition, maximumPosition};
};

void matchTakes(benchmark::State& state) {
  const ManyTakes takes(state.range(0));
  for (auto unused : state)
    benchmark::DoNotOptimize(matchLevels(takes.session, takes.track(), takes.whole, takes.find(), false));
}

void matchTakesAfterAnEdit(benchmark::State& state) {
  const ManyTakes takes(state.range(0));
  LevelMatcher matcher;
  for (auto unused : state)
    benchmark::DoNotOptimize(matcher.match(takes.session, takes.track(), takes.whole, takes.find(), false));
}

BENCHMARK(matchTakes)->Unit(benchmark::kMillisecond)->Arg(8)->Arg(30)->Arg(200);
BENCHMARK(matchTakesAfterAnEdit)->Unit(benchmark::kMillisecond)->Arg(8)->Arg(30)->Arg(200);

}  // namespace
