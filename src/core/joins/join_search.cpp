// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/joins/join_search.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

namespace yewdrift {
namespace {

constexpr std::size_t looked = 4;  // at so many closely
constexpr double movedPerStep = 0.0005;
constexpr double elsewhere = 0.07;  // what another place or length must gain: no measure is an ear

/// How far the boundary may go without giving a whole word or stroke of either take to the other: up to the
/// second attack on its way, or to where a first one has rung out.
class WholeWords {
 public:
  WholeWords(const JoinScene& scene, double at) : lowest_(-1e9), highest_(1e9) {
    for (const MicrophoneScene& microphone : scene.microphones) {
      look(microphone.outgoing, at);
      look(microphone.incoming, at);
    }
  }
  [[nodiscard]] bool allow(double centre) const { return centre >= lowest_ && centre <= highest_; }

 private:
  static constexpr float leastStrength = 0.15F;
  static constexpr double shortest = 12.0;  // 30 ms: what is shorter is no word

  void look(const SceneSide& side, double at) {
    // Behind: from the first attack on, whatever rings out, or is followed by another attack, is whole.
    std::optional<double> begun;
    for (const SceneOnset& onset : side.onsets) {
      if (onset.strength < leastStrength || onset.step < at) continue;
      if (begun && onset.step - *begun > shortest) {
        highest_ = std::min(highest_, static_cast<double>(onset.step));
        break;
      }
      if (!begun) begun = onset.step;
    }
    if (begun) highest_ = std::min(highest_, rungOut(side, *begun));
    // Before: backwards from the boundary, the last attack has its whole word behind it only where that has
    // rung out before the boundary, or where a second one follows on the way.
    std::optional<double> later;
    for (auto onset = side.onsets.rbegin(); onset != side.onsets.rend(); ++onset) {
      if (onset->strength < leastStrength || onset->step >= at) continue;
      const double end = later ? *later : rungOut(side, onset->step);
      if (end < at && end - onset->step > shortest) {
        lowest_ = std::max(lowest_, static_cast<double>(onset->step) + 1.0);
        break;
      }
      later = onset->step;
    }
  }

  /// Where it has fallen 20 dB below the loudest since `from`.
  static double rungOut(const SceneSide& side, double from) {
    float loudest = 0.0F;
    for (auto k = static_cast<std::size_t>(from); k + 2 < side.square.size(); ++k) {
      const float here = std::max({side.square[k], side.square[k + 1], side.square[k + 2]});
      loudest = std::max(loudest, here);
      if (static_cast<double>(k) - from > shortest && here < loudest * 0.01F) return static_cast<double>(k);
    }
    return 1e9;
  }

  double lowest_;
  double highest_;
};

/// The attacks that only one of the two takes has, through any microphone. A fade over such an attack softens
/// it, and no attack of the other take makes up for that.
class LoneAttacks {
 public:
  explicit LoneAttacks(const JoinScene& scene) {
    for (const MicrophoneScene& microphone : scene.microphones)
      for (const SceneSide* side : {&microphone.outgoing, &microphone.incoming})
        for (const SceneOnset& onset : side->onsets)
          if (!onset.same && onset.strength >= leastStrength) steps_.push_back(onset.step);
    std::ranges::sort(steps_);
  }
  [[nodiscard]] bool underFade(std::size_t from, std::size_t length) const {
    const auto first = std::ranges::lower_bound(steps_, static_cast<float>(from) - exactness);
    return first != steps_.end() && *first < static_cast<float>(from + length);
  }

 private:
  static constexpr float leastStrength = 0.15F;
  static constexpr float exactness = 1.0F;  // an attack is found to a step
  std::vector<float> steps_;
};

/// Keeps the best fades that differ plainly.
class Best {
 public:
  explicit Best(std::size_t most) : most_(most) {}
  [[nodiscard]] double limit() const { return found_.size() < most_ ? 1e9 : found_.back().total(); }
  void add(const FoundFade& candidate) {
    const auto likeIt = [&](const FoundFade& known) { return alike(known.fade, candidate.fade); };
    const auto as = std::ranges::find_if(found_, likeIt);  // the best of those
    if (as != found_.end() && as->total() <= candidate.total()) return;
    std::erase_if(found_, likeIt);
    found_.push_back(candidate);
    std::ranges::stable_sort(found_, {}, &FoundFade::total);
    if (found_.size() > most_) found_.pop_back();
  }
  [[nodiscard]] const std::vector<FoundFade>& found() const { return found_; }

 private:
  static bool alike(FadeSteps a, FadeSteps b) {
    const double ratio = static_cast<double>(a.length) / static_cast<double>(b.length);
    return std::abs(a.centre() - b.centre()) < 5.0 && ratio < 2.1 && ratio > 0.47;
  }
  std::size_t most_;
  std::vector<FoundFade> found_;
};

class Search {
 public:
  Search(const JoinScene& scene, JoinJudge& judge, const JoinReach& reach, KnownGuesses& known)
      : scene_(scene), judge_(judge), words_(scene, reach.at), lone_(scene), reach_(reach), known_(known) {}

  std::vector<FoundFade> run(std::size_t most) {
    // Coarse: every second length at every second place, long ones at fewer; then all of them around what was
    // found; then, of the best, what they sound like.
    for (std::size_t i = 1; i < fadeLengths.size(); i += 2)
      for (std::size_t centre = reach_.firstCentre; centre <= reach_.lastCentre;
           centre += spacing(fadeLengths[i]))
        guess(centre, i);
    // Where the boundary is, whatever grid the places are looked at in.
    const auto at = static_cast<std::size_t>(std::max(0L, std::lround(reach_.at)));
    for (std::size_t i = 0; fadeLengths[i] <= 2 * plainLength; ++i) guess(at, i);
    const std::vector<FoundFade> coarse = guessed_.found();
    for (const FoundFade& found : coarse) {
      const auto centre = static_cast<std::ptrdiff_t>(found.fade.centre());
      const auto between = static_cast<std::ptrdiff_t>(spacing(found.fade.length) / 2);
      const auto index = static_cast<std::size_t>(
          std::find(fadeLengths.begin(), fadeLengths.end(), found.fade.length) - fadeLengths.begin());
      for (std::size_t i = index > 0 ? index - 1 : 0; i < std::min(index + 2, fadeLengths.size()); ++i)
        for (std::ptrdiff_t away = -between; away <= between;
             away += std::max<std::ptrdiff_t>(1, between / 2))
          if (away != 0 || fadeLengths[i] != found.fade.length)
            guess(static_cast<std::size_t>(centre + away), i);
    }
    Best best(most);
    for (FoundFade found : guessed_.found()) {
      found.cost = judge_.cost(scene_, found.fade);
      best.add(found);
    }
    if (best.found().empty()) return {};
    // Many sounds change over more gradually where the fade is at once under way: so the best is tried, and
    // one where the boundary is.
    tryEqualPower(best.found().front(), best);
    FoundFade here;
    here.fade = {static_cast<std::size_t>(std::max(0L, std::lround(reach_.at) - 2)), plainLength};
    if (allowed(static_cast<std::size_t>(std::lround(reach_.at)), plainLength)) tryEqualPower(here, best);
    return best.found();
  }

 private:
  static constexpr std::size_t plainLength = 4;  // 10 ms
  /// From one place to the next that is looked at first; even.
  static constexpr std::size_t spacing(std::size_t length) {
    return std::max<std::size_t>(2, length / 16 * 2);
  }

  [[nodiscard]] bool allowed(std::size_t centre, std::size_t length) const {
    if (centre < reach_.firstCentre || centre > reach_.lastCentre || length > reach_.longest) return false;
    const std::size_t half = length / 2;
    if (centre < half + reach_.first || centre + half > reach_.last) return false;
    return words_.allow(static_cast<double>(centre)) && !lone_.underFade(centre - half, length);
  }

  void tryEqualPower(FoundFade found, Best& best) {
    found.fade.curve = Curve::EqualPower;
    found.cost = judge_.cost(scene_, found.fade);
    best.add(found);
  }

  void guess(std::size_t centre, std::size_t lengthIndex) {
    const std::size_t length = fadeLengths[lengthIndex];
    if (!allowed(centre, length)) return;
    const std::size_t half = length / 2;
    FoundFade candidate;
    candidate.fade = {centre - half, length};
    const double away = std::abs(static_cast<double>(centre) - reach_.at);
    candidate.moved = away * movedPerStep + (away > 0.5 || length != plainLength ? elsewhere : 0.0);
    const double limit = guessed_.limit() - candidate.moved;
    KnownGuesses::Guess& known = known_.of(centre, lengthIndex);
    if (!known.exact && known.atLeast <= limit) {
      known.cost = judge_.guess(scene_, candidate.fade, limit);
      known.atLeast = known.cost.total();
      known.exact = known.atLeast <= limit;
    }
    candidate.cost = known.cost;
    if (candidate.total() < guessed_.limit()) guessed_.add(candidate);
  }

  const JoinScene& scene_;
  JoinJudge& judge_;
  WholeWords words_;
  LoneAttacks lone_;
  JoinReach reach_;
  KnownGuesses& known_;
  Best guessed_{looked};
};

}  // namespace

std::vector<FoundFade> findFades(const JoinScene& scene, JoinJudge& judge, const JoinReach& reach,
                                 KnownGuesses& known, std::size_t most) {
  return Search(scene, judge, reach, known).run(most);
}

}  // namespace yewdrift
