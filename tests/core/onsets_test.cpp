// SPDX-License-Identifier: GPL-3.0-or-later
//
// Where sounds begin: against planted onsets, and against aubio's own command-line tool on generated sounds
// and on recorded speech (Debian package alsa-utils).
#include "core/signal/onsets.h"

#include "core/core_tests.h"

namespace {

/// Plucked: begins within a millisecond and dies away.
void pluck(Samples& samples, std::int64_t at, double hertz, double rate, float level) {
  const auto length = static_cast<std::int64_t>(0.25 * rate);
  for (std::int64_t i = 0; i < length && at + i < static_cast<std::int64_t>(samples.size()); ++i) {
    const double t = static_cast<double>(i) / rate;
    double tone = 0.0;
    for (int partial = 1; partial <= 6; ++partial)
      tone += std::sin(2.0 * 3.141592653589793 * hertz * partial * t) / partial;
    samples[static_cast<std::size_t>(at + i)] +=
        level * static_cast<float>(tone * std::exp(-t * 12.0) * std::min(1.0, t / 0.001));
  }
}

std::vector<Frames> findOnsets(std::span<const float> samples, SampleRate rate) {
  OnsetFinder finder(rate);
  finder.add(samples);
  return finder.finish();
}

struct Planted {
  Samples samples;
  std::vector<Frames> at;
};

Planted plucks(SampleRate rate, float noiseLevel) {
  std::mt19937 random(20261);
  Planted planted{noise(static_cast<std::size_t>(rate.hertz) * 12, 7, noiseLevel), {}};
  double seconds = 0.5;
  while (seconds < 11.5) {
    const Frames at = framesFromSeconds(seconds, rate);
    planted.at.push_back(at);
    pluck(planted.samples, at.count, std::uniform_real_distribution(110.0, 880.0)(random), rate.hertz,
          std::uniform_real_distribution(0.1F, 0.3F)(random));
    seconds += std::uniform_real_distribution(0.2, 0.6)(random);
  }
  return planted;
}

/// How many of `wanted` have one of `found` within that many seconds.
std::size_t matched(const std::vector<Frames>& wanted, const std::vector<Frames>& found, double seconds,
                    SampleRate rate) {
  std::size_t count = 0;
  for (const Frames at : wanted)
    count += std::any_of(found.begin(), found.end(), [&](Frames other) {
      return std::abs(secondsFromFrames(other - at, rate)) <= seconds;
    });
  return count;
}

std::vector<Frames> byAubio(const fs::path& file, SampleRate rate) {
  const ToolResult result = shell("aubioonset -i " + file.string() + " -r " + std::to_string(rate.hertz) +
                                  " -B 1024 -H 256 -s -60 -M 0.03");
  REQUIRE(result.status == 0);
  std::istringstream lines(result.out);
  std::vector<Frames> onsets;
  for (double seconds = 0; lines >> seconds;) onsets.push_back(framesFromSeconds(seconds, rate));
  return onsets;
}

}  // namespace

TEST_CASE("Planted onsets are found to a few milliseconds, at every rate, and none besides") {
  for (const SampleRate rate :
       {SampleRate{44100}, SampleRate{48000}, SampleRate{96000}, SampleRate{192000}}) {
    const Planted planted = plucks(rate, 0.0005F);
    const auto found = findOnsets(planted.samples, rate);
    INFO(rate.hertz << " Hz, " << planted.at.size() << " planted, " << found.size() << " found");
    CHECK(matched(planted.at, found, 0.003, rate) == planted.at.size());
    CHECK(matched(found, planted.at, 0.003, rate) == found.size());
    CHECK(std::is_sorted(found.begin(), found.end()));
    // On the whole neither early nor late.
    REQUIRE(found.size() == planted.at.size());
    double late = 0.0;
    for (std::size_t i = 0; i < found.size(); ++i) late += secondsFromFrames(found[i] - planted.at[i], rate);
    CHECK(std::abs(late / static_cast<double>(found.size())) < 0.0007);
  }
}

TEST_CASE("Nothing begins in silence, in hum, or in a signal shorter than a window") {
  const SampleRate rate{48000};
  CHECK(findOnsets(Samples(96000, 0.0F), rate).empty());
  CHECK(findOnsets({}, rate).empty());
  CHECK(findOnsets(sine(96000, 50.0, 48000.0, 0.0005F), rate).empty());
  // Direct current at full scale begins once at most.
  CHECK(findOnsets(Samples(96000, 1.0F), rate).size() <= 1);
}

TEST_CASE("Onsets are those that aubio's command-line tool finds") {
  const TemporaryFolder folder;
  const SampleRate rate{48000};
  std::vector<fs::path> files{folder / "plucks.wav"};
  writeWave(files[0], {plucks(rate, 0.001F).samples});
  for (const char* name : {"Front_Center", "Rear_Left", "Side_Right"}) {
    files.push_back("/usr/share/sounds/alsa/" + std::string(name) + ".wav");
    REQUIRE(fs::exists(files.back()));
  }
  for (const fs::path& file : files) {
    const auto wanted = byAubio(file, rate);
    const auto found = findOnsets(readWave(file)[0], rate);
    INFO(file << ": " << wanted.size() << " by aubio, " << found.size() << " here");
    REQUIRE(!wanted.empty());
    // Ours are moved to the attack; 50 ms is what onset detection is judged by (common practice).
    CHECK(matched(wanted, found, 0.050, rate) == wanted.size());
    CHECK(matched(found, wanted, 0.050, rate) == found.size());
  }
}
