// SPDX-License-Identifier: GPL-3.0-or-later
//
// Figure: 64 inputs at 48 kHz to disk without a lost frame. Ten seconds are pushed at ten times real time
// while another thread drains; the ratio to real time that the disk thread would sustain is printed.
#include <benchmark/benchmark.h>

#include <chrono>
#include <thread>

#include "big_session.h"
#include "core/engine/capture.h"

namespace {

using namespace yewdrift;
using namespace yewdrift::bench;

void sixtyFourInputs(benchmark::State& state) {
  std::filesystem::create_directories(workFolder());
  constexpr int block = 256;
  const std::vector<float> noise(block, 0.25F);
  std::vector<const float*> inputs(64, noise.data());
  std::vector<CaptureFile> files;
  for (int i = 0; i < 64; ++i)
    files.push_back({{i}, workFolder() / ("capture-" + std::to_string(i) + ".wav")});
  std::int64_t lost = 0;
  double seconds = 0.0;
  for (auto unused : state) {
    CaptureStream stream(files, {48000}, SampleFormat::Pcm24, 4 * 48000);
    const auto began = std::chrono::steady_clock::now();
    std::thread disk([&stream] {
      while (!stream.drain()) std::this_thread::sleep_for(std::chrono::milliseconds(5));
    });
    for (int i = 0; i < 10 * 48000 / block; ++i) {
      stream.push(inputs.data(), 64, 0, block);
      std::this_thread::sleep_until(began + std::chrono::microseconds(i * block * 1'000'000LL / 480'000));
    }
    stream.markComplete();
    disk.join();
    lost += stream.lostFrames();
    seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
  }
  state.counters["lost_frames"] = static_cast<double>(lost);
  state.counters["times_real_time"] = 10.0 / seconds;
}
BENCHMARK(sixtyFourInputs)->Unit(benchmark::kMillisecond)->UseRealTime()->Iterations(3);

}  // namespace
