// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/joins/fade_leaks.h"
#include "core/joins/join_scene.h"
#include "core/session/session.h"

namespace yewdrift {

/// A crossfade over steps [from, from + length) of a scene.
struct FadeSteps {
  std::size_t from = 0;
  std::size_t length = 0;
  Curve curve = Curve::Matched;
  double bend = 0.0;
  bool operator==(const FadeSteps&) const = default;
  [[nodiscard]] double centre() const {
    return static_cast<double>(from) + static_cast<double>(length) / 2.0;
  }
};

/// What somebody may notice of a crossfade, each about 1 where it is plainly heard; added up they are what a
/// join is judged by.
struct JoinCost {
  double outside = 0.0;   // bands louder, or softer, than in either take: cancellation, or doubling
  double change = 0.0;    // the sound changes faster than it does in either take
  double doubled = 0.0;   // attacks that are heard twice
  double lost = 0.0;      // attacks of both takes that are heard in neither
  double cut = 0.0;       // attacks that are heard in part
  double together = 0.0;  // both takes are heard at once and are not the same
  double exposed = 0.0;   // it lies where it is loud, and the takes sound unlike
  double click = 0.0;     // the fade is shorter than the wave takes kindly

  [[nodiscard]] double total() const {
    return outside + change + doubled + lost + cut + together + exposed + click;
  }
};

/// Judges crossfades, in scenes of the rate of the leaks. One thread at a time.
class JoinJudge {
 public:
  /// They outlive it.
  explicit JoinJudge(const FadeLeaks& leaks);

  /// Through the microphone in which it is worst, from the sound that would be heard.
  [[nodiscard]] JoinCost cost(const JoinScene& scene, const FadeSteps& fade);
  /// The same, reckoned from what is known of both takes without listening to them: some twenty times
  /// quicker, and good enough to tell which are worth a closer look. Breaks off, too low, once it is above
  /// `limit`.
  [[nodiscard]] JoinCost guess(const JoinScene& scene, const FadeSteps& fade, double limit = 1e9);

 private:
  /// What would be heard, into heard_: the fade, and padding() samples on either side.
  void mix(const MicrophoneScene& scene, const FadeSteps& fade, double correlation);
  [[nodiscard]] std::size_t padding() const;
  void addGuess(JoinCost& cost, const MicrophoneScene& scene, const FadeSteps& fade,
                const FadeWeights& weights, double correlation, double limit);

  const FadeLeaks& leaks_;
  std::size_t step_;  // samples
  StepSpectra spectra_;
  // Of the fade that is judged, kept so that nothing is allocated anew.
  std::vector<SceneBands> mixed_;
  std::vector<float> heard_;
};

}  // namespace yewdrift
