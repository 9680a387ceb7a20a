// SPDX-License-Identifier: GPL-3.0-or-later
//
// Figures: an edit with 10,000 pieces < 1 ms, undo the same; a history of 1,000 steps < 50 MB.
#include <benchmark/benchmark.h>
#include <malloc.h>

#include "core/edit/edit.h"
#include "core/edit/history.h"
#include "core/session/resolved_composite.h"

namespace {

using namespace yewdrift;
constexpr TrackId track{1};
constexpr std::int64_t step = 4800;

Session tenThousandPieces() {
  Session session = addTrack(Session{}, "Viola", microphonesFor(1));
  for (int lane = 0; lane < 4; ++lane) {
    const Frames length{10000 * step};
    session = addPoolFile(session, {"audio/x.wav", 1, length});
    session = addLane(session, track, {{{0}, length, {{0}, length}, {{lane, 0}}}});
  }
  std::vector<Piece> pieces(10000);
  for (std::size_t i = 0; i < pieces.size(); ++i) {
    const auto at = static_cast<std::int64_t>(i) * step;
    pieces[i].span = {{at}, {at + step}};
    pieces[i].lane = LaneNumber{1 + static_cast<int>(i % 4)};
  }
  session.tracks.front().edit().composite.picks = SharedSequence<Piece>(pieces);
  return session;
}

void pickAmongTenThousand(benchmark::State& state) {
  const Session session = tenThousandPieces();
  std::int64_t at = 0;
  for (auto unused : state) {
    at = (at + 7777 * step) % (9990 * step);
    benchmark::DoNotOptimize(pick(session, track, {{at + 100}, {at + 2 * step}}, LaneNumber{3}));
  }
}
BENCHMARK(pickAmongTenThousand)->Unit(benchmark::kMicrosecond);

void moveBoundaryAmongTenThousand(benchmark::State& state) {
  const Session session = tenThousandPieces();
  for (auto unused : state)
    benchmark::DoNotOptimize(moveBoundary(session, track, {5000 * step}, {5000 * step + 99}));
}
BENCHMARK(moveBoundaryAmongTenThousand)->Unit(benchmark::kMicrosecond);

void resolveTenThousand(benchmark::State& state) {
  const Session session = tenThousandPieces();
  for (auto unused : state) benchmark::DoNotOptimize(resolve(*session.track(track), session.rate));
}
BENCHMARK(resolveTenThousand)->Unit(benchmark::kMicrosecond);

void undoAndRedo(benchmark::State& state) {
  History history(tenThousandPieces());
  history.commit("Pick", pick(history.now(), track, {{100}, {5000}}, LaneNumber{2}));
  for (auto unused : state) {
    history.undo();
    history.redo();
  }
}
BENCHMARK(undoAndRedo)->Unit(benchmark::kMicrosecond);

void aThousandSteps(benchmark::State& state) {
  double megabytes = 0.0;
  for (auto unused : state) {
    History history(tenThousandPieces());
    const auto before = mallinfo2().uordblks;
    for (std::int64_t i = 0; i < 1000; ++i)
      history.commit("Pick", pick(history.now(), track, {{i * 9 * step + 50}, {i * 9 * step + 3 * step}},
                                  LaneNumber{2}));
    megabytes = static_cast<double>(mallinfo2().uordblks - before) / 1e6;
  }
  state.counters["history_MB"] = megabytes;
}
BENCHMARK(aThousandSteps)->Unit(benchmark::kMillisecond)->Iterations(3);

}  // namespace
