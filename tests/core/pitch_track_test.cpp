// SPDX-License-Identifier: GPL-3.0-or-later
//
// How high: against tones of known frequency (A4 = 440 Hz, ISO 16) and aubio's own command-line tool.
#include "core/core_tests.h"

namespace {

/// A tone with overtones, as an instrument has.
Samples tone(double hertz, double rate, double seconds, float level = 0.3F) {
  Samples samples(static_cast<std::size_t>(seconds * rate));
  for (int partial = 1; partial <= 5 && partial * hertz < rate / 2; ++partial) {
    const Samples one = sine(samples.size(), partial * hertz, rate, level / static_cast<float>(partial));
    for (std::size_t i = 0; i < samples.size(); ++i) samples[i] += one[i];
  }
  return samples;
}

double middlePitch(const Samples& samples, SampleRate rate) {
  const PitchTrack track = trackPitch(samples, rate);
  return medianOf(track.voicedIn({}, {static_cast<std::int64_t>(samples.size())}));
}

}  // namespace

TEST_CASE("Tones of known frequency are tracked within three cents, at every rate") {
  for (const SampleRate rate : {SampleRate{44100}, SampleRate{48000}, SampleRate{96000}, SampleRate{192000}})
    for (const double hertz : {82.41, 110.0, 196.0, 261.63, 440.0, 659.26, 1046.5, 2093.0}) {
      INFO(hertz << " Hz at " << rate.hertz);
      CHECK(middlePitch(tone(hertz, rate.hertz, 1.0), rate) == Approx(centsOf(hertz).value).margin(3.0));
    }
}

TEST_CASE("A pitch stands where it sounds, and nowhere else") {
  const SampleRate rate{48000};
  Samples samples(48000, 0.0F);
  const Samples first = tone(440.0, 48000.0, 1.0);
  const Samples second = tone(554.37, 48000.0, 1.0);  // C#5
  samples.insert(samples.end(), first.begin(), first.end());
  samples.insert(samples.end(), second.begin(), second.end());
  samples.resize(samples.size() + 48000, 0.0F);
  const PitchTrack track = trackPitch(samples, rate);
  CHECK(track.step == Frames{512});
  CHECK(track.cents.size() == (samples.size() + 511) / 512);
  CHECK(track.voicedIn({0}, {46000}).empty());
  CHECK(track.voicedIn({147000}, {192000}).empty());
  const auto a = track.voicedIn({50000}, {94000});
  const auto c = track.voicedIn({98000}, {142000});
  CHECK(a.size() >= 44000 / 512 - 1);
  CHECK(c.size() >= 44000 / 512 - 1);
  for (const float value : a) CHECK(value == Approx(6900.0F).margin(4.0));
  for (const float value : c) CHECK(value == Approx(7300.0F).margin(4.0));
  // Between the two it changes in the window that holds both.
  std::int64_t change = 0;
  for (std::size_t i = 100; i < 280; ++i)
    if (track.cents[i] > 7100.0F && change == 0) change = static_cast<std::int64_t>(i) * 512;
  CHECK(std::abs(change - 96000) <= 1024);
}

TEST_CASE("Noise, silence and what is hardly there have no pitch") {
  const SampleRate rate{48000};
  const auto voiced = [&](const Samples& samples) {
    return trackPitch(samples, rate).voicedIn({}, {1'000'000}).size();
  };
  CHECK(voiced(Samples(48000, 0.0F)) == 0);
  CHECK(voiced({}) == 0);
  CHECK(voiced(tone(440.0, 48000.0, 1.0, 0.0005F)) == 0);
  CHECK(voiced(noise(48000, 3)) <= 3);
  CHECK(std::isnan(medianOf({})));
  CHECK(medianOf({3.0F, 1.0F, 2.0F}) == 2.0);
  CHECK(medianOf({4.0F, 1.0F, 2.0F, 3.0F}) == 2.5);
}

TEST_CASE("Pitches are those that aubio's command-line tool finds") {
  const TemporaryFolder folder;
  const SampleRate rate{48000};
  const fs::path file = folder / "tones.wav";
  Samples samples;
  for (const double hertz : {146.83, 220.0, 329.63, 493.88}) {
    const Samples one = tone(hertz, 48000.0, 0.5);
    samples.insert(samples.end(), one.begin(), one.end());
  }
  writeWave(file, {samples});
  const ToolResult result = shell("aubiopitch -i " + file.string() + " -r 48000 -p yinfast -B 2048 -H 512");
  REQUIRE(result.status == 0);
  std::istringstream lines(result.out);
  const PitchTrack track = trackPitch(samples, rate);
  int compared = 0;
  double seconds = 0.0;
  for (double hertz = 0.0; lines >> seconds >> hertz;) {
    // The tool names the hop; its value is of the window that ends there, two hops of whose middle are ours.
    const auto step = static_cast<std::size_t>(std::lround(seconds * 48000.0 / 512.0));
    if (hertz < 50.0 || step < 2 || step - 2 >= track.cents.size() || std::isnan(track.cents[step - 2]))
      continue;
    CHECK(track.cents[step - 2] == Approx(centsOf(hertz).value).margin(1.0));
    ++compared;
  }
  CHECK(compared > 150);
}
