// SPDX-License-Identifier: GPL-3.0-or-later
//
// Figures: a history of 100,000 steps opens in < 0.3 s; an edit and what of its saving the interface thread
// does take < 10 ms; undo < 1 ms at 10,000 pieces, also after reopening.
#include <benchmark/benchmark.h>
#include <malloc.h>

#include <filesystem>

#include "core/edit/edit.h"
#include "core/store/session_folder.h"

namespace {

using namespace yewdrift;
constexpr TrackId lead{1};
constexpr std::int64_t pieceLength = 4800;
constexpr int steps = 100'000;

/// A hundred thousand steps of a small session, then one that makes ten thousand pieces of it, and a thousand
/// picks among them.
const std::filesystem::path& longHistory() {
  static const std::filesystem::path path = [] {
    std::string pattern = (std::filesystem::temp_directory_path() / "yewdrift-bench-XXXXXX").string();
    const std::filesystem::path made = std::filesystem::path(::mkdtemp(pattern.data())) / "s";
    Session session = addTrack(Session{}, "Viola", microphonesFor(1));
    const Frames length{10'000 * pieceLength};
    session = addPoolFile(session, {"audio/x.wav", 1, length});
    for (int lane = 0; lane < 4; ++lane)
      session = addLane(session, lead, {{{0}, length, {{0}, length}, {{0, 0}}}});
    SessionFolder folder = SessionFolder::create(made, session);
    for (int i = 0; i < steps - 1001; ++i) {
      const Frames at{i % 20 * pieceLength};
      folder.editHistory().commit(
          "Pick a take", pick(folder.session(), lead, {at, at + Frames{pieceLength}}, LaneNumber{1 + i % 3}));
      if (i % 5000 == 4999) folder.save();
    }
    std::vector<Piece> pieces(10'000);
    for (std::size_t i = 0; i < pieces.size(); ++i) {
      pieces[i].span = {{static_cast<std::int64_t>(i) * pieceLength},
                        {static_cast<std::int64_t>(i + 1) * pieceLength}};
      pieces[i].lane = LaneNumber{1 + static_cast<int>(i % 4)};
    }
    session = folder.session();
    session.tracks.front().edit().composite.picks = SharedSequence<Piece>(pieces);
    folder.editHistory().commit("Ten thousand pieces", session);
    for (int i = 0; i < 1000; ++i) {
      const Frames at{(i * 7 + 3) * pieceLength};
      folder.editHistory().commit("Pick a take", pick(folder.session(), lead, {at, at + Frames{pieceLength}},
                                                      LaneNumber{1 + (i + 2) % 4}));
    }
    folder.save();
    return made;
  }();
  return path;
}

void openLongHistory(benchmark::State& state) {
  longHistory();
  const auto before = mallinfo2().uordblks;
  for (auto unused : state) {
    const SessionFolder folder = SessionFolder::open(longHistory(), SessionFolder::Access::Write);
    benchmark::DoNotOptimize(folder.history().doneCount());
    state.counters["steps"] = static_cast<double>(folder.history().steps().size());
    state.counters["MB"] = static_cast<double>(mallinfo2().uordblks - before) / 1e6;
    state.counters["log MB"] =
        static_cast<double>(std::filesystem::file_size(longHistory() / "steps.log")) / 1e6;
  }
}
BENCHMARK(openLongHistory)->Unit(benchmark::kMillisecond)->Iterations(5);

void editOnTheInterfaceThread(benchmark::State& state) {
  SessionFolder folder = SessionFolder::open(longHistory(), SessionFolder::Access::Read);
  History history = folder.history();
  std::int64_t at = 0;
  for (auto unused : state) {
    at = (at + 777) % 9990;
    Session next = pick(history.now(), lead, {{at * pieceLength}, {(at + 1) * pieceLength}},
                        LaneNumber{1 + static_cast<int>(at % 4)});
    checkInvariants(next);
    history.commit("Pick a take", std::move(next));
    const History forTheSaver = history;
    benchmark::DoNotOptimize(forTheSaver.doneCount());
  }
}
BENCHMARK(editOnTheInterfaceThread)->Unit(benchmark::kMicrosecond);

void saveOnTheSaversThread(benchmark::State& state) {
  SessionFolder folder = SessionFolder::open(longHistory(), SessionFolder::Access::Write);
  std::int64_t at = 0;
  for (auto unused : state) {
    at = (at + 777) % 9990;
    folder.commit("Pick a take", pick(folder.session(), lead, {{at * pieceLength}, {(at + 1) * pieceLength}},
                                      LaneNumber{1 + static_cast<int>(at % 3)}));
  }
}
BENCHMARK(saveOnTheSaversThread)->Unit(benchmark::kMillisecond)->Iterations(20);

void undoAfterReopening(benchmark::State& state) {
  SessionFolder folder = SessionFolder::open(longHistory(), SessionFolder::Access::Read);
  for (auto unused : state) benchmark::DoNotOptimize(folder.editHistory().undo());
}
BENCHMARK(undoAfterReopening)->Unit(benchmark::kMicrosecond)->Iterations(900);

}  // namespace
