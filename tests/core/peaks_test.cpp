// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/peaks.h"

#include "core/core_tests.h"

namespace {

/// What a stretch of a signal holds, sample by sample.
Peak plainPeak(const Samples& signal, std::int64_t from, std::int64_t to) {
  const auto first = signal.begin() + from;
  const auto last = signal.begin() + std::min(to, static_cast<std::int64_t>(signal.size()));
  const auto [low, high] = std::minmax_element(first, last);
  double squares = 0.0;
  for (auto it = first; it != last; ++it) squares += static_cast<double>(*it) * *it;
  return {*low, *high, static_cast<float>(std::sqrt(squares / static_cast<double>(last - first)))};
}

/// Noise that swells and leans to one side, so that no stretch is like its neighbour or symmetrical.
Samples unevenNoise(std::size_t frames, unsigned seed) {
  Samples signal = noise(frames, seed);
  for (std::size_t i = 0; i < frames; ++i)
    signal[i] = signal[i] * (0.2F + 0.7F * static_cast<float>(i % 7001) / 7001.0F) +
                0.1F * static_cast<float>(i) / static_cast<float>(frames);
  return signal;
}

void checkPeak(const Peak& peak, const Peak& expected) {
  REQUIRE(peak.low == expected.low);
  REQUIRE(peak.high == expected.high);
  REQUIRE(peak.rms == Approx(expected.rms).epsilon(1e-4));
}

}  // namespace

TEST_CASE("Every level holds the lowest, the highest and the root mean square of its stretches") {
  const Samples signal = unevenNoise(std::size_t{256} * 4 * 4 * 4 * 3, 1);
  PeakPyramid pyramid;
  pyramid.append(signal);
  // 192 stretches of 256 samples, then a quarter as many at each level, up to one for all.
  REQUIRE(pyramid.levels().size() == 5);
  std::int64_t span = 256;
  for (const auto& level : pyramid.levels()) {
    const auto length = static_cast<std::int64_t>(signal.size());
    REQUIRE(static_cast<std::int64_t>(level.size()) == (length + span - 1) / span);
    for (std::size_t i = 0; i < level.size(); ++i) {
      const std::int64_t from = static_cast<std::int64_t>(i) * span;
      checkPeak(level[i], plainPeak(signal, from, from + span));
    }
    span *= 4;
  }
  // A sine's root mean square is its peak over the square root of two (common practice).
  PeakPyramid tone;
  tone.append(sine(48000, 750.0, 48000.0, 0.8F));  // 64 samples a cycle
  CHECK(tone.over(0, 48000).rms == Approx(0.8 / std::sqrt(2.0)).epsilon(1e-3));
  CHECK(tone.over(0, 48000).high == Approx(0.8).epsilon(1e-3));
  CHECK(tone.over(0, 48000).low == Approx(-0.8).epsilon(1e-3));
}

TEST_CASE("Peaks at every zoom are those of the samples asked for, to half of what is asked at most") {
  const Samples signal = unevenNoise(100000, 1);
  PeakPyramid whole;
  whole.append(signal);
  PeakPyramid pieces;
  std::mt19937 random(2);
  for (std::size_t at = 0; at < signal.size();) {
    const std::size_t n = std::min<std::size_t>(1 + random() % 3000, signal.size() - at);
    pieces.append(std::span(signal).subspan(at, n));
    at += n;
  }
  CHECK(whole.length() == 100000);
  CHECK(pieces.length() == 100000);
  CHECK(whole.levels().size() == pieces.levels().size());
  for (int trial = 0; trial < 500; ++trial) {
    const auto from = static_cast<std::int64_t>(random() % 99000);
    const auto to = from + 1 + static_cast<std::int64_t>(random() % static_cast<unsigned>(100000 - from));
    std::int64_t stretch = 256;
    while (stretch * 4 * 2 <= to - from) stretch *= 4;
    const Peak expected = plainPeak(signal, from / stretch * stretch, (to + stretch - 1) / stretch * stretch);
    const Peak peak = whole.over(from, to);
    REQUIRE(peak.low == expected.low);
    REQUIRE(peak.high == expected.high);
    // The last stretch is shorter and counts as much, so that it may lean a little.
    REQUIRE(peak.rms == Approx(expected.rms).epsilon(to > 98304 ? 0.1 : 1e-4));
    REQUIRE(pieces.over(from, to).low == peak.low);
    REQUIRE(pieces.over(from, to).high == peak.high);
    REQUIRE(pieces.over(from, to).rms == Approx(peak.rms).margin(1e-5));
  }
  CHECK(whole.over(200000, 300000) == Peak{});
  CHECK(whole.over(-500, 0) == Peak{});
  CHECK(whole.over(300, 300) == Peak{});
  checkPeak(whole.over(-500, 1), plainPeak(signal, 0, 256));
}

TEST_CASE("Peaks are cached, and measured anew when the file changes") {
  const TemporaryFolder temporary;
  SessionFolder folder = sessionWithLanes(temporary / "s", {noise(30000, 1)});
  const PoolFile file = folder.session().pool->front();
  const std::atomic<bool> never{false};
  const auto first = loadPeaks(folder.disk(), file, never);
  REQUIRE(first.size() == 1);
  REQUIRE(fs::exists(folder.path() / "cache"));
  CHECK(loadPeaks(folder.disk(), file, never).front().levels() == first.front().levels());
  // Every channel by itself.
  writeWave(folder.path() / "audio" / "three.wav", {noise(9000, 1), noise(9000, 2), noise(9000, 3)});
  const PoolFile three{"audio/three.wav", 3, {9000}};
  const auto measured = loadPeaks(folder.disk(), three, never);
  const auto again = loadPeaks(folder.disk(), three, never);
  REQUIRE(measured.size() == 3);
  REQUIRE(again.size() == 3);
  for (std::size_t channel = 0; channel < 3; ++channel)
    CHECK(again[channel].levels() == measured[channel].levels());
  CHECK_FALSE(measured[1].levels() == measured[2].levels());
  writeWave(audioPath(folder, file), {Samples(30000, 0.125F)}, 48000, SampleFormat::Float32);
  fs::last_write_time(audioPath(folder, file), fs::file_time_type::clock::now() + std::chrono::seconds(3));
  CHECK(loadPeaks(folder.disk(), file, never).front().over(0, 30000).high == 0.125F);
  fs::remove(audioPath(folder, file));
  CHECK(loadPeaks(folder.disk(), file, never).front().length() == 0);
  const std::atomic<bool> atOnce{true};
  writeWave(audioPath(folder, file), {Samples(30000, 0.5F)});
  CHECK(loadPeaks(folder.disk(), file, atOnce).empty());
}
