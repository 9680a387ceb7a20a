// SPDX-License-Identifier: GPL-3.0-or-later
//
// How loud: against the minimum requirements signals of EBU Tech 3341 (2016), table 1, and ffmpeg's ebur128.
#include "core/signal/loudness.h"

#include <catch2/catch.hpp>
#include <cmath>
#include <limits>
#include <regex>

#include "support.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

struct Part {
  double seconds;
  double decibels;  // peak level of a stereo sine of 1 kHz
};

Samples stereoTone(const std::vector<Part>& parts, double rate = 48000.0) {
  Samples samples;
  std::int64_t at = 0;
  for (const Part& part : parts) {
    const double level = std::pow(10.0, part.decibels / 20.0);
    for (std::int64_t i = 0; i < std::llround(part.seconds * rate); ++i, ++at) {
      const auto sample = static_cast<float>(
          level * std::sin(2.0 * 3.141592653589793 * 1000.0 * static_cast<double>(at) / rate));
      samples.insert(samples.end(), {sample, sample});
    }
  }
  return samples;
}

Loudness measured(const Samples& interleaved, int channels, SampleRate rate = {48000}) {
  LoudnessMeter meter(channels, rate);
  meter.add(interleaved);
  return meter.finish();
}

Loudness of(double lufs, float peak) {
  Loudness loudness;
  loudness.lufs = lufs;
  loudness.peak = peak;
  return loudness;
}

}  // namespace

TEST_CASE("The test signals of EBU Tech 3341 read as they have to, within 0.1 LU") {
  CHECK(measured(stereoTone({{20.0, -23.0}}), 2).lufs.value() == Approx(-23.0).margin(0.1));  // case 1
  CHECK(measured(stereoTone({{20.0, -33.0}}), 2).lufs.value() == Approx(-33.0).margin(0.1));  // case 2
  CHECK(measured(stereoTone({{10.0, -36.0}, {60.0, -23.0}, {10.0, -36.0}}), 2).lufs.value() ==
        Approx(-23.0).margin(0.1));  // case 3
  CHECK(measured(stereoTone({{10.0, -72.0}, {10.0, -36.0}, {60.0, -23.0}, {10.0, -36.0}, {10.0, -72.0}}), 2)
            .lufs.value() == Approx(-23.0).margin(0.1));  // case 4
  CHECK(measured(stereoTone({{20.0, -26.0}, {20.1, -20.0}, {20.0, -26.0}}), 2).lufs.value() ==
        Approx(-23.0).margin(0.1));  // case 5
  CHECK(measured(stereoTone({{20.0, -23.0}}, 96000.0), 2, {96000}).lufs.value() == Approx(-23.0).margin(0.1));
}

TEST_CASE("Loudness is what ffmpeg measures") {
  const TemporaryFolder folder;
  const fs::path file = folder / "n.wav";
  Samples left = noise(480000, 5, 0.1F);
  Samples right = noise(480000, 6, 0.3F);
  for (std::size_t i = 200000; i < 300000; ++i) left[i] = right[i] = 0.0F;
  writeWave(file, {left, right});
  const ToolResult result =
      shell("ffmpeg -nostats -hide_banner -i " + file.string() + " -filter_complex ebur128 -f null -");
  REQUIRE(result.status == 0);
  std::smatch found;
  const std::string report = result.err.substr(result.err.rfind("Summary"));
  REQUIRE(std::regex_search(report, found, std::regex("I: *(-?[0-9.]+) LUFS")));
  Samples both;
  for (std::size_t i = 0; i < left.size(); ++i) both.insert(both.end(), {left[i], right[i]});
  CHECK(measured(both, 2).lufs.value() == Approx(std::stod(found[1])).margin(0.1));
}

TEST_CASE("A phrase shorter than a gating block has a loudness too, silence has none") {
  const Samples brief = stereoTone({{0.1, -23.0}});
  CHECK(measured(brief, 2).lufs.value() == Approx(-23.0).margin(0.2));
  CHECK(measured(stereoTone({{0.39, -23.0}}), 2).lufs.value() == Approx(-23.0).margin(0.2));
  CHECK_FALSE(measured(Samples(96000, 0.0F), 2).lufs);
  CHECK_FALSE(measured({}, 1).lufs);
  CHECK_FALSE(measured(stereoTone({{1.0, -90.0}}), 2).lufs);
  CHECK(measured({}, 1).peak == 0.0F);
}

TEST_CASE("The peak is the largest sample, and overs are moments at full scale") {
  Samples samples(4800, 0.1F);
  samples[100] = -0.7F;
  CHECK(measured(samples, 1).peak == 0.7F);
  CHECK(measured(samples, 1).overs == 0);
  samples[200] = samples[201] = samples[202] = 1.0F;  // one moment
  samples[300] = -1.0F;
  samples[400] = 0.99996F;  // not quite
  Loudness loudness = measured(samples, 1);
  CHECK(loudness.overs == 2);
  CHECK(loudness.peak == 1.0F);
  // In stereo each side is looked at: the same samples are every other one.
  Samples sides(9600, 0.0F);
  sides[200] = 1.0F;
  sides[201] = 1.0F;
  sides[202] = 1.0F;
  CHECK(measured(sides, 2).overs == 2);
  // The largest sample of 16 bits is full scale, the one below it is not.
  Samples steps(48000);
  steps[100] = 32767.0F / 32768.0F;
  steps[200] = -32767.0F / 32768.0F;
  steps[300] = 32766.0F / 32768.0F;
  CHECK(measured(steps, 1).overs == 2);
  // Handed over in pieces, a moment is still one.
  LoudnessMeter meter(1, {48000});
  meter.add(std::span(samples).first(201));
  meter.add(std::span(samples).subspan(201));
  CHECK(meter.finish().overs == 2);
}

TEST_CASE("What is not finite counts as silence") {
  Samples samples = stereoTone({{2.0, -23.0}});
  const double was = measured(samples, 2).lufs.value();
  samples[1000] = std::numeric_limits<float>::quiet_NaN();
  samples[1001] = std::numeric_limits<float>::infinity();
  const Loudness loudness = measured(samples, 2);
  CHECK(loudness.lufs.value() == Approx(was).margin(0.01));
  CHECK(loudness.overs == 0);
  // They are silence, wherever they are.
  Samples broken(96000, 0.0F);
  for (std::size_t i = 0; i < broken.size(); i += 7) broken[i] = std::numeric_limits<float>::quiet_NaN();
  CHECK(measured(broken, 2).peak == 0.0F);
  CHECK_FALSE(measured(broken, 2).lufs);
}

TEST_CASE("Microphones of a set count alike") {
  Samples four;
  const Samples two = stereoTone({{2.0, -23.0}});
  for (std::size_t i = 0; i < two.size(); i += 2) four.insert(four.end(), {0.0F, 0.0F, two[i], two[i + 1]});
  CHECK(measured(four, 4).lufs.value() == Approx(-23.0).margin(0.1));
}

TEST_CASE("Takes are matched to the middle one, and none is turned up until it clips") {
  const auto gains = [](const std::vector<Loudness>& takes) {
    std::vector<double> values;
    for (const Decibels gain : levelMatch(takes)) values.push_back(gain.value);
    return values;
  };
  using Values = std::vector<double>;
  CHECK(gains({}) == Values{});
  CHECK(gains({of(-20.0, 0.1F), of(-26.0, 0.1F), of(-23.0, 0.1F)}) == Values{-3.0, 3.0, 0.0});
  // The quiet one has only 2 dB left: all are as loud as it can be.
  const auto limited = gains({of(-20.0, 0.1F), of(-26.0, std::pow(10.0F, -0.1F)), of(-23.0, 0.1F)});
  CHECK(limited[0] == Approx(-4.0).margin(1e-5));
  CHECK(limited[1] == Approx(2.0).margin(1e-5));
  CHECK(limited[2] == Approx(-1.0).margin(1e-5));
  // One that is over stays where it is, or is turned down.
  CHECK(gains({of(-10.0, 1.2F), of(-10.0, 0.5F)}) == Values{0.0, 0.0});
  CHECK(gains({of(-12.0, 1.2F), of(-10.0, 0.5F), of(-10.0, 0.5F)}) == Values{0.0, -2.0, -2.0});
  // What is 20 dB below the others holds them back if it cannot be turned up; what is quieter still does not.
  CHECK(gains({of(-20.0, 0.1F), of(-20.0, 0.1F), of(-40.0, 1.0F)}) == Values{-20.0, -20.0, 0.0});
  CHECK(gains({of(-20.0, 0.1F), of(-20.0, 0.1F), of(-40.25, 1.0F)}) == Values{0.0, 0.0, 0.0});
  const auto far = gains({of(-20.0, 0.3F), of(-20.0, 0.3F), of(-60.0, 0.5F)});
  CHECK(far[0] == 0.0);
  CHECK(far[2] == Approx(6.0206).margin(1e-3));
  CHECK(gains({Loudness{}, of(-20.0, 0.1F)}) == Values{0.0, 0.0});
}
