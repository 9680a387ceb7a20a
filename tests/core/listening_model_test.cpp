// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is heard in takes, number by number, as it was when it was judged: phrases by planted ones (precision
// and recall), line-ups by planted offsets, onsets and pitch by aubio's tools, loudness by EBU Tech 3341. See
// recorded_numbers.h.
#include <catch2/catch.hpp>
#include <cmath>

#include "core/analysis/file_analysis.h"
#include "core/known_takes.h"
#include "core/recorded_numbers.h"
#include "core/signal/line_up.h"
#include "core/signal/phrases.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

float factorOfDecibels(double decibels) {
  return static_cast<float>(std::pow(10.0, decibels / 20.0));
}

/// Notes of some partials over noise, with rests between them.
Samples playedByChance(Chance& chance, std::size_t length, double floor) {
  Samples samples = noise(length, static_cast<unsigned>(chance.below(1000)), factorOfDecibels(floor));
  std::size_t at = static_cast<std::size_t>(chance.below(12000));
  while (at < length) {
    const auto lasts = static_cast<std::size_t>(3000 + chance.below(30000));
    const double hertz = 110.0 * std::exp2(chance.below(30) / 12.0);
    const float level = factorOfDecibels(chance.between(-40.0, -8.0));
    for (std::size_t i = 0; i < lasts && at + i < length; ++i) {
      const double t = static_cast<double>(i) / rate.hertz;
      const double edge = std::min({1.0, t / 0.004, (static_cast<double>(lasts - i)) / 600.0});
      double tone = 0.0;
      for (int partial = 1; partial <= 3; ++partial)
        tone += std::sin(6.283185307 * hertz * partial * t) / partial;
      samples[at + i] += level * static_cast<float>(edge * tone * std::exp(-t * 2.0));
    }
    at += lasts +
          static_cast<std::size_t>(chance.below(3) == 0 ? 4000 + chance.below(40000) : chance.below(2000));
  }
  return samples;
}

void addPhrases(Numbers& numbers) {
  for (unsigned round = 1; round <= 40; round += nextScene()) {
    Chance chance(round);
    const int takes = 1 + chance.below(8);
    const double floor = chance.between(-100.0, -30.0);
    std::vector<PeakPyramid> peaks(static_cast<std::size_t>(takes));
    std::vector<TakePeaks> known;
    for (PeakPyramid& each : peaks) {
      Samples samples = playedByChance(chance, 144000, chance.below(5) == 0 ? -18.0 : floor);
      if (chance.below(4) == 0) std::fill(samples.begin() + 60000, samples.begin() + 90000, 0.0F);
      each.append(samples);
      const Frames origin{256 * chance.below(100)};
      const Span whole{origin, origin + Frames{144000}};
      TakePeaks take{{{&each}, origin, whole}};
      if (chance.below(3) == 0) {
        take = {{{&each}, origin, {whole.start + Frames{1000}, whole.start + Frames{80000}}},
                {{&each}, origin, {whole.start + Frames{95000}, whole.end - Frames{777}}}};
      }
      known.push_back(std::move(take));
    }
    const PhraseRules rules{chance.between(0.05, 0.6), chance.between(0.02, 0.4)};
    const std::string name = "phrases " + std::to_string(round);
    const std::vector<Span> found = findPhrases(known, rate, rules);
    numbers[name + " found"] = static_cast<double>(found.size());
    for (std::size_t i = 0; i < found.size(); ++i) {
      numbers[name + " " + std::to_string(i) + " from"] = static_cast<double>(found[i].start.count);
      numbers[name + " " + std::to_string(i) + " to"] = static_cast<double>(found[i].end.count);
    }
  }
}

void addLineUps(Numbers& numbers) {
  for (unsigned round = 1; round <= 24; round += nextScene()) {
    Chance chance(100 + round);
    const std::size_t length = 96000 + static_cast<std::size_t>(chance.below(96000));
    const Samples reference = playedByChance(chance, length, chance.between(-90.0, -45.0));
    const int late = chance.below(20000) - 10000;
    const bool same = round % 3 != 0;
    Samples take = noise(length, round, factorOfDecibels(-60.0));
    Chance other(round % 3 == 0 ? 300 + round : 0);
    const Samples played = same ? reference : playedByChance(other, length, -70.0);
    const float gain = factorOfDecibels(chance.between(-12.0, 6.0));
    for (std::size_t i = 0; i < length; ++i)
      if (const std::int64_t from = static_cast<std::int64_t>(i) - late;
          from >= 0 && from < static_cast<std::int64_t>(length)) {
        take[i] += gain * played[static_cast<std::size_t>(from)];
        // Some of them through a room.
        if (const std::int64_t echo = from - 700; round % 2 == 0 && echo >= 0)
          take[i] += 0.5F * gain * played[static_cast<std::size_t>(echo)];
      }
    const std::string name = "line-up " + std::to_string(round);
    const LineUp found = lineUp(reference, take, Frames{round % 4 == 0 ? 4800 : 24000}, rate);
    numbers[name + " offset"] = static_cast<double>(found.offset.count);
    numbers[name + " sure"] = found.sureness;
    numbers[name + " the same"] = found.samePerformance ? 1.0 : 0.0;
  }
}

/// At low rates, so that long takes are quickly compared: of lengths of their own, with rests, little that
/// sounds, or parts played anew; looked for nearby or far away.
void addLineUpsOfAnyLength(Numbers& numbers) {
  for (unsigned round = 1; round <= 80; round += nextScene()) {
    Chance chance(3000 + round);
    const SampleRate low{round % 3 == 0 ? 16000 : 6000};
    const auto second = static_cast<std::size_t>(low.hertz);
    const std::size_t longest = round % 40 == 0 ? 150 * second : 4 * second;
    const double floor = chance.between(-100.0, -40.0);
    const std::size_t length = second / 4 + static_cast<std::size_t>(chance.below(static_cast<int>(longest)));
    Samples reference = playedByChance(chance, length, floor);
    Samples take = reference;
    const std::size_t late = static_cast<std::size_t>(chance.below(low.hertz));
    if (chance.below(2) == 0)
      take.insert(take.begin(), late, 0.0F);
    else
      take.erase(take.begin(), take.begin() + static_cast<std::ptrdiff_t>(std::min(late, take.size() / 2)));
    take.resize(take.size() * (60 + static_cast<std::size_t>(chance.below(80))) / 100);
    const auto between = [&](Samples& samples, auto change) {
      const std::size_t from = static_cast<std::size_t>(chance.below(static_cast<int>(samples.size())));
      const std::size_t to = std::min(samples.size(), from + samples.size() / 3);
      for (std::size_t i = from; i < to; ++i) change(samples[i], i);
    };
    if (chance.below(3) == 0) between(take, [](float& sample, std::size_t) { sample = 0.0F; });
    if (chance.below(3) == 0) {
      const Samples other = playedByChance(chance, take.size(), -60.0);
      between(take, [&](float& sample, std::size_t i) { sample = other[i]; });
    }
    if (chance.below(8) == 0)
      between(reference, [](float& sample, std::size_t i) { sample = i % 50 == 0 ? NAN : 0.0F; });
    if (chance.below(10) == 0)
      std::fill(take.begin() + static_cast<std::ptrdiff_t>(std::min<std::size_t>(60, take.size())),
                take.end(), 0.0F);
    const Frames within{1 + chance.below(chance.below(3) == 0 ? low.hertz * 2 : low.hertz / 2)};
    const LineUp found = lineUp(reference, take, within, low);
    const std::string name = "line-up of any length " + std::to_string(round);
    numbers[name + " offset"] = static_cast<double>(found.offset.count);
    numbers[name + " sure"] = found.sureness;
    numbers[name + " the same"] = found.samePerformance ? 1.0 : 0.0;
  }
}

void addAnalyses(Numbers& numbers) {
  for (unsigned round = 1; round <= 8; ++round) {
    const TemporaryFolder temporary;
    const int hertz = round % 3 == 0 ? 44100 : 48000;
    const std::size_t length = 60000 + 7777 * round;
    Chance chance(500 + round);
    std::vector<Samples> channels{playedByChance(chance, length, -65.0)};
    if (round % 2 == 0) channels.push_back(playedByChance(chance, length, -55.0));
    // At full scale, with a click, and over an offset.
    for (std::size_t i = 20000; i < 20040; ++i) channels.back()[i] = i % 2 == 0 ? 1.0F : -1.0F;
    channels.front()[40000] += 0.6F;
    if (round == 5)
      for (float& sample : channels.front()) sample = std::clamp(sample + 0.2F, -1.0F, 1.0F);
    SessionFolder folder = SessionFolder::create(temporary / "s", Session{});
    writeWave(folder.path() / "audio" / "a.wav", channels, hertz, SampleFormat::Float32);
    const PoolFile file{"audio/a.wav", static_cast<int>(channels.size()),
                        Frames{static_cast<std::int64_t>(length)}};
    const FileAnalysis found = analyseFile(folder.disk(), file, SampleRate{hertz}, std::atomic<bool>{false});
    const std::string name = "file " + std::to_string(round);
    numbers[name + " level step"] = static_cast<double>(found.levelStep.count);
    numbers[name + " levels"] = static_cast<double>(found.levels.size());
    numbers[name + " spectra"] = static_cast<double>(found.spectra.size());
    numbers[name + " pitch step"] = static_cast<double>(found.pitch.step.count);
    numbers[name + " pitches"] = static_cast<double>(found.pitch.cents.size());
    for (std::size_t i = 0; i < found.onsets.size(); ++i)
      numbers[name + " onset " + std::to_string(i)] = static_cast<double>(found.onsets[i].count);
    for (std::size_t i = 0; i < found.levels.size(); ++i) {
      const LevelStep& level = found.levels[i];
      const std::string at = name + " at " + std::to_string(i);
      if (level.overs > 0) numbers[at + " overs"] = level.overs;
      if (level.clicks > 0) numbers[at + " clicks"] = level.clicks;
      if (i % 9 != 0 && i + 2 < found.levels.size()) continue;
      numbers[at + " weighted"] = level.weighted;
      numbers[at + " square"] = level.square;
      numbers[at + " peak"] = level.peak;
    }
    for (std::size_t i = 0; i < found.spectra.size(); i += 13)
      for (std::size_t band = 0; band < bandCount; band += 5)
        numbers[name + " colour " + std::to_string(i) + "/" + std::to_string(band)] = found.spectra[i][band];
    for (std::size_t i = 0; i < found.pitch.cents.size(); i += 11)
      if (!std::isnan(found.pitch.cents[i]))
        numbers[name + " cents " + std::to_string(i)] = found.pitch.cents[i];
  }
}

/// Takes of whole decibels over whole stretches, at the thresholds and beside them, silent to the last bit
/// now and then; of one clip or several that begin and end anywhere.
void addPhrasesOnGrid(Numbers& numbers) {
  Chance chance(20261128);
  const auto below = [&chance](int most) { return chance.below(most); };
  for (int scene = 1; scene <= 250; ++scene) {
    std::vector<PeakPyramid> pyramids;
    const int count = 1 + below(5);
    pyramids.reserve(static_cast<std::size_t>(count) * 2);
    std::vector<TakePeaks> takes;
    std::vector<int> lengths;  // that all of them play, and rest, more or less
    for (int i = 0; i < 60; ++i) lengths.push_back(i % 2 == 0 ? 5 + below(200) : 5 + below(120));
    const int rest = scene % 3 == 0 ? -200 : -50 - 5 * below(8);
    for (int i = 0; i < count; ++i) {
      const int own = below(6) == 0 ? -30 : rest + below(4);
      const int loud = -6 * below(5);
      const auto signal = [&] {
        std::vector<Peak> base;
        for (std::size_t k = 0; base.size() < 2200; ++k) {
          const int level = k % 2 == 0 ? loud - below(25) : below(4) == 0 ? own + 6 : own;
          const float rms = factorOfDecibels(level);
          // Some stand off zero: an offset is no sound.
          const float offset = below(5) == 0 ? 0.2F : 0.0F;
          const Peak peak{offset - 0.9F * rms, offset + 1.1F * rms, std::sqrt(rms * rms + offset * offset)};
          base.insert(base.end(), static_cast<std::size_t>(lengths[k % 60] + below(6)), peak);
        }
        base.resize(2200);
        return PeakPyramid::fromBase(base, 2200 * PeakPyramid::baseSpan);
      };
      TakePeaks take;
      pyramids.push_back(signal());
      take.push_back({{&pyramids.back()}, {256 * below(8)}, {}});
      if (below(3) == 0) {
        pyramids.push_back(signal());
        take.back().channels.push_back(&pyramids.back());
      }
      take.back().window = {take.back().origin + Frames{128 * below(100)},
                            take.back().origin + Frames{2200 * 256 - 64 * below(400)}};
      if (below(3) == 0) {
        take.push_back(take.back());
        take.front().window.end = take.front().window.start + Frames{200 * 256};
        take.back().window.start = take.front().window.end + Frames{256 * below(300)};
      }
      takes.push_back(take);
    }
    PhraseRules rules;
    if (scene % 2 == 0) rules = {0.1 * (1 + below(8)), 0.1 * (1 + below(8))};
    const auto found = findPhrases(takes, rate, rules);
    // How many, and where they begin and end, folded into a small number each.
    std::int64_t from = 0;
    std::int64_t to = 0;
    for (const Span phrase : found) {
      from = (3 * from + phrase.start.count) % 1009;
      to = (3 * to + phrase.end.count) % 1009;
    }
    const std::string name = "grid " + std::to_string(scene);
    numbers[name + " found"] = static_cast<double>(found.size());
    numbers[name + " from"] = static_cast<double>(from);
    numbers[name + " to"] = static_cast<double>(to);
  }
}

}  // namespace

TEST_CASE("Phrases are found as they were when they were judged") {
  Numbers now;
  addPhrases(now);
  addPhrasesOnGrid(now);
  checkRecorded("phrases", now);
}

TEST_CASE("Takes are lined up as they were when that was judged") {
  Numbers now;
  addLineUps(now);
  addLineUpsOfAnyLength(now);
  checkRecorded("line-ups", now);
}

TEST_CASE("Files are measured as they were when that was judged") {
  Numbers now;
  addAnalyses(now);
  checkRecorded("measures", now);
}
