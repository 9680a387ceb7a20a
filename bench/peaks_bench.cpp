// SPDX-License-Identifier: GPL-3.0-or-later
//
// Figure: peaks for a new file within 2 times of reading it.
#include <benchmark/benchmark.h>

#include "big_session.h"
#include "core/store/audio_file.h"
#include "core/store/peaks_cache.h"

namespace {

using namespace yewdrift;
using namespace yewdrift::bench;

void readFile(benchmark::State& state) {
  const SessionFolder folder = makeBigSession({"flatten", 1, 8, 300.0, 200, true});
  std::vector<float> block(65536);
  for (auto unused : state) {
    AudioReader reader(folder.path() / folder.session().pool->front().path);
    for (Frames at; at < reader.info().length; at += Frames{65536}) reader.readAt(at, 65536, block.data());
  }
}
BENCHMARK(readFile)->Unit(benchmark::kMillisecond);

void measurePeaks(benchmark::State& state) {
  const SessionFolder folder = makeBigSession({"flatten", 1, 8, 300.0, 200, true});
  const std::atomic<bool> never{false};
  for (auto unused : state) {
    std::filesystem::remove_all(folder.path() / "cache");
    benchmark::DoNotOptimize(loadPeaks(folder.disk(), folder.session().pool->front(), never));
  }
}
BENCHMARK(measurePeaks)->Unit(benchmark::kMillisecond);

void peaksFromCache(benchmark::State& state) {
  const SessionFolder folder = makeBigSession({"flatten", 1, 8, 300.0, 200, true});
  const std::atomic<bool> never{false};
  for (auto unused : state)
    benchmark::DoNotOptimize(loadPeaks(folder.disk(), folder.session().pool->front(), never));
}
BENCHMARK(peaksFromCache)->Unit(benchmark::kMillisecond);

}  // namespace
