// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <vector>

#include "core/engine/prepared_plan.h"
#include "core/plan/renderer.h"

namespace yewdrift {

/// What sounds from some frame on: a plan from a position, with one of its choices; without a plan, silence.
struct Strand {
  PreparedPlan* plan = nullptr;
  int heard = 0;
  Frames position;

  /// Whether `next` is this one, going on.
  [[nodiscard]] bool goesOnAs(const Strand& next) const noexcept {
    return plan == next.plan && (!plan || (heard == next.heard && position == next.position));
  }
};

/// The one way to jump. Wherever what sounds does not simply go on (a loop's wrap, going elsewhere, starting,
/// stopping, another plan, another take), what sounded before is played some milliseconds further and fades
/// while what comes now fades in; the two add up to one, so where both are the same nothing changes, bit for
/// bit. What comes from rest, as a note played right at a loop's start, begins as it was played.
/// Audio thread; allocates only when made.
class Strands {
 public:
  static constexpr double fadeSeconds = 0.005;
  Strands(SampleRate rate, int largestBlock);

  /// From here on `next` sounds. `gate`: how far it is recorded just now, 0..1, which what fades keeps.
  void follow(const Strand& next, float gate) noexcept;
  /// The next frames, into `left` and `right` (overwritten). `gate` of each frame: where it is 1, tracks that
  /// are hushed while recorded are silent. `peaks` may be null or has one place a track. False where samples
  /// were not at hand.
  bool render(int frames, const float* gate, float* left, float* right, float* peaks) noexcept;
  /// At once, for when nobody hears it.
  void silence() noexcept;

  [[nodiscard]] bool holds(const PreparedPlan* plan) const noexcept;
  /// Whether another break now would cut short what fades.
  [[nodiscard]] bool crowded() const noexcept { return fadingCount_ == fading_.size(); }
  [[nodiscard]] int fadeFrames() const noexcept { return fade_; }

 private:
  struct Fading {
    Strand strand;
    float gate = 0.0F;
    float from = 1.0F;  // its gain where it began to fade
  };
  bool renderStrand(Strand& strand, int frames, const float* gate, float* left, float* right,
                    float* peaks) noexcept;
  bool renderPlan(const Strand& strand, int frames, const float* gate, float* left, float* right,
                  float* peaks) noexcept;
  bool mix(const Strand& strand, std::size_t track, int frames, float* left, float* right,
           float& peak) noexcept;
  bool fade(int frames, float* left, float* right) noexcept;
  [[nodiscard]] bool comesFromRest(const float* left, const float* right, int frames) noexcept;

  Renderer renderer_;
  int fade_;
  Strand now_;
  std::array<Fading, 4> fading_;
  std::size_t fadingCount_ = 0;
  int done_ = 0;        // of fade_
  bool judged_ = true;  // whether what sounds now comes from rest
  float share_ = 1.0F;  // of what fades that what sounds now takes over; 0: it sounds fully at once
  std::vector<float> oldLeft_;
  std::vector<float> oldRight_;
  std::vector<float> addLeft_;
  std::vector<float> addRight_;
  std::vector<float> gatedLeft_;
  std::vector<float> gatedRight_;
  std::vector<float> heldGate_;
};

}  // namespace yewdrift
