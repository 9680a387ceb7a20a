// SPDX-License-Identifier: GPL-3.0-or-later
//
// Which fades the search may find, against the rules written out plainly, in scenes whose attacks lie on a
// coarse grid: as far apart as a word is short, where the boundary is, just at the edge of a fade.
#include "core/core_tests.h"

#include "core/joins/join_search.h"

namespace {

constexpr std::size_t searchSteps = 200;
constexpr SampleRate searchRate{48000};

struct SearchScene {
  explicit SearchScene(unsigned seed) : chance(seed) {
    const auto length = searchSteps * static_cast<std::size_t>(sceneStep(searchRate).count);
    const Samples out = noise(length, seed, 0.3F);
    const Samples in = noise(length, seed + 1000, 0.3F);
    const JoinSides sides{out, in};
    StepSpectra spectra(searchRate, sceneStep(searchRate));
    scene = makeJoinScene(spectra, {&sides, 1}, searchRate, {});
    change(scene.microphones[0].outgoing);
    change(scene.microphones[0].incoming);
    for (std::size_t i = 0; i < std::min(outgoing().onsets.size(), incoming().onsets.size()); ++i)
      if (chance.below(3) == 0) {
        outgoing().onsets[i].same = i;
        incoming().onsets[i].same = i;
      }
    reach.at = 60.0 + 4.0 * chance.below(20) + 0.25 * chance.below(3);
    const auto here = static_cast<std::size_t>(reach.at);
    reach.firstCentre = here - static_cast<std::size_t>(4 * chance.below(12));
    reach.lastCentre = here + static_cast<std::size_t>(4 * chance.below(12));
    reach.first = reach.firstCentre -
                  std::min<std::size_t>(reach.firstCentre, 8U * static_cast<unsigned>(chance.below(6)));
    reach.last = std::min(searchSteps, reach.lastCentre + static_cast<std::size_t>(8 * chance.below(6)));
    reach.longest = std::array<std::size_t, 4>{2, 4, 16, 80}[static_cast<std::size_t>(chance.below(4))];
  }
  [[nodiscard]] SceneSide& outgoing() { return scene.microphones[0].outgoing; }
  [[nodiscard]] SceneSide& incoming() { return scene.microphones[0].incoming; }

  void change(SceneSide& side) {
    side.onsets.clear();
    for (int at = 4 * chance.below(6); at < static_cast<int>(searchSteps); at += 4 * (1 + chance.below(12)))
      side.onsets.push_back({static_cast<float>(at), 0.05F * static_cast<float>(1 + chance.below(20))});
    // Loud for a while, then ringing out: to just 20 dB below the loudest, or a little less far.
    for (std::size_t k = 0; k < searchSteps; ++k)
      side.square[k] = k % 50 < 10 ? 1.0F : std::array{0.011F, 0.009F, 0.25F}[(k / 5) % 3];
  }

  /// Whether a boundary at `centre` gives a whole word or stroke of a take to the other: an attack on the way
  /// with all that rings of it, or with another attack after it that is no part of it.
  [[nodiscard]] bool crossesWord(const SceneSide& side, double centre) const {
    constexpr double shortest = 12.0;
    std::vector<double> attacks;
    for (const SceneOnset& onset : side.onsets)
      if (onset.strength >= 0.15F) attacks.push_back(onset.step);
    const auto rungOut = [&](double from) {
      float loudest = 0.0F;
      for (auto k = static_cast<std::size_t>(from); k + 2 < searchSteps; ++k) {
        const float here = *std::max_element(side.square.begin() + static_cast<std::ptrdiff_t>(k),
                                             side.square.begin() + static_cast<std::ptrdiff_t>(k + 3));
        loudest = std::max(loudest, here);
        if (static_cast<double>(k) - from > shortest && here < loudest * 0.01F) return static_cast<double>(k);
      }
      return 1e9;
    };
    const auto first = std::ranges::lower_bound(attacks, reach.at);
    if (first != attacks.end()) {
      if (centre > rungOut(*first)) return true;
      const auto second =
          std::find_if(first, attacks.end(), [&](double at) { return at - *first > shortest; });
      if (second != attacks.end() && centre > *second) return true;
    }
    // Backwards: a word ends where the next attack on the way begins, or where it rings out.
    for (auto at = std::make_reverse_iterator(first); at != attacks.rend(); ++at) {
      const double end = at == std::make_reverse_iterator(first) ? rungOut(*at) : *(at - 1);
      if (end < reach.at && end - *at > shortest) return centre < *at + 1.0;
    }
    return false;
  }
  [[nodiscard]] bool allowed(const FadeSteps& fade) {
    const auto centre = fade.from + fade.length / 2;
    const auto end = fade.from + fade.length;
    if (fade.length > reach.longest || centre < reach.firstCentre || centre > reach.lastCentre) return false;
    if (fade.from < reach.first || end > reach.last) return false;
    for (const SceneSide* side : {&outgoing(), &incoming()}) {
      if (crossesWord(*side, static_cast<double>(centre))) return false;
      for (const SceneOnset& onset : side->onsets)  // an attack that only one take has, known to a step
        if (!onset.same && onset.strength >= 0.15F && onset.step + 1.0F >= static_cast<float>(fade.from) &&
            onset.step < static_cast<float>(end))
          return false;
    }
    return true;
  }

  Chance chance;
  JoinScene scene;
  JoinReach reach;
};

}  // namespace

TEST_CASE("joins: only fades that the rules allow are found, each as it costs, best first, plainly apart") {
  const FadeLeaks leaks(searchRate);
  JoinJudge judge(leaks);
  int found = 0;
  for (unsigned seed = 1; seed <= 150; ++seed) {
    SearchScene search(seed);
    KnownGuesses known(search.scene);
    const auto fades = findFades(search.scene, judge, search.reach, known);
    INFO("seed " << seed);
    // Where the boundary is there is always something to tell of, if it has room.
    if (search.allowed({static_cast<std::size_t>(std::lround(search.reach.at)) - 2, 4}))
      CHECK_FALSE(fades.empty());
    for (std::size_t i = 0; i < fades.size(); ++i) {
      const FoundFade& each = fades[i];
      INFO("from " << each.fade.from << ", " << each.fade.length << " long, at " << search.reach.at);
      CHECK(search.allowed(each.fade));
      CHECK(each.cost.total() == Approx(judge.cost(search.scene, each.fade).total()).margin(1e-9));
      const double away = std::abs(each.fade.centre() - search.reach.at);
      if (each.fade.curve == Curve::Matched)  // the plain fade where it is costs nothing more
        CHECK(each.moved ==
              Approx(away * 0.0005 + (away > 0.5 || each.fade.length != 4 ? 0.07 : 0.0)).margin(1e-9));
      if (i > 0) CHECK(each.total() >= fades[i - 1].total());
      for (std::size_t k = 0; k < i; ++k) {
        const double ratio =
            static_cast<double>(each.fade.length) / static_cast<double>(fades[k].fade.length);
        CHECK((std::abs(each.fade.centre() - fades[k].fade.centre()) >= 5.0 || ratio > 2.0 || ratio < 0.5));
      }
      ++found;
    }
  }
  CHECK(found > 100);
}
