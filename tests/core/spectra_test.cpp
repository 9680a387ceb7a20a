// SPDX-License-Identifier: GPL-3.0-or-later
//
// Spectra in critical bands: tones in their band with their level, sums as Parseval has them.
#include "core/core_tests.h"

#include "core/signal/spectra.h"

namespace {

constexpr SampleRate usualRate{48000};
constexpr Frames step{480};

std::vector<BandLevels> spectraOf(const Samples& samples, SampleRate at = usualRate) {
  SpectraFollower follower(at, {at.hertz / 100});
  follower.add(samples);
  return follower.finish();
}

Samples tone(double hertz, float amplitude, std::size_t frames, SampleRate at = usualRate) {
  Samples samples(frames);
  for (std::size_t i = 0; i < frames; ++i)
    samples[i] =
        amplitude *
        static_cast<float>(std::sin(2.0 * std::numbers::pi * hertz * static_cast<double>(i) / at.hertz));
  return samples;
}

double powerOf(const BandLevels& levels) {
  double sum = 0.0;
  for (const std::uint8_t level : levels) sum += std::pow(10.0, bandDecibels(level) / 10.0);
  return sum;
}

}  // namespace

TEST_CASE("A tone is in its critical band with its mean square, and not in those two bands away") {
  // Zwicker, JASA 33 (1961): 440 Hz lies in the fifth band (400 to 510 Hz), 1 kHz in the ninth (920 to
  // 1,080), 10 kHz in the twenty-third (9.5 to 12 kHz).
  for (const auto& [hertz, band] : {std::pair{440.0, 4U}, {1000.0, 8U}, {10000.0, 22U}}) {
    const auto spectra = spectraOf(tone(hertz, 0.5F, 48000));
    REQUIRE(spectra.size() == 100);
    for (std::size_t at = 2; at < 98; ++at) {
      const BandLevels& levels = spectra[at];
      REQUIRE(std::max_element(levels.begin(), levels.end()) - levels.begin() == band);
      // 0.5 of full scale: a mean square of 0.125, -9.03 dB.
      REQUIRE(10.0 * std::log10(powerOf(levels)) == Approx(-9.03).margin(0.3));
      for (std::size_t other = 0; other < bandCount; ++other)
        if (other + 2 < band || other > band + 2) REQUIRE(bandDecibels(levels[other]) < -9.03 - 50.0);
    }
  }
}

TEST_CASE("The bands of noise sum up to its mean square below 15.5 kHz, at any rate") {
  for (const int hertz : {22050, 44100, 48000, 96000}) {
    const SampleRate at{hertz};
    const Samples samples = noise(static_cast<std::size_t>(hertz), 5, 0.4F);
    double square = 0.0;
    for (const float sample : samples) square += sample * sample;
    square /= static_cast<double>(samples.size());
    const auto spectra = spectraOf(samples, at);
    REQUIRE(spectra.size() == (hertz % 100 == 0 ? 100U : 101U));
    double mean = 0.0;
    for (std::size_t i = 5; i < 95; ++i) mean += powerOf(spectra[i]) / 90.0;
    const double share = std::min(1.0, 15500.0 / (hertz / 2.0));
    CHECK(10.0 * std::log10(mean / (square * share)) == Approx(0.0).margin(0.4));
  }
}

TEST_CASE("Spectra lie where their sound lies, however the samples come in; DC is no sound") {
  Samples samples(48000, 0.25F);
  const Samples sound = tone(1000.0, 0.5F, 4800);
  for (std::size_t i = 0; i < sound.size(); ++i) samples[24000 + i] += sound[i];
  const auto all = spectraOf(samples);
  for (std::size_t at = 3; at < 97; ++at) {
    const double level = bandDecibels(all[at][8]);
    INFO(at);
    // Sound from step 50 to 59; the window reaches 5 ms beyond a step on either side.
    if (at >= 51 && at <= 58) CHECK(level == Approx(-9.0).margin(1.0));
    if (at < 49 || at > 60) CHECK(level < -60.0);
  }
  SpectraFollower follower(usualRate, step);
  for (std::size_t at = 0; at < samples.size();) {
    const std::size_t count = std::min<std::size_t>(1 + at % 777, samples.size() - at);
    follower.add(std::span(samples).subspan(at, count));
    at += count;
  }
  CHECK(follower.finish() == all);
  CHECK(spectraOf({}).empty());
  CHECK(spectraOf({0.5F}).size() == 1);
  CHECK(spectraOf(Samples(481, 0.0F)) == std::vector<BandLevels>(2, BandLevels{}));
}

TEST_CASE(
    "Alike sounds are no distance apart, louder and other ones are, and what is masked does not count") {
  const BandLevels silence{};
  CHECK(spectralDistance(silence, silence) == 0.0);
  BandLevels low{};
  low[3] = 200;  // -20 dB
  BandLevels louder = low;
  louder[3] = 212;
  CHECK(spectralDistance(low, low) == 0.0);
  CHECK(spectralDistance(low, louder) == Approx(6.0));
  BandLevels other{};
  other[12] = 200;
  CHECK(spectralDistance(low, other) == Approx(50.0));
  CHECK(spectralDistance(other, low) == Approx(50.0));
  BandLevels hum = low;
  hum[20] = 90;  // 55 dB below
  CHECK(spectralDistance(low, hum) == 0.0);
  CHECK(spectralDistance(low, silence) == Approx(50.0));
}
