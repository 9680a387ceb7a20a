// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/joins/join_cost.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <numbers>

#include "core/plan/playback_plan.h"

namespace yewdrift {
namespace {

constexpr std::size_t margin = fadeMargin;
constexpr std::size_t listenSteps = 2;  // 5 ms from one look at the sound to the next
constexpr std::size_t longFade = 24;    // steps: those move slowly, half as many looks are enough
constexpr double stepMilliseconds = 2.5;

/// The logarithm to base 2 to about 0.005, quick enough to be asked for a million times.
inline float quickLog2(float x) {
  const auto bits = std::bit_cast<std::int32_t>(x);
  const auto exponent = static_cast<float>((bits >> 23) - 128);
  const float m = std::bit_cast<float>((bits & 0x7fffff) | 0x3f800000);
  return exponent + (-1.0F / 3.0F * m + 2.0F) * m - 2.0F / 3.0F;
}

SceneBands levelsOf(const SceneBands& power, float floor) {
  SceneBands level{};
  for (std::size_t band = 0; band < sceneBands; ++band) level[band] = quickLog2(power[band] + floor);
  return level;
}

FadeGains gainsAt(const FadeSteps& fade, double step, double correlation) {
  return fadeGains(fade.curve, fade.bend, step / static_cast<double>(fade.length), correlation);
}

/// An attack that is heard in part is another sound than in either take.
double cutBy(float heard) {
  return 3.0 * heard * (1.0 - heard);
}

/// The attacks of both takes: those that are one and the same, and those of one take only.
void addOnsets(JoinCost& cost, const MicrophoneScene& scene, const FadeSteps& fade) {
  constexpr float farthest = 24.0F;  // 60 ms: attacks farther apart are not the same one
  constexpr float fused = 3.0F;      // closer than 8 ms two attacks are heard as one
  const float begin = static_cast<float>(fade.from) - farthest - 4.0F;
  const float end = static_cast<float>(fade.from + fade.length) + farthest + 4.0F;
  const auto near = [&](const SceneOnset& onset) { return onset.step >= begin && onset.step <= end; };
  // In power, 0 to 1.
  const auto heard = [&](const SceneOnset& onset, bool outgoing) {
    const double step = static_cast<double>(onset.step) - static_cast<double>(fade.from);
    if (step <= 0.0) return outgoing ? 1.0F : 0.0F;
    if (step >= static_cast<double>(fade.length)) return outgoing ? 0.0F : 1.0F;
    const FadeGains gains = gainsAt(fade, step, 0.0);
    const float gain = outgoing ? gains.out : gains.in;
    return gain * gain;
  };
  const auto& incoming = scene.incoming.onsets;
  for (const SceneOnset& out : scene.outgoing.onsets) {
    if (!near(out)) continue;
    const float a = heard(out, true);
    if (!out.same) {
      cost.cut += out.strength * cutBy(a);
      continue;
    }
    const SceneOnset& in = incoming[*out.same];
    const float b = heard(in, false);
    const float strength = std::max(out.strength, in.strength);
    const bool apart = std::abs(in.step - out.step) > fused;
    cost.doubled += strength * (apart ? 2.0F : 0.5F) * std::min(a, b);
    cost.lost += strength * 2.0F * std::max(0.0F, 1.0F - (apart ? std::max(a, b) : a + b));
    cost.cut += 0.25 * strength * (cutBy(a) + cutBy(b));
  }
  for (const SceneOnset& in : incoming)
    if (!in.same && near(in)) cost.cut += in.strength * cutBy(heard(in, false));
}

/// The wave bends, where a fade sets in and ends, more than it does by itself.
double clickCost(const MicrophoneScene& scene, const FadeSteps& fade, std::size_t step) {
  const std::size_t last = scene.unlikeness.size();
  const std::size_t to = std::min(last, fade.from + fade.length);
  float own = 1e-6F;
  float peak = 0.0F;
  for (std::size_t k = fade.from >= 3 ? fade.from - 3 : 0; k < std::min(last, to + 3); ++k)
    own = std::max({own, scene.outgoing.bend[k], scene.incoming.bend[k]});
  for (std::size_t k = fade.from; k < to; ++k)
    peak = std::max({peak, scene.outgoing.peak[k], scene.incoming.peak[k]});
  const double frames = static_cast<double>(fade.length * step);
  // The matched pair's own second difference is at most so much, in units of the signal (fade_curve.h).
  const double bent = peak * 8.4 / (frames * frames);
  return 0.3 * std::max(0.0, std::log2(bent / static_cast<double>(own)));
}

/// What can be told from the attacks and the wave's own bends, without its spectra.
JoinCost attacksOf(const MicrophoneScene& scene, const FadeSteps& fade, std::size_t step) {
  JoinCost cost;
  addOnsets(cost, scene, fade);
  cost.click = clickCost(scene, fade, step);
  return cost;
}

/// Adds up a term of each band, several side by side.
template <typename Term>
float sumOverBands(Term term) {
  constexpr std::size_t atOnce = 8;
  static_assert(sceneBands % atOnce == 0);
  std::array<float, atOnce> sums{};
  for (std::size_t band = 0; band < sceneBands; band += atOnce)
    for (std::size_t i = 0; i < atOnce; ++i) sums[i] += term(band + i);
  return ((sums[0] + sums[4]) + (sums[1] + sums[5])) + ((sums[2] + sums[6]) + (sums[3] + sums[7]));
}

/// Adds up what is noticed of a sound, look by look.
class Sound {
 public:
  /// `stride` steps from one look to the next.
  Sound(const MicrophoneScene& scene, std::size_t stride) : scene_(scene), stride_(stride) {}

  /// The last of `levels` is heard around `step`; those before it, stride by stride, before. `both`: 1 where
  /// the two takes are heard alike, 0 where there is one of them only.
  void hear(std::size_t step, std::span<const SceneBands> levels, float both) {
    // Plain pointers: bands are looked at some ten million times, several side by side.
    const float* const share = scene_.share[step].data();
    const float* const level = levels.back().data();
    const float* const highest = scene_.highest[step].data();
    const float* const lowest = scene_.lowest[step].data();
    const float heard = scene_.heard[step];
    const std::size_t loudest = scene_.loudest[step];
    // A little more, or somewhat less, than either in one band is nothing.
    float beyond = sumOverBands([&](std::size_t band) {
      const float above = level[band] - highest[band] - 0.5F;
      const float below = 0.4F * (lowest[band] - level[band] - 1.0F);
      return share[band] * std::max(std::max(above, below), 0.0F);
    });
    // What carries the sound counts as much as all the rest where it swells, half as much where it sinks.
    beyond += heard * std::max({0.0F, level[loudest] - highest[loudest] - 0.25F,
                                0.5F * (lowest[loudest] - level[loudest] - 0.5F)});
    outside_ += beyond * decibelsPerUnit;
    common_ += both;
    const float unlike = scene_.unlikeness[step] / std::max(heard, 0.01F);  // dB
    exposed_ += both * heard * std::min(1.0F, unlike / 6.0F);
    // Two that sound alike are one sound, however long they are heard together.
    together_ += both * heard * std::clamp((unlike - 2.5F) / 5.0F, 0.0F, 1.0F);
    const std::size_t back = changeSteps / stride_;
    if (levels.size() <= back) return;
    const float* const before = levels[levels.size() - 1 - back].data();
    const float moved =
        sumOverBands([&](std::size_t band) { return share[band] * std::abs(level[band] - before[band]); });
    change_ += std::max(0.0F, moved * decibelsPerUnit - scene_.quickest[step] - 0.3F * heard);
  }

  /// What it will cost at least, whatever is heard yet.
  [[nodiscard]] double atLeast(double correlation) const {
    return outsideCost() + changeCost() + togetherCost(correlation);
  }

  void addTo(JoinCost& cost, double correlation) const {
    cost.outside = outsideCost();
    cost.change = changeCost();
    cost.together = togetherCost(correlation);
    cost.exposed = 0.6 * exposed_ / common_;
  }

 private:
  [[nodiscard]] double milliseconds() const { return stepMilliseconds * static_cast<double>(stride_); }
  /// 4 dB for 20 ms are plainly heard; for longer it is one flaw, not many.
  [[nodiscard]] double outsideCost() const {
    constexpr double most = 0.9;
    return most * (1.0 - std::exp(-outside_ * milliseconds() / 80.0 / most));
  }
  /// 5 dB more than either takes, within 10 ms.
  [[nodiscard]] double changeCost() const { return change_ * milliseconds() / 50.0; }
  [[nodiscard]] double togetherCost(double correlation) const {
    return together_ * milliseconds() / 200.0 * (1.0 - std::max(0.0, correlation));
  }

  const MicrophoneScene& scene_;
  std::size_t stride_;
  double outside_ = 0.0;
  double change_ = 0.0;
  double together_ = 0.0;
  double exposed_ = 0.0;
  double common_ = 1e-9;
};

}  // namespace

JoinJudge::JoinJudge(const FadeLeaks& leaks)
    : leaks_(leaks),
      step_(static_cast<std::size_t>(sceneStep(leaks.rate()).count)),
      spectra_(leaks.rate(), sceneStep(leaks.rate())) {}

JoinCost JoinJudge::cost(const JoinScene& joined, const FadeSteps& fade) {
  const double correlation = joined.correlation(fade.from, fade.from + fade.length);
  const std::size_t step = step_;
  const std::size_t reach = spectra_.reach() / step + 1;
  JoinCost worst;
  for (const MicrophoneScene& scene : joined.microphones) {
    JoinCost cost = attacksOf(scene, fade, step);
    mix(scene, fade, correlation);
    const auto start = static_cast<std::ptrdiff_t>(fade.from * step) - static_cast<std::ptrdiff_t>(padding());
    const std::size_t stride = fade.length >= longFade ? changeSteps : listenSteps;
    Sound sound(scene, stride);
    mixed_.clear();
    const std::size_t around = reach + changeSteps;
    const std::size_t to = std::min(scene.unlikeness.size(), fade.from + fade.length + around);
    for (std::size_t k = fade.from > around ? fade.from - around : 0; k < to; k += stride) {
      if (k + reach < fade.from)
        mixed_.push_back(scene.outgoing.level[k]);
      else if (k > fade.from + fade.length + reach)
        mixed_.push_back(scene.incoming.level[k]);
      else
        mixed_.push_back(
            levelsOf(spectra_.powers(spectra_.around(heard_, static_cast<std::ptrdiff_t>(k * step) - start)),
                     scene.floor[k]));
      const FadeGains gains =
          gainsAt(fade, static_cast<double>(k) - static_cast<double>(fade.from) + 0.5, correlation);
      sound.hear(k, mixed_, 2.0F * gains.out * gains.in);
    }
    sound.addTo(cost, correlation);
    if (cost.total() > worst.total()) worst = cost;
  }
  return worst;
}

std::size_t JoinJudge::padding() const {
  return 2 * spectra_.reach() + step_ * changeSteps;
}

void JoinJudge::mix(const MicrophoneScene& scene, const FadeSteps& fade, double correlation) {
  const std::size_t step = step_;
  const std::size_t length = fade.length * step;
  const std::size_t before = padding();
  const auto from = static_cast<std::ptrdiff_t>(fade.from * step) - static_cast<std::ptrdiff_t>(before);
  heard_.assign(length + 2 * before, 0.0F);
  // Of `take`, what is heard from `begin` of it up to `end`.
  const auto copy = [&](const std::vector<float>& take, std::size_t begin, std::size_t end) {
    const auto size = static_cast<std::ptrdiff_t>(take.size());
    const std::ptrdiff_t first =
        std::clamp<std::ptrdiff_t>(from + static_cast<std::ptrdiff_t>(begin), 0, size);
    const std::ptrdiff_t last =
        std::clamp<std::ptrdiff_t>(from + static_cast<std::ptrdiff_t>(end), first, size);
    std::copy(take.begin() + first, take.begin() + last, heard_.begin() + (first - from));
  };
  copy(scene.outgoing.samples, 0, before);
  copy(scene.incoming.samples, before + length, heard_.size());
  const FadeCurves* const known = leaks_.curves(fade.length, fade.curve, fade.bend);
  const FadeCurves own = known ? FadeCurves{} : fadeCurves(length, fade.curve, fade.bend);
  const FadeCurves& curves = known ? *known : own;
  const bool matched = fade.curve == Curve::Matched;
  const auto rho = static_cast<float>(correlation);
  const std::size_t room = scene.outgoing.samples.size();
  const std::size_t begin = std::min(room, fade.from * step);
  const float* const outgoing = scene.outgoing.samples.data() + begin;
  const float* const incoming = scene.incoming.samples.data() + begin;
  const float* const fadeOut = curves.out.data();
  const float* const fadeIn = curves.in.data();
  float* const mixed = heard_.data() + before;
  for (std::size_t i = 0; i < std::min(length, room - begin); ++i) {
    mixed[i] = fadeOut[i] * outgoing[i] + fadeIn[i] * incoming[i];
    if (matched) mixed[i] *= matchedScale(fadeOut[i], fadeIn[i], rho);
  }
}

JoinCost JoinJudge::guess(const JoinScene& joined, const FadeSteps& fade, double limit) {
  const double correlation = joined.correlation(fade.from, fade.from + fade.length);
  // Those that are tried are known; any other is weighted anew.
  const bool known = fade.curve == Curve::Matched && fade.bend == 0.0 &&
                     std::binary_search(fadeLengths.begin(), fadeLengths.end(), fade.length);
  const FadeWeights own =
      known ? FadeWeights{} : fadeWeights(fade.length, fade.curve, fade.bend, correlation);
  const FadeWeights& weights = known ? leaks_.weights(fade.length, correlation) : own;
  JoinCost worst;
  for (const MicrophoneScene& scene : joined.microphones) {
    JoinCost cost = attacksOf(scene, fade, step_);
    if (cost.total() <= limit) addGuess(cost, scene, fade, weights, correlation, limit);
    if (cost.total() > worst.total()) worst = cost;
    if (worst.total() > limit) break;
  }
  return worst;
}

void JoinJudge::addGuess(JoinCost& cost, const MicrophoneScene& scene, const FadeSteps& fade,
                         const FadeWeights& weights, double correlation, double limit) {
  const double attacks = cost.total();
  const std::size_t stride = fade.length >= longFade ? changeSteps : listenSteps;
  Sound sound(scene, stride);
  mixed_.clear();
  const std::size_t last = scene.unlikeness.size();
  // What changes in the fade is heard in other bands as well, while its middle is in the window.
  const std::size_t middle = std::min(fade.from + fade.length / 2, last - 1);
  SceneBands changing{};
  for (std::size_t band = 0; band < sceneBands; ++band)
    changing[band] = std::max(0.0F, scene.outgoing.power[middle][band] + scene.incoming.power[middle][band] -
                                        2.0F * scene.cross[middle][band]);
  const SceneBands leaked = leaks_.leaked(fade.length, changing);
  for (std::size_t i = 0; i < weights.common.size(); i += stride) {
    const std::size_t k = fade.from + i;
    if (k < margin || k - margin >= last) continue;
    const std::size_t step = k - margin;
    const std::size_t away = step > middle ? step - middle : middle - step;
    const float leak = away < sceneWindowAt.size() ? static_cast<float>(sceneWindowAt[away]) : 0.0F;
    const SceneBands& out = scene.outgoing.power[step];
    const SceneBands& in = scene.incoming.power[step];
    const SceneBands& cross = scene.cross[step];
    const float ofOut = weights.outgoing[i];
    const float ofIn = weights.incoming[i];
    const float ofBoth = weights.common[i];
    SceneBands power{};
    for (std::size_t band = 0; band < sceneBands; ++band)
      power[band] = std::max(0.0F, ofOut * out[band] + ofIn * in[band] + ofBoth * cross[band]) +
                    3.0F * leak * leaked[band];
    mixed_.push_back(levelsOf(power, scene.floor[step]));
    sound.hear(step, mixed_, ofBoth);
    if (mixed_.size() % 8 == 0 && attacks + sound.atLeast(correlation) > limit) break;
  }
  sound.addTo(cost, correlation);
}

}  // namespace yewdrift
