// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/peaks.h"

#include <catch2/catch.hpp>
#include <random>

#include "core/store/peaks_cache.h"
#include "support.h"

using namespace yewdrift;
using namespace yewdrift::test;

TEST_CASE("Peaks at every zoom hold the loudest samples, and are the same however the signal arrives") {
  const Samples signal = noise(100000, 1);
  PeakPyramid whole;
  whole.append(signal);
  PeakPyramid pieces;
  std::mt19937 random(2);
  for (std::size_t at = 0; at < signal.size();) {
    const std::size_t n = std::min<std::size_t>(1 + random() % 3000, signal.size() - at);
    pieces.append(std::span(signal).subspan(at, n));
    at += n;
  }
  CHECK(whole.levels().size() == pieces.levels().size());
  for (int trial = 0; trial < 500; ++trial) {
    const auto from = static_cast<std::int64_t>(random() % 99000);
    const auto to = from + 1 + static_cast<std::int64_t>(random() % static_cast<unsigned>(100000 - from));
    const Peak peak = whole.over(from, to);
    const auto [low, high] = std::minmax_element(signal.begin() + from, signal.begin() + to);
    REQUIRE(peak.low <= *low);
    REQUIRE(peak.high >= *high);
    REQUIRE(pieces.over(from, to).low == peak.low);
    REQUIRE(pieces.over(from, to).rms == Approx(peak.rms).margin(1e-5));
  }
  CHECK(whole.over(200000, 300000) == Peak{});
}

TEST_CASE("A view that follows a growing signal ends with the same peaks") {
  const Samples signal = noise(50000, 3);
  PeakPyramid grown;
  PeakPyramid shown;
  for (std::size_t at = 0; at < signal.size(); at += 1111) {
    grown.append(std::span(signal).subspan(at, std::min<std::size_t>(1111, signal.size() - at)));
    const std::size_t from = shown.levels().front().empty() ? 0 : shown.levels().front().size() - 1;
    shown.replaceBase(from, std::span(grown.levels().front()).subspan(from), grown.length());
  }
  CHECK(shown.levels() == grown.levels());
}

TEST_CASE("Peaks are cached, and measured anew when the file changes") {
  const TemporaryFolder temporary;
  SessionFolder folder = sessionWithLanes(temporary / "s", {noise(30000, 1)});
  const PoolFile file = folder.session().pool->front();
  const std::atomic<bool> never{false};
  const auto first = loadPeaks(folder.path(), file, never);
  REQUIRE(first.size() == 1);
  REQUIRE(fs::exists(folder.path() / "cache"));
  CHECK(loadPeaks(folder.path(), file, never).front().levels() == first.front().levels());
  writeWave(folder.audioPath(file), {Samples(30000, 0.125F)}, 48000, SampleFormat::Float32);
  fs::last_write_time(folder.audioPath(file), fs::file_time_type::clock::now() + std::chrono::seconds(3));
  CHECK(loadPeaks(folder.path(), file, never).front().over(0, 30000).high == 0.125F);
  fs::remove(folder.audioPath(file));
  CHECK(loadPeaks(folder.path(), file, never).front().length() == 0);
  const std::atomic<bool> atOnce{true};
  writeWave(folder.audioPath(file), {Samples(30000, 0.5F)});
  CHECK(loadPeaks(folder.path(), file, atOnce).empty());
}
