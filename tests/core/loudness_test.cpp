// SPDX-License-Identifier: GPL-3.0-or-later
//
// How loud: against the minimum requirements signals of EBU Tech 3341 (2016), table 1, and ffmpeg's ebur128.
#include "core/signal/loudness.h"

#include "core/core_tests.h"

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

}  // namespace

TEST_CASE("The test signals of EBU Tech 3341 read as they have to, within 0.1 LU") {
  const TemporaryFolder temporary;
  const SessionFolder folder = sessionWithLanes(temporary / "s", {});
  struct Signal {
    std::vector<Part> parts;
    double lufs;
    int rate = 48000;
  };
  for (const Signal& signal :
       {Signal{{{20.0, -23.0}}, -23.0}, Signal{{{20.0, -33.0}}, -33.0},  // cases 1, 2
        Signal{{{10.0, -36.0}, {60.0, -23.0}, {10.0, -36.0}}, -23.0},    // case 3
        Signal{{{10.0, -72.0}, {10.0, -36.0}, {60.0, -23.0}, {10.0, -36.0}, {10.0, -72.0}}, -23.0},  // case 4
        Signal{{{20.0, -26.0}, {20.1, -20.0}, {20.0, -26.0}}, -23.0},                                // case 5
        Signal{{{20.0, -23.0}}, -23.0, 96000}}) {
    const Samples samples = stereoTone(signal.parts, signal.rate);
    CHECK(measured(samples, 2, {signal.rate}).lufs.value() == Approx(signal.lufs).margin(0.1));
    if (signal.parts.size() < 5) continue;
    // From what is kept of a file in steps of 10 ms likewise: both gates count in this one.
    Samples side;
    for (std::size_t i = 0; i < samples.size(); i += 2) side.push_back(samples[i]);
    const std::string name = newAudio(folder, "tone");
    writeWave(folder.path() / name, {side, side}, signal.rate, SampleFormat::Float32);
    const FileAnalysis known = analyseFile(folder.disk(), {name, 2, {static_cast<std::int64_t>(side.size())}},
                                           {signal.rate}, std::atomic<bool>{false});
    CHECK(loudnessOf(known.levels).lufs.value() == Approx(signal.lufs).margin(0.1));
  }
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
