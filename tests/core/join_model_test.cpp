// SPDX-License-Identifier: GPL-3.0-or-later
//
// The model of what a listener minds, number by number: recorded when it was judged on the seam set (see
// yewdrift-seam-bench), so that no number of it changes unnoticed. Other tests say what is right; this one
// says what is. Who means to change the model judges it anew on the seam set, and records it:
//   YEWDRIFT_RECORD=join-model build/release/bin/core_tests "joins: the model is the one that was judged"
#include <catch2/catch.hpp>
#include <cmath>
#include <numbers>
#include <sstream>

#include "core/edit/edit.h"
#include "core/joins/join_finder.h"
#include "core/joins/phrase_gap.h"
#include "core/known_takes.h"
#include "core/recorded_numbers.h"
#include "support.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

struct Pair {
  std::string name;
  Samples out;
  Samples in;
};

void tone(Samples& samples, std::size_t from, std::size_t to, double hertz, double phase, float peak) {
  for (std::size_t i = from; i < std::min(to, samples.size()); ++i) {
    const double edge =
        std::min({1.0, static_cast<double>(i - from) / 300.0, static_cast<double>(to - i) / 900.0});
    const double x = 2.0 * std::numbers::pi * hertz * static_cast<double>(i) / 48000.0 + phase;
    samples[i] +=
        peak * static_cast<float>(edge * (std::sin(x) + 0.4 * std::sin(2.0 * x) + 0.2 * std::sin(5.0 * x)));
  }
}

void stroke(Samples& samples, std::size_t at, double hertz, float peak) {
  for (std::size_t i = at; i < std::min(samples.size(), at + 6000); ++i) {
    const double t = static_cast<double>(i - at) / 48000.0;
    samples[i] +=
        peak * static_cast<float>(std::exp(-t * 30.0) * std::sin(2.0 * std::numbers::pi * hertz * t + 1.0));
  }
}

/// Bright noise in syllables, like speech.
void syllables(Samples& samples, unsigned seed, std::size_t shift, float peak) {
  const Samples grain = noise(samples.size(), seed, peak);
  for (std::size_t i = 0; i < samples.size(); ++i) {
    const double t = static_cast<double>(i + shift) / 9600.0;
    const double open = std::max(0.0, std::sin(2.0 * std::numbers::pi * t));
    samples[i] += grain[i] * static_cast<float>(open * open);
  }
}

std::vector<Pair> pairs() {
  std::vector<Pair> all;
  const auto add = [&](const char* name) -> Pair& {
    const auto seed = static_cast<unsigned>(all.size()) * 2 + 1;
    return all.emplace_back(Pair{name, noise(48000, seed, 0.0008F), noise(48000, seed + 1, 0.0008F)});
  };
  Pair& notes = add("notes");
  for (std::size_t k = 0; k < 5; ++k) {
    tone(notes.out, 2000 + 9000 * k, 9500 + 9000 * k, 196.0 * (1.0 + 0.25 * static_cast<double>(k)), 0.3,
         0.2F);
    tone(notes.in, 2300 + 9000 * k, 9900 + 9000 * k, 197.0 * (1.0 + 0.25 * static_cast<double>(k)), 1.9,
         0.15F);
  }
  Pair& held = add("held");
  tone(held.out, 1000, 47000, 220.0, 0.0, 0.25F);
  tone(held.in, 1000, 47000, 220.4, 0.4, 0.1F);
  Pair& strokes = add("strokes");
  for (std::size_t k = 0; k < 7; ++k) {
    stroke(strokes.out, 3000 + 6100 * k, 180.0 + 11.0 * static_cast<double>(k), 0.5F);
    stroke(strokes.in, 3400 + 6000 * k, 260.0, 0.4F);
  }
  Pair& speech = add("speech");
  syllables(speech.out, 31, 0, 0.3F);
  syllables(speech.in, 32, 700, 0.2F);
  Pair& apart = add("apart");
  tone(apart.out, 1000, 47000, 110.0, 0.0, 0.3F);
  syllables(apart.in, 41, 300, 0.4F);
  // Nothing but a deep tone: a short fade is heard to set in.
  Pair& deep = all.emplace_back(Pair{"deep", Samples(48000), Samples(48000)});
  tone(deep.out, 0, 48000, 30.0, 0.0, 0.3F);
  tone(deep.in, 0, 48000, 31.0, 1.0, 0.2F);
  // Strokes from loud to hardly heard, some of them twice.
  Pair& fading = all.emplace_back(Pair{"fading", Samples(48000), Samples(48000)});
  for (std::size_t k = 0; k < 10; ++k) {
    const float peak = 0.5F * std::pow(10.0F, -0.3F * static_cast<float>(k));
    stroke(fading.out, 2500 + 4500 * k, 200.0 + 90.0 * static_cast<double>(k), peak);
    stroke(fading.in, 2500 + 4400 * k + 300 * (k % 3), 300.0, 0.7F * peak);
    if (k % 4 == 1) stroke(fading.in, 3700 + 4400 * k, 500.0, 0.5F * peak);
  }
  return all;
}

JoinScene sceneOf(const std::vector<const Pair*>& through) {
  std::vector<JoinSides> sides;
  for (const Pair* pair : through) sides.push_back({pair->out, pair->in});
  StepSpectra spectra(rate, sceneStep(rate));
  return makeJoinScene(spectra, sides, rate, {});
}

void addCost(Numbers& numbers, const std::string& name, const JoinCost& cost) {
  for (const auto& [part, value] : {std::pair{"outside", cost.outside},
                                    {"change", cost.change},
                                    {"doubled", cost.doubled},
                                    {"lost", cost.lost},
                                    {"cut", cost.cut},
                                    {"together", cost.together},
                                    {"exposed", cost.exposed},
                                    {"click", cost.click}})
    if (value != 0.0) numbers[name + " " + part] = value;
}

double inDecibels(float value) {
  return 10.0 * std::log10(std::max(1e-15, static_cast<double>(value)));
}

void addSide(Numbers& numbers, const std::string& name, const SceneSide& side) {
  numbers[name + " reference"] = inDecibels(side.reference);
  for (std::size_t k = 0; k < side.square.size(); k += 37) {
    const std::string at = name + " step " + std::to_string(k);
    numbers[at + " square"] = inDecibels(side.square[k]);
    numbers[at + " bend"] = inDecibels(side.bend[k]);
    numbers[at + " peak"] = inDecibels(side.peak[k]);
    numbers[at + " change"] = side.change[k];
    numbers[at + " level"] = side.level[k][9];
  }
  for (std::size_t i = 0; i < side.onsets.size(); ++i) {
    const std::string at = name + " attack " + std::to_string(i);
    numbers[at + " step"] = side.onsets[i].step;
    numbers[at + " strength"] = side.onsets[i].strength;
    numbers[at + " same"] = side.onsets[i].same ? static_cast<double>(*side.onsets[i].same) : -1.0;
  }
}

/// What is known of both takes before any fade is looked at.
void addScene(Numbers& numbers, const std::string& name, const JoinScene& scene) {
  for (std::size_t m = 0; m < scene.microphones.size(); ++m) {
    const MicrophoneScene& microphone = scene.microphones[m];
    const std::string through = name + " microphone " + std::to_string(m + 1);
    addSide(numbers, through + " out", microphone.outgoing);
    addSide(numbers, through + " in", microphone.incoming);
    numbers[through + " reference"] = inDecibels(microphone.reference);
    for (std::size_t k = 0; k < scene.steps(); k += 37) {
      const std::string at = through + " step " + std::to_string(k);
      numbers[at + " cross"] = microphone.cross[k][9];
      numbers[at + " floor"] = inDecibels(microphone.floor[k]);
      numbers[at + " share"] = microphone.share[k][9];
      numbers[at + " heard"] = microphone.heard[k];
      numbers[at + " unlike"] = microphone.unlikeness[k];
      numbers[at + " highest"] = microphone.highest[k][9];
      numbers[at + " lowest"] = microphone.lowest[k][9];
      numbers[at + " loudest"] = static_cast<double>(microphone.loudest[k]);
      numbers[at + " quickest"] = microphone.quickest[k];
      numbers[at + " sums"] = microphone.outgoingSum[k] + 2.0 * microphone.incomingSum[k];
      numbers[at + " common"] = microphone.crossSum[k];
    }
  }
}

/// Fades of every length over each scene, listened to and guessed.
void addCosts(Numbers& numbers, const std::string& name, const JoinScene& scene, JoinJudge& judge) {
  for (std::size_t i = 0; i < fadeLengths.size(); ++i) {
    const std::size_t length = fadeLengths[i];
    for (const std::size_t centre : {101 + 7 * i, 230 + 3 * i}) {
      FadeSteps fade{centre - length / 2, length};
      const std::string at = name + " " + std::to_string(length) + " at " + std::to_string(centre);
      addCost(numbers, at, judge.cost(scene, fade));
      addCost(numbers, at + " guessed", judge.guess(scene, fade));
      fade.curve = i % 2 == 0 ? Curve::EqualPower : Curve::S;
      fade.bend = i % 3 == 0 ? 0.0 : 0.4;
      addCost(numbers, at + " other curve", judge.cost(scene, fade));
      addCost(numbers, at + " other curve guessed", judge.guess(scene, fade));
    }
  }
}

/// What is found at some boundaries, and what is said of them.
void addFound(Numbers& numbers, const Pair& pair) {
  const TemporaryFolder temporary;
  const SessionFolder folder = sessionWithLanes(temporary / "s", {pair.out, pair.in}, SampleFormat::Float32);
  const TrackId id = folder.session().tracks.front()->id;
  for (std::int64_t at = 9000; at < 42000; at += 4700) {
    const Session session =
        pick(pick(folder.session(), id, {{}, {at}}, LaneNumber{1}), id, {{at}, {48000}}, LaneNumber{2});
    const std::string name = pair.name + " joined at " + std::to_string(at);
    const auto measured = measureJoins(folder.disk(), session, id);
    REQUIRE(measured.size() == 1);
    numbers[name + " risk"] = measured[0].risk;
    numbers[name + " reads: " + measured[0].reading.english()] = 1.0;
    if (measured[0].nearestOnset)
      numbers[name + " onset"] = static_cast<double>(measured[0].nearestOnset->count);
    if (measured[0].pitchDifference) numbers[name + " cents"] = measured[0].pitchDifference->value;
    JoinFinder finder(folder.disk(), rate);
    const ResolvedComposite composite = resolve(*session.track(id), rate);
    const JoinView view =
        finder.view(session, *session.track(id), composite, composite.joins.front(), defaultWish(rate));
    int place = 0;
    for (const JoinFinding& found : finder.better(session, *session.track(id), view, defaultWish(rate))) {
      const std::string which = name + " better " + std::to_string(++place);
      numbers[which + " place"] = static_cast<double>(found.at.count);
      numbers[which + " before"] = static_cast<double>(found.shape.before.count);
      numbers[which + " after"] = static_cast<double>(found.shape.after.count);
      numbers[which + " curve"] = static_cast<double>(found.shape.curve);
      numbers[which + " cost"] = found.cost.total();
      numbers[which + " because: " + found.why.english()] = 1.0;
    }
    const JoinWish slipping{defaultWish(rate).within, Frames{144}};
    place = 0;
    for (const JoinFinding& found : finder.better(session, *session.track(id), view, slipping)) {
      const std::string which = name + " slipped " + std::to_string(++place);
      numbers[which + " place"] = static_cast<double>(found.at.count);
      numbers[which + " by"] = static_cast<double>(found.slip.count);
      numbers[which + " cost"] = found.cost.total();
    }
  }
}

/// Takes that are known by level and colour only, between two phrases.
void addGaps(Numbers& numbers) {
  Takes takes(6.0);
  const std::vector<LaneNumber> lanes{takes.add(words), takes.add({{1.0, 2.2}, {2.4, 3.5}}, -26.0F, 120),
                                      takes.add({{1.0, 2.45}, {2.6, 3.5}}, -18.0F, 190),
                                      takes.add({{1.0, 5.0}}, -20.0F, 140),
                                      takes.add({{1.0, 1.8}, {2.1, 2.2}, {2.5, 3.5}}, -23.0F, 160)};
  std::vector<Piece> pieces;
  for (const LaneNumber lane : lanes) pieces.push_back(plain(lane));
  pieces.push_back(plain(lanes[1]));
  pieces.back().gain = Decibels{9.0};
  pieces.push_back(plain(lanes[4]));
  pieces.back().gain = Decibels{-7.5};
  const auto gap = gapBetween(takes.track(), rate, {seconds(1.0), seconds(2.0)}, {seconds(2.5), seconds(3.5)},
                              pieces, takes.find());
  numbers["gap loudest"] = gap.loudest;
  for (std::size_t i = 0; i < gap.takes.size(); ++i) {
    const std::string name = "gap take " + std::to_string(i);
    numbers[name + " word end"] = static_cast<double>(gap.takes[i].wordEnd.count);
    numbers[name + " next word"] = static_cast<double>(gap.takes[i].nextWord.count);
    numbers[name + " before"] = gap.takes[i].before[5];
    numbers[name + " behind"] = gap.takes[i].behind[5];
    for (std::size_t k = 0; k < gap.takes[i].spectra.size(); k += 7)
      numbers[name + " colour " + std::to_string(k)] = gap.takes[i].spectra[k][3];
    for (std::size_t to = 0; to < gap.takes.size(); ++to) {
      const GapJoin join = joinIn(gap, i, to);
      const std::string way = "gap " + std::to_string(i) + " to " + std::to_string(to);
      numbers[way + " at"] = static_cast<double>(join.at.count);
      numbers[way + " audible"] = join.audibility;
      if (join.bothUntil) numbers[way + " both"] = static_cast<double>(join.bothUntil->count);
    }
  }
}

Numbers modelled() {
  Numbers numbers;
  const FadeLeaks leaks(rate);
  JoinJudge judge(leaks);
  const std::vector<Pair> all = pairs();
  for (const Pair& pair : all) {
    const JoinScene scene = sceneOf({&pair});
    addScene(numbers, pair.name, scene);
    addCosts(numbers, pair.name, scene, judge);
    addFound(numbers, pair);
  }
  const JoinScene two = sceneOf({&all[0], &all[2]});
  addScene(numbers, "two microphones", two);
  addCosts(numbers, "two microphones", two, judge);
  addGaps(numbers);
  return numbers;
}

}  // namespace

TEST_CASE("joins: the model is the one that was judged") {
  const Numbers now = modelled();
  CHECK(now.size() > 1000);
  checkRecorded("join-model", now);
}
