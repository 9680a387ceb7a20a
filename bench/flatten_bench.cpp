// SPDX-License-Identifier: GPL-3.0-or-later
//
// Figure: flatten of 5 min mono 48 kHz 24-bit, 8 takes, 200 pieces: at most 1.3 times the wall time of a
// synced copy of the result, at least 10 times less processor time than sox splicing the same. All three are
// measured here, side by side; "cpu_ms" is what the process, its threads and its children took. Flattening
// reads back what it wrote and renders the composite anew to compare it.
#include <benchmark/benchmark.h>
#include <fcntl.h>
#include <sys/resource.h>
#include <unistd.h>

#include <cstdlib>
#include <fstream>

#include "big_session.h"
#include "core/plan/flatten.h"

namespace {

using namespace yewdrift;
using namespace yewdrift::bench;

SessionFolder session() {
  return makeBigSession({"flatten", 1, 8, 300.0, 200, true});
}

/// What this process and those it waited for took of the processors so far.
double processorMilliseconds() {
  double sum = 0.0;
  for (const int who : {RUSAGE_SELF, RUSAGE_CHILDREN}) {
    rusage used{};
    ::getrusage(who, &used);
    for (const timeval& part : {used.ru_utime, used.ru_stime})
      sum += 1000.0 * static_cast<double>(part.tv_sec) + static_cast<double>(part.tv_usec) / 1000.0;
  }
  return sum;
}

/// Measures each time round, and tells the mean.
template <typename Act>
void measure(benchmark::State& state, Act act) {
  double used = 0.0;
  for (auto unused : state) {
    const double before = processorMilliseconds();
    act();
    used += processorMilliseconds() - before;
  }
  state.counters["cpu_ms"] = benchmark::Counter(used, benchmark::Counter::kAvgIterations);
}

void sync(const std::filesystem::path& path) {
  const int file = ::open(path.c_str(), O_RDONLY);
  ::fsync(file);
  ::close(file);
}

void flattenFiveMinutes(benchmark::State& state) {
  const SessionFolder folder = session();
  const TrackId id = folder.session().tracks.front()->id;
  std::string made;
  measure(state, [&] { made = renderComposite(folder.disk(), folder.session(), id).file.path; });
  for (const auto& each : std::filesystem::directory_iterator(folder.path() / "audio"))
    if (each.path().filename().string().find("flattened") != std::string::npos)
      std::filesystem::remove(each.path());
}
BENCHMARK(flattenFiveMinutes)->Unit(benchmark::kMillisecond)->UseRealTime();

void copyTheFile(benchmark::State& state) {
  const SessionFolder folder = session();
  measure(state, [&] {
    // Copied through memory and synced, as a flattened file is; the file system's own clone would copy
    // nothing.
    std::ifstream in(folder.path() / folder.session().pool->front().path, std::ios::binary);
    std::ofstream out(workFolder() / "copied.wav", std::ios::binary);
    out << in.rdbuf();
    out.close();
    sync(workFolder() / "copied.wav");
  });
}
BENCHMARK(copyTheFile)->Unit(benchmark::kMillisecond)->UseRealTime();

void soxSplicesTheSame(benchmark::State& state) {
  const SessionFolder folder = session();
  const auto& pool = *folder.session().pool;
  const std::int64_t length = pool.front().length.count;
  const std::int64_t step = length / 200;
  // Each piece trimmed from its take with 5 ms more on either side, then spliced with 10 ms crossfades.
  std::string inputs;
  std::string splices;
  for (int piece = 0; piece < 200; ++piece) {
    const std::int64_t from = std::max<std::int64_t>(0, piece * step - 240);
    const std::int64_t to = std::min(length, piece * step + step + 240);
    inputs += " \"|sox " + (folder.path() / pool[static_cast<std::size_t>(piece % 8)].path).string() +
              " -p trim " + std::to_string(from) + "s =" + std::to_string(to) + "s\"";
    if (piece < 199) splices += " " + std::to_string((piece + 1) * step + 240) + "s,240s,0";
  }
  const std::string command = "sox --combine concatenate" + inputs + " " +
                              (workFolder() / "spliced.wav").string() + " splice -q" + splices +
                              " >/dev/null 2>&1";
  measure(state, [&] {
    if (std::system(command.c_str()) != 0) state.SkipWithError("sox failed");
  });
}
BENCHMARK(soxSplicesTheSame)->Unit(benchmark::kMillisecond)->UseRealTime()->Iterations(3);

}  // namespace
