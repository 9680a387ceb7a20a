// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <span>
#include <vector>

#include "core/joins/join_scene.h"
#include "core/plan/playback_plan.h"

namespace yewdrift {

/// Lengths of crossfades that are tried, in steps of a scene; all even, so that centres lie on whole steps.
inline constexpr std::array<std::size_t, 10> fadeLengths{2, 4, 6, 8, 12, 16, 24, 32, 48, 80};

/// Steps before and behind a fade that hear of it: the window's through which a scene is seen, and a
/// change's.
inline constexpr std::size_t fadeMargin = 6;

/// The gains of a crossfade after `x` of it, for takes of that correlation.
FadeGains fadeGains(Curve curve, double bend, double x, double correlation);

/// How much of each take's power, and of what they have in common, is heard in the steps of a fade and those
/// around it.
struct FadeWeights {
  std::vector<float> outgoing;
  std::vector<float> incoming;
  std::vector<float> common;
};
FadeWeights fadeWeights(std::size_t length, Curve curve, double bend, double correlation);

/// The gains of a fade, sample by sample.
struct FadeCurves {
  std::vector<float> out;
  std::vector<float> in;
};
/// Before they are scaled for what the takes have in common, where they are matched.
FadeCurves fadeCurves(std::size_t frames, Curve curve, double bend);

/// What is the same for all fades of a length, made once for a rate: their curves; how they are weighted
/// where they are matched; and how much of a tone is heard in other bands because it is faded, the shorter
/// the fade, the more. Any thread.
class FadeLeaks {
 public:
  explicit FadeLeaks(SampleRate rate);
  [[nodiscard]] SampleRate rate() const { return rate_; }

  /// Of a matched fade of one of the lengths; the correlation is rounded to an eighth.
  [[nodiscard]] const FadeWeights& weights(std::size_t length, double correlation) const;

  /// Of a fade of one of the lengths, matched (to be scaled yet) or of equal power; none of any other.
  [[nodiscard]] const FadeCurves* curves(std::size_t length, Curve curve, double bend) const;

  /// Of what changes in a fade of that length, band by band, what it puts into the others.
  [[nodiscard]] SceneBands leaked(std::size_t length, const SceneBands& changing) const;

 private:
  using Table = std::array<SceneBands, sceneBands>;  // by the band it comes from
  static constexpr int correlationSteps = 12;        // from -0.5 to 1
  [[nodiscard]] static std::size_t indexOf(std::size_t length);
  SampleRate rate_;
  std::vector<FadeCurves> matched_;  // one for each length
  std::vector<FadeCurves> equalPower_;
  std::vector<Table> tables_;                                           // one for each length
  std::vector<std::array<FadeWeights, correlationSteps + 1>> weights_;  // likewise
};

}  // namespace yewdrift
