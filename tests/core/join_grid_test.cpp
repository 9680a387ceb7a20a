// SPDX-License-Identifier: GPL-3.0-or-later
//
// Scenes of joins whose every value lies on a coarse grid, so that what is compared is often just equal: two
// attacks exactly as far apart as a word is short, one exactly where the boundary is, a fall of exactly 20
// dB. What is found and counted there was recorded when the model was judged, like the rest of it
// (join_model_test); to record it anew: YEWDRIFT_RECORD=join-grid.
#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "core/joins/join_search.h"
#include "core/joins/phrase_gap.h"
#include "core/joins/phrase_pick.h"
#include "core/known_takes.h"
#include "core/recorded_numbers.h"
#include "support.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

constexpr std::size_t steps = 160;

class Grid {
 public:
  explicit Grid(unsigned seed) : random_(seed) {}

  template <typename T>
  T oneOf(std::initializer_list<T> values) {
    return *(values.begin() + static_cast<std::ptrdiff_t>(random_() % values.size()));
  }
  int upTo(int most) { return static_cast<int>(random_() % static_cast<unsigned>(most + 1)); }

  std::vector<SceneOnset> onsets() {
    std::vector<SceneOnset> found;
    for (int at = 4 * upTo(5); at < static_cast<int>(steps); at += oneOf({4, 8, 12, 16, 24, 60}))
      found.push_back({static_cast<float>(at), oneOf({0.1F, 0.15F, 0.15F, 0.25F, 0.75F, 1.0F})});
    return found;
  }

  void change(SceneSide& side) {
    for (std::size_t k = 0; k < steps; ++k) {
      for (float& level : side.level[k]) level = -20.0F + 0.5F * static_cast<float>(upTo(4));
      for (float& power : side.power[k]) power = 0.001F * static_cast<float>(upTo(3));
      // Some rise and ring out, down to exactly 20 dB below.
      side.square[k] = k % 40 < 8 ? 1.0F : oneOf({0.01F, 0.005F, 0.25F, 0.02F, 0.01F});
      side.bend[k] = 0.125F * static_cast<float>(upTo(2));
      side.peak[k] = 0.25F * static_cast<float>(upTo(4));
      side.change[k] = static_cast<float>(upTo(3));
    }
    for (std::size_t k = 48; k < 90; ++k) side.square[k] = 0.01F;
    side.onsets = onsets();
  }

  void change(MicrophoneScene& scene) {
    change(scene.outgoing);
    change(scene.incoming);
    for (std::size_t i = 0; i < scene.outgoing.onsets.size(); ++i)
      for (std::size_t j = 0; j < scene.incoming.onsets.size(); ++j)
        if (!scene.outgoing.onsets[i].same && !scene.incoming.onsets[j].same &&
            std::abs(scene.outgoing.onsets[i].step - scene.incoming.onsets[j].step) <= 4.0F && upTo(2) > 0) {
          const float away = oneOf({-4.0F, -3.0F, 0.0F, 3.0F});
          scene.incoming.onsets[j].step = std::max(0.0F, scene.outgoing.onsets[i].step + away);
          scene.outgoing.onsets[i].same = j;
          scene.incoming.onsets[j].same = i;
        }
    for (std::size_t k = 0; k < steps; ++k) {
      scene.heard[k] = 0.0F;
      for (std::size_t band = 0; band < sceneBands; ++band) {
        scene.cross[k][band] = 0.001F * static_cast<float>(upTo(3) - 1);
        scene.share[k][band] = 0.01F * static_cast<float>(upTo(3));
        scene.heard[k] += scene.share[k][band];
        scene.highest[k][band] = -19.0F + 0.5F * static_cast<float>(upTo(3));
        scene.lowest[k][band] = scene.highest[k][band] - 0.5F * static_cast<float>(upTo(3));
      }
      scene.floor[k] = oneOf({1e-6F, 1e-4F});
      scene.loudest[k] = static_cast<std::size_t>(upTo(23));
      scene.unlikeness[k] = 0.5F * static_cast<float>(upTo(12));
      scene.quickest[k] = static_cast<float>(upTo(4));
    }
  }

  JoinReach reach() {
    JoinReach reach;
    reach.at = 40.0 + 4.0 * upTo(20) + oneOf({0.0, 0.0, 0.5, 0.25});
    const auto here = static_cast<std::size_t>(reach.at);
    reach.firstCentre = here - static_cast<std::size_t>(4 * upTo(8));
    reach.lastCentre = here + static_cast<std::size_t>(4 * upTo(8));
    reach.first = reach.firstCentre - std::min(reach.firstCentre, oneOf<std::size_t>({2, 8, 20, 40}));
    reach.last = std::min(steps, reach.lastCentre + oneOf<std::size_t>({2, 8, 20, 40}));
    reach.longest = oneOf<std::size_t>({2, 4, 16, 80});
    return reach;
  }

 private:
  std::mt19937 random_;
};

void addFade(Numbers& numbers, const std::string& name, const JoinCost& cost) {
  numbers[name + " total"] = cost.total();
  numbers[name + " attacks"] = cost.doubled + 2.0 * cost.lost + 4.0 * cost.cut + 8.0 * cost.click;
  numbers[name + " sound"] = cost.outside + 2.0 * cost.change + 4.0 * cost.together + 8.0 * cost.exposed;
}

Numbers onGrid() {
  Numbers numbers;
  const FadeLeaks leaks(rate);
  JoinJudge judge(leaks);
  StepSpectra spectra(rate, sceneStep(rate));
  const auto length = steps * static_cast<std::size_t>(sceneStep(rate).count);
  for (unsigned seed = 1; seed <= 320; seed += nextScene()) {
    const Samples out = noise(length, seed, 0.3F);
    const Samples in = noise(length, seed + 1000, 0.3F);
    const std::vector<JoinSides> sides(seed % 8 == 0 ? 2 : 1, JoinSides{out, in});
    JoinScene scene = makeJoinScene(spectra, sides, rate, {});
    Grid grid(seed);
    for (MicrophoneScene& microphone : scene.microphones) grid.change(microphone);
    const std::string name = "grid " + std::to_string(seed);
    if (seed % 4 == 0) {
      FadeSteps fade{static_cast<std::size_t>(4 * grid.upTo(20)),
                     grid.oneOf<std::size_t>({2, 4, 12, 24, 48})};
      addFade(numbers, name + " cost", judge.cost(scene, fade));
      addFade(numbers, name + " guess", judge.guess(scene, fade));
    }
    const JoinReach reach = grid.reach();
    KnownGuesses known(scene);
    const auto found = findFades(scene, judge, reach, known, grid.oneOf<std::size_t>({1, 2, 4}));
    numbers[name + " found"] = static_cast<double>(found.size());
    for (std::size_t i = 0; i < found.size(); ++i) {
      const std::string which = name + " fade " + std::to_string(i);
      const FadeSteps& fade = found[i].fade;
      numbers[which] =
          static_cast<double>(fade.from * 1000 + fade.length) + (fade.curve == Curve::EqualPower ? 0.5 : 0.0);
      numbers[which + " costs"] = found[i].total();
    }
  }
  return numbers;
}

/// Many whole numbers folded into a small one: any other changes it.
class Folded {
 public:
  void add(std::int64_t number) { value_ = (3 * value_ + number % 1009 + 1009) % 1009; }
  void add(const std::string& text) {
    for (const char each : text) add(each);
  }
  void add(const std::vector<Piece>& pieces) {
    for (const Piece& piece : pieces) {
      add(piece.span.start.count);
      add(piece.span.end.count);
      add(piece.lane ? piece.lane->value : 0);
      for (const LaneNumber with : piece.overdubs) add(with.value);
    }
  }
  [[nodiscard]] double value() const { return static_cast<double>(value_); }

 private:
  std::int64_t value_ = 1;
};

/// Takes whose words begin and end some steps apart, or in the same, as loud as each other or in steps of
/// 2 dB, rated alike or not.
Takes takesOnGrid(Grid& grid) {
  Takes takes(6.0);
  const int count = 2 + grid.upTo(3);
  for (int i = 0; i < count; ++i) {
    std::vector<std::pair<double, double>> played;
    for (const auto& [from, to] : words) {
      if (grid.upTo(7) == 0) continue;
      const double begins = from + 0.05 * (grid.upTo(8) - 4);
      const double ends = to + 0.05 * (grid.upTo(12) - 5);
      const bool breathes = grid.upTo(3) == 0;
      played.emplace_back(begins, breathes ? begins + 0.4 : ends);
      if (breathes) played.emplace_back(begins + 0.4 + 0.01 * grid.upTo(12), ends);
    }
    // One after the other: in which order arguments are worked out is the compiler's affair.
    const float level = -28.0F + 2.0F * static_cast<float>(grid.upTo(5));
    const int colour = 120 + 10 * grid.upTo(6);
    takes.add(played, level, colour);
  }
  const auto phrases = takes.phrases(words);
  for (int lane = 1; lane <= count; ++lane) {
    for (const Phrase& phrase : phrases)
      if (grid.upTo(2) == 0) takes.rate_(LaneNumber{lane}, phrase, 1 + grid.upTo(4));
    if (grid.upTo(3) == 0)
      takes.session = changeLane(takes.session, takes.id(), LaneNumber{lane}, {.rating = grid.upTo(5)});
    if (grid.upTo(5) == 0 && lane > 1)
      takes.session = setLaneAside(takes.session, takes.id(), LaneNumber{lane}, true);
  }
  return takes;
}

void addGap(Numbers& numbers, const std::string& name, const Takes& takes, Grid& grid) {
  std::vector<Piece> pieces;
  for (std::size_t i = 0; i < takes.analyses.size(); ++i) {
    pieces.push_back(plain(LaneNumber{static_cast<int>(i) + 1}));
    pieces.back().gain = Decibels{grid.oneOf({0.0, 0.0, 3.0, -6.0})};
  }
  const auto phrases = takes.phrases(words);
  const PhraseGap gap =
      gapBetween(takes.track(), rate, phrases[0].span, phrases[1].span, pieces, takes.find());
  Folded places;
  double audible = 0.0;
  for (std::size_t from = 0; from < gap.takes.size(); ++from)
    for (std::size_t to = 0; to < gap.takes.size(); ++to) {
      const GapJoin join = joinIn(gap, from, to);
      places.add(join.at.count);
      places.add(join.bothUntil ? join.bothUntil->count : 0);
      audible += static_cast<double>(1 + from + 5 * to) * join.audibility;
    }
  numbers[name + " gaps"] = places.value();
  numbers[name + " gaps audible"] = audible;
}

void addChoice(Numbers& numbers, const std::string& name, Takes& takes, Grid& grid) {
  const auto phrases = takes.phrases(words);
  const RoughComposite rough =
      roughComposite(takes.session, takes.track(), phrases, takes.find(), grid.upTo(1) == 0);
  Folded chosen;
  for (const RoughChoice& choice : rough.phrases) {
    chosen.add(choice.lane ? choice.lane->value : 0);
    chosen.add(choice.rating);
    chosen.add(choice.span.start.count);
    chosen.add(static_cast<std::int64_t>(choice.alike.size()));
    chosen.add(choice.why.english());
  }
  chosen.add(rough.pieces);
  numbers[name + " chosen"] = chosen.value();
  numbers[name + " chosen audible"] = rough.audibility;
  Folded picked;
  Session session = takes.session;
  for (int i = 0; i < 5; ++i) {
    const LaneNumber lane{1 + grid.upTo(static_cast<int>(takes.analyses.size()) - 1)};
    PhrasePick pick =
        pickPhrase(session, takes.id(), phrases, static_cast<std::size_t>(grid.upTo(2)), lane, takes.find());
    session = pick.session;
    for (const Sentence& notice : pick.notices) picked.add(notice.english());
    picked.add(resolve(*session.tracks[0], rate).pieces);
  }
  checkInvariants(session);
  numbers[name + " picked"] = picked.value();
}

Numbers takesChosen() {
  Numbers numbers;
  for (unsigned seed = 1; seed <= 250; seed += nextScene()) {
    Grid grid(seed);
    Takes takes = takesOnGrid(grid);
    const std::string name = "takes " + std::to_string(seed);
    addGap(numbers, name, takes, grid);
    addChoice(numbers, name, takes, grid);
  }
  return numbers;
}

}  // namespace

TEST_CASE(
    "takes that are known by level and colour only: the same is chosen and joined as when it was judged") {
  checkRecorded("takes-grid", takesChosen());
}

TEST_CASE("joins: on a coarse grid the same is found and counted as when the model was judged") {
  const Numbers now = onGrid();
  CHECK(now.size() > 1000 / nextScene());
  checkRecorded("join-grid", now);
}

TEST_CASE("joins: attacks up to 60 ms apart are one and the same, those farther apart are not") {
  StepSpectra spectra(rate, sceneStep(rate));
  for (const std::size_t apart : {0U, 1U, 23U, 24U, 25U, 40U}) {
    INFO(apart << " steps");
    const auto click = [&](std::size_t step) {
      Samples samples = noise(100 * 120, static_cast<unsigned>(step), 0.0005F);
      for (std::size_t i = 0; i < 240; ++i)
        samples[step * 120 + i] += 0.5F * static_cast<float>(std::cos(0.3 * static_cast<double>(i)));
      return samples;
    };
    const Samples out = click(30);
    const Samples in = click(30 + apart);
    const JoinSides sides{out, in};
    const JoinScene scene = makeJoinScene(spectra, {&sides, 1}, rate, {});
    const auto& outgoing = scene.microphones[0].outgoing.onsets;
    const auto& incoming = scene.microphones[0].incoming.onsets;
    REQUIRE(outgoing.size() == 1);
    REQUIRE(incoming.size() == 1);
    REQUIRE(incoming[0].step - outgoing[0].step == static_cast<float>(apart));
    CHECK(outgoing[0].same.has_value() == (apart <= 24));
    CHECK(incoming[0].same.has_value() == (apart <= 24));
  }
}
