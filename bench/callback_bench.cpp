// SPDX-License-Identifier: GPL-3.0-or-later
//
// Figure: 32 tracks of 16 lanes with 10 ms joins: at most 10 % of a 64-frame block at 48 kHz in the median,
// 50 % in the worst of a million blocks. A block lasts 1333 microseconds.
#include <benchmark/benchmark.h>

#include <algorithm>
#include <chrono>

#include "big_session.h"
#include "core/device/simulated_device.h"
#include "core/engine/engine.h"
#include "core/plan/file_sample_source.h"

namespace {

using namespace yewdrift;
using namespace yewdrift::bench;

void callbackOf32Tracks(benchmark::State& state) {
  constexpr int block = 64;
  const SessionFolder folder = makeBigSession({"callback", 32, 16, 60.0, 240, false});
  Engine engine({48000}, block, Engine::Service::ByHand);
  FileCorrelationMeter meter(folder.disk());
  meter.setFiles(*folder.session().pool);
  engine.setPlan(folder.disk(),
                 Compiler(meter).compile(folder.session(), {{}, {}, folder.session().tracks.front()->id}));
  SimulatedInterface interface;
  interface.settings.blockFrames = block;
  SimulatedDevice device(interface, engine);
  engine.play({{}, Span{{0}, {59 * 48000}}, 0, std::nullopt, {}});
  engine.settle();
  std::vector<double> shares;
  shares.reserve(1'000'000);
  for (auto unused : state) {
    if (shares.size() % 64 == 0) engine.service();
    device.runBlock();
    shares.push_back(engine.state().load);
    state.SetIterationTime(engine.state().load * block / 48000.0);
  }
  std::sort(shares.begin(), shares.end());
  state.counters["median_percent"] = 100.0 * shares[shares.size() / 2];
  state.counters["p99.9_percent"] = 100.0 * shares[shares.size() * 999 / 1000];
  state.counters["worst_percent"] = 100.0 * shares.back();
  state.counters["underruns"] = static_cast<double>(engine.state().underruns);
}
BENCHMARK(callbackOf32Tracks)->UseManualTime()->Iterations(1'000'000)->Unit(benchmark::kMicrosecond);

}  // namespace
