// SPDX-License-Identifier: GPL-3.0-or-later
//
// Where phrases begin and end, and where a wave crosses zero.
#include "core/signal/phrases.h"

#include <catch2/catch.hpp>
#include <cmath>

#include "support.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

constexpr SampleRate rate{48000};

struct Tone {
  Span at;
  double decibels;  // of its root mean square
};

/// Ten seconds in which only those tones sound.
PeakPyramid sounding(const std::vector<Tone>& tones) {
  Samples samples(480000, 0.0F);
  const Samples tone = sine(480000, 1500.0, 48000.0, 1.0F);  // eight cycles in 256 samples
  for (const auto& [at, decibels] : tones) {
    const float level = std::sqrt(2.0F) * static_cast<float>(std::pow(10.0, decibels / 20.0));
    for (std::int64_t i = at.start.count; i < at.end.count; ++i)
      samples[static_cast<std::size_t>(i)] = level * tone[static_cast<std::size_t>(i)];
  }
  PeakPyramid peaks;
  peaks.append(samples);
  return peaks;
}

std::vector<Span> phrasesOf(const std::vector<Tone>& tones) {
  const PeakPyramid peaks = sounding(tones);
  return findPhrases(std::vector<TakePeaks>{{&peaks, {}, {{0}, {480000}}}}, rate);
}

}  // namespace

TEST_CASE("A rest lasts a quarter of a second at least") {
  // A quarter of a second is 12,000 frames; stretches are 256 frames long.
  const Tone first{{{25600}, {51200}}, -12.0};
  CHECK(phrasesOf({first, {{{51200 + 46 * 256}, {102400}}, -12.0}}) ==
        std::vector<Span>{{{25600}, {102400}}});
  CHECK(phrasesOf({first, {{{51200 + 47 * 256}, {102400}}, -12.0}}) ==
        std::vector<Span>{{{25600}, {51200}}, {{51200 + 47 * 256}, {102400}}});
}

TEST_CASE("What is 35 dB below the loudest moment, or below -50 dB, is a rest") {
  const Tone loud{{{25600}, {51200}}, -10.0};
  const Span later{{102400}, {128000}};
  CHECK(phrasesOf({loud, {later, -44.5}}).size() == 2);
  CHECK(phrasesOf({loud, {later, -45.5}}).size() == 1);
  // Where all is quiet, what is below -50 dB is none the less nothing.
  const Tone quiet{{{25600}, {51200}}, -30.0};
  CHECK(phrasesOf({quiet, {later, -49.5}}).size() == 2);
  CHECK(phrasesOf({quiet, {later, -50.5}}).size() == 1);
  CHECK(phrasesOf({{{{25600}, {51200}}, -50.5}}).empty());
}

TEST_CASE("Only what is audible of a take counts, where the take lies") {
  const PeakPyramid peaks = sounding({{{{0}, {25600}}, -12.0}, {{{102400}, {204800}}, -12.0}});
  // The take lies 51,200 frames late, and is audible from the middle of its second phrase on.
  const std::vector<TakePeaks> takes{{&peaks, {51200}, {{204800}, {480000}}}};
  CHECK(findPhrases(takes, rate) == std::vector<Span>{{{204800}, {256000}}});
  // The last phrase ends where what is audible ends, in the middle of a stretch too.
  const std::vector<TakePeaks> cut{{&peaks, {51200}, {{204800}, {230500}}}};
  CHECK(findPhrases(cut, rate) == std::vector<Span>{{{204800}, {230500}}});
}

TEST_CASE("Phrases lie between the rests that all takes share") {
  auto take = [](std::vector<Span> sounding) {
    Samples samples(480000, 0.0F);
    const Samples tone = sine(480000, 220.0, 48000.0);
    for (const Span span : sounding)
      for (std::int64_t i = span.start.count; i < span.end.count; ++i)
        samples[static_cast<std::size_t>(i)] = tone[static_cast<std::size_t>(i)];
    PeakPyramid peaks;
    peaks.append(samples);
    return peaks;
  };
  const PeakPyramid first = take({{{48000}, {96000}}, {{144000}, {200000}}});
  const PeakPyramid second = take({{{40000}, {90000}}, {{150000}, {240000}}});
  const Span all{{0}, {480000}};
  const std::vector<TakePeaks> takes{{&first, {}, all}, {&second, {}, all}};
  const auto phrases = findPhrases(takes, rate);
  REQUIRE(phrases.size() == 2);
  CHECK(std::abs(phrases[0].start.count - 40000) <= 256);
  CHECK(std::abs(phrases[0].end.count - 96000) <= 256);
  CHECK(std::abs(phrases[1].start.count - 144000) <= 256);
  CHECK(std::abs(phrases[1].end.count - 240000) <= 256);
  CHECK(findPhrases({}, rate).empty());
  const PeakPyramid silent = take({});
  CHECK(findPhrases(std::vector<TakePeaks>{{&silent, {}, all}}, rate).empty());
}

TEST_CASE("The nearest zero crossing, on either side, or where there is none the place itself") {
  const Samples tone = sine(4800, 100.0, 48000.0);
  for (int at = 300; at < 4500; at += 77) {
    const int found = nearestCrossing(tone, at);
    CHECK(std::abs(found - at) <= 121);
    CHECK(std::abs(tone[static_cast<std::size_t>(found)]) < 0.01F);
  }
  CHECK(nearestCrossing(Samples(100, 0.5F), 50) == 50);
}
