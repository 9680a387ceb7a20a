// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/joins/join_cost.h"

namespace yewdrift {

/// Where a boundary may go, and how far its fade may reach, in steps of the scene.
struct JoinReach {
  double at = 0.0;              // where the boundary is now
  std::size_t firstCentre = 0;  // it may go from here
  std::size_t lastCentre = 0;   // to here
  std::size_t first = 0;        // the fade may begin no earlier: there the incoming take has its material
  std::size_t last = 0;         // and end no later: there the outgoing one ceases
  std::size_t longest = 80;     // steps of the longest fade
};

struct FoundFade {
  FadeSteps fade;
  JoinCost cost;
  double moved = 0.0;  // what its distance from where the boundary was adds to the cost
  [[nodiscard]] double total() const { return cost.total() + moved; }
};

/// What was reckoned of fades in one scene, so that searches from several places of it reckon nothing twice.
class KnownGuesses {
 public:
  explicit KnownGuesses(const JoinScene& scene) : known_(scene.steps() * fadeLengths.size()) {}
  struct Guess {
    double atLeast = -1.0;  // cost; below 0: not reckoned yet
    bool exact = false;     // else reckoning broke off, since it cost too much already
    JoinCost cost = {};
  };
  [[nodiscard]] Guess& of(std::size_t centre, std::size_t lengthIndex) {
    return known_[centre * fadeLengths.size() + lengthIndex];
  }

 private:
  std::vector<Guess> known_;
};

/// The best crossfades, best first: places and lengths that differ plainly from each other, at most `most` of
/// them. The boundary never goes across a whole word or stroke of either take, and hardly at all where that
/// gains nothing. None where no fade has room.
std::vector<FoundFade> findFades(const JoinScene& scene, JoinJudge& judge, const JoinReach& reach,
                                 KnownGuesses& known, std::size_t most = 4);

}  // namespace yewdrift
