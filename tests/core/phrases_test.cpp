// SPDX-License-Identifier: GPL-3.0-or-later
//
// Where phrases begin and end, and where a wave crosses zero.
#include "core/signal/phrases.h"

#include "core/core_tests.h"

#include "core/known_takes.h"

namespace {

constexpr Span all{{0}, {480000}};

struct Tone {
  Span at;
  double decibels;  // of its root mean square
};

/// Ten seconds in which only those tones sound, over noise of that level in dB.
PeakPyramid sounding(const std::vector<Tone>& tones, double noiseLevel = -200.0, unsigned seed = 1) {
  const auto level = [](double decibels) { return static_cast<float>(std::pow(10.0, decibels / 20.0)); };
  Samples samples =
      noiseLevel < -150.0 ? Samples(480000, 0.0F) : noise(480000, seed, std::sqrt(3.0F) * level(noiseLevel));
  const Samples tone = sine(480000, 1500.0, 48000.0, 1.0F);  // eight cycles in 256 samples
  for (const auto& [at, decibels] : tones)
    for (std::int64_t i = at.start.count; i < at.end.count; ++i)
      samples[static_cast<std::size_t>(i)] +=
          std::sqrt(2.0F) * level(decibels) * tone[static_cast<std::size_t>(i)];
  PeakPyramid peaks;
  peaks.append(samples);
  return peaks;
}

std::vector<Span> phrasesOf(const std::vector<PeakPyramid>& takes, const PhraseRules& rules = {}) {
  std::vector<TakePeaks> all_;
  for (const PeakPyramid& take : takes) all_.push_back({{{&take}, {}, all}});
  return findPhrases(all_, rate, rules);
}

/// Within some stretches of 256 frames.
bool near(const std::vector<Span>& found, const std::vector<Span>& wanted, std::int64_t frames = 1024) {
  if (found.size() != wanted.size()) return false;
  for (std::size_t i = 0; i < found.size(); ++i)
    if (std::abs((found[i].start - wanted[i].start).count) > frames ||
        std::abs((found[i].end - wanted[i].end).count) > frames)
      return false;
  return true;
}

}  // namespace

TEST_CASE("Phrases lie where it sounds, with rests of silence or of noise between them") {
  const std::vector<Span> planted{{{25600}, {76800}}, {{128000}, {200000}}, {{230000}, {400000}}};
  for (const double floor : {-200.0, -80.0, -60.0, -45.0}) {
    INFO("noise at " << floor << " dB");
    CHECK(near(phrasesOf({sounding({{planted[0], -12.0}, {planted[1], -20.0}, {planted[2], -15.0}}, floor)}),
               planted));
  }
  // A room as loud as 20 dB below the playing.
  CHECK(near(phrasesOf({sounding({{planted[0], -12.0}, {planted[1], -14.0}, {planted[2], -13.0}}, -33.0)}),
             planted));
}

TEST_CASE("A rest and a phrase of just the least length are one, a frame less is none") {
  const PeakPyramid peaks = sounding({{{{25600}, {51200}}, -12.0}, {{{64000}, {153600}}, -12.0}});
  const auto found = phrasesOf({peaks});
  REQUIRE(found.size() == 2);
  const auto seconds = [](Frames frames) { return static_cast<double>(frames.count) / 48000.0; };
  const Frames gap = found[1].start - found[0].end;
  PhraseRules rules;
  rules.shortestRest = seconds(gap);
  CHECK(phrasesOf({peaks}, rules) == found);
  rules.shortestRest = seconds(gap + Frames{1});
  CHECK(phrasesOf({peaks}, rules) == std::vector<Span>{{found[0].start, found[1].end}});
  rules = {};
  rules.shortestPhrase = seconds(found[0].length());
  CHECK(phrasesOf({peaks}, rules) == found);
  rules.shortestPhrase = seconds(found[0].length() + Frames{1});
  CHECK(phrasesOf({peaks}, rules) == std::vector<Span>{found[1]});
}

TEST_CASE("Of many takes one may cough in a rest; of few none") {
  const std::vector<Tone> played{{{{25600}, {76800}}, -12.0}, {{{128000}, {200000}}, -12.0}};
  std::vector<Tone> coughed = played;
  coughed.push_back({{{90000}, {115000}}, -12.0});
  std::vector<PeakPyramid> takes;
  for (unsigned i = 0; i < 5; ++i) takes.push_back(sounding(played, -70.0, i));
  takes.push_back(sounding(coughed, -70.0, 9));
  CHECK(phrasesOf(takes).size() == 2);
  takes.push_back(sounding(coughed, -70.0, 10));
  CHECK(phrasesOf(takes).size() == 3);
  CHECK(phrasesOf({sounding(played), sounding(coughed)}).size() == 3);
}

TEST_CASE("What never rests is one phrase, what never sounds is none") {
  CHECK(near(phrasesOf({sounding({{all, -20.0}})}), {all}));
  CHECK(phrasesOf({sounding({}, -200.0)}).empty());
  CHECK(phrasesOf({sounding({}, -75.0)}).empty());
  CHECK(findPhrases({}, rate).empty());
  CHECK(findPhrases(std::vector<TakePeaks>{{}}, rate).empty());
  // Two takes months apart are no part, and cost no memory.
  const PeakPyramid peaks = sounding({{all, -20.0}});
  const Frames far{std::int64_t{1} << 41};
  CHECK(findPhrases(std::vector<TakePeaks>{{{{&peaks}, {}, all}}, {{{&peaks}, far, all.shifted(far)}}}, rate)
            .empty());
}

TEST_CASE("A take that never rests has no say where most do; where most never rest it is one phrase") {
  const std::vector<Span> planted{{{25600}, {76800}}, {{128000}, {200000}}, {{230000}, {400000}}};
  const PeakPyramid good = sounding({{planted[0], -12.0}, {planted[1], -14.0}, {planted[2], -13.0}}, -80.0);
  const PeakPyramid restless = sounding({{all, -20.0}});
  CHECK(near(phrasesOf({good, good, restless}), planted));
  CHECK(near(phrasesOf({restless, good, good, good, restless}), planted));
  CHECK(near(phrasesOf({good, restless}), {all}));
  CHECK(near(phrasesOf({good, restless, restless}), {all}));
  // One that rests for a moment only is one that rests: it has its say.
  const PeakPyramid hardly = sounding({{{{0}, {85000}}, -20.0}, {{{125000}, {480000}}, -20.0}}, -80.0);
  const auto found = phrasesOf({good, good, hardly});
  REQUIRE(found.size() == 2);
  CHECK(std::abs(found[0].end.count - 85000) < 2000);
}

TEST_CASE("Planted phrases of singing, plucked, bowed and struck sounds are found: precision and recall") {
  std::mt19937 random(4);
  int planted = 0;
  int found = 0;
  int right = 0;
  for (int part = 0; part < 12; ++part) {
    // Three takes of a part; each begins and ends a little elsewhere.
    std::vector<Span> phrases;
    for (std::int64_t at = 24000; at < 430000;) {
      const std::int64_t length = std::uniform_int_distribution(20000, 90000)(random);
      if (at + length > 470000) break;
      phrases.push_back({{at}, {at + length}});
      at += length + std::uniform_int_distribution(20000, 50000)(random);
    }
    std::vector<PeakPyramid> takes;
    for (int take = 0; take < 3; ++take) {
      Samples samples = noise(480000, static_cast<unsigned>(part * 3 + take), 0.0012F);
      for (const Span phrase : phrases) {
        const std::int64_t from = phrase.start.count + std::uniform_int_distribution(0, 2000)(random);
        const std::int64_t to = phrase.end.count - std::uniform_int_distribution(0, 2000)(random);
        const int kind = part % 4;
        const Samples tone = sine(480000, 180.0 + 40.0 * kind, 48000.0, 1.0F);
        const Samples hiss = noise(480000, static_cast<unsigned>(from), 1.0F);
        for (std::int64_t i = from; i < to; ++i) {
          const auto at = static_cast<std::size_t>(i);
          const float t = static_cast<float>(i - from) / 48000.0F;
          float level = 0.15F * std::min(1.0F, t / 0.05F);                       // bowed
          if (kind == 0) level *= 0.6F + 0.4F * std::sin(t * 35.0F);             // sung, with vibrato
          if (kind == 1) level = 0.4F * std::exp(-3.0F * std::fmod(t, 0.25F));   // plucked
          if (kind == 3) level = 0.5F * std::exp(-30.0F * std::fmod(t, 0.18F));  // struck
          samples[at] += level * (kind == 3 ? hiss[at] : tone[at]);
        }
      }
      PeakPyramid peaks;
      peaks.append(samples);
      takes.push_back(std::move(peaks));
    }
    const auto got = phrasesOf(takes);
    planted += static_cast<int>(phrases.size());
    found += static_cast<int>(got.size());
    for (const Span phrase : phrases)
      right += static_cast<int>(std::any_of(got.begin(), got.end(), [&](Span each) {
        return std::abs((each.start - phrase.start).count) < 2400 &&
               std::abs((each.end - phrase.end).count) < 9600;
      }));
  }
  INFO(right << " right of " << found << " found and " << planted << " planted");
  CHECK(right >= planted * 95 / 100);
  CHECK(right >= found * 95 / 100);
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
  const auto phrases = phrasesOf({first, second});
  REQUIRE(phrases.size() == 2);
  CHECK(std::abs(phrases[0].start.count - 40000) <= 1024);
  CHECK(std::abs(phrases[0].end.count - 96000) <= 1024);
  CHECK(std::abs(phrases[1].start.count - 144000) <= 1024);
  CHECK(std::abs(phrases[1].end.count - 240000) <= 1024);
}
