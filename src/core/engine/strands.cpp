// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/strands.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace yewdrift {
namespace {

constexpr int restFrames = 32;  // before a jump's target: what is quiet there comes from rest

float loudest(const float* left, const float* right, int frames) noexcept {
  float peak = 0.0F;
  for (int i = 0; i < frames; ++i) peak = std::max({peak, std::abs(left[i]), std::abs(right[i])});
  return peak;
}

}  // namespace

Strands::Strands(SampleRate rate, int largestBlock)
    : renderer_(largestBlock), fade_(static_cast<int>(framesFromSeconds(fadeSeconds, rate).count)) {
  for (auto* buffer : {&oldLeft_, &oldRight_, &addLeft_, &addRight_, &gatedLeft_, &gatedRight_, &heldGate_})
    buffer->resize(static_cast<std::size_t>(std::max(largestBlock, restFrames)));
}

void Strands::follow(const Strand& next, float gate) noexcept {
  if (now_.goesOnAs(next)) return;
  // How loud each is just now is where it fades from.
  const float progress = fadingCount_ == 0 ? 1.0F : static_cast<float>(done_) / static_cast<float>(fade_);
  const float present = share_ > 0.0F ? progress : 1.0F;
  const bool elsewhere = !now_.plan || now_.position != next.position;
  judged_ = !next.plan || !elsewhere;
  if (present <= 0.0F) {
    now_ = next;  // what it takes the place of did not sound yet
    return;
  }
  for (std::size_t i = 0; i < fadingCount_; ++i) fading_[i].from *= 1.0F - progress;
  if (crowded()) {
    const auto end = fading_.begin() + static_cast<std::ptrdiff_t>(fadingCount_);
    *std::ranges::min_element(fading_.begin(), end, {}, &Fading::from) = fading_[--fadingCount_];
  }
  fading_[fadingCount_++] = {now_, gate, present};
  float sum = 0.0F;
  for (std::size_t i = 0; i < fadingCount_; ++i) sum += fading_[i].from;
  share_ = std::abs(sum - 1.0F) < 1e-3F ? 1.0F : 1.0F / sum;
  now_ = next;
  done_ = 0;
}

bool Strands::render(int frames, const float* gate, float* left, float* right, float* peaks) noexcept {
  bool atHand = renderStrand(now_, frames, gate, left, right, peaks);
  if (fadingCount_ > 0 && !std::exchange(judged_, true) && comesFromRest(left, right, frames)) share_ = 0.0F;
  if (fadingCount_ > 0) atHand = fade(std::min(frames, fade_ - done_), left, right) && atHand;
  return atHand;
}

bool Strands::fade(int frames, float* left, float* right) noexcept {
  bool atHand = true;
  std::fill_n(addLeft_.begin(), frames, 0.0F);
  std::fill_n(addRight_.begin(), frames, 0.0F);
  for (std::size_t f = 0; f < fadingCount_; ++f) {
    Fading& fading = fading_[f];
    std::fill_n(heldGate_.begin(), frames, fading.gate);
    atHand =
        renderStrand(fading.strand, frames, heldGate_.data(), oldLeft_.data(), oldRight_.data(), nullptr) &&
        atHand;
    for (int i = 0; i < frames; ++i) {
      const auto at = static_cast<std::size_t>(i);
      const float gain =
          fading.from * (1.0F - (static_cast<float>(done_ + i) + 0.5F) / static_cast<float>(fade_));
      addLeft_[at] += gain * (oldLeft_[at] - share_ * left[i]);
      addRight_[at] += gain * (oldRight_[at] - share_ * right[i]);
    }
  }
  for (int i = 0; i < frames; ++i) {
    left[i] += addLeft_[static_cast<std::size_t>(i)];
    right[i] += addRight_[static_cast<std::size_t>(i)];
  }
  done_ += frames;
  if (done_ >= fade_) fadingCount_ = 0;
  return atHand;
}

/// `left` and `right` are its first frames. Where it is quiet just before them, whatever step they begin with
/// is its own.
bool Strands::comesFromRest(const float* left, const float* right, int frames) noexcept {
  Strand before = now_;
  before.position -= Frames{frames + restFrames};
  std::fill_n(heldGate_.begin(), restFrames, 0.0F);
  return renderStrand(before, restFrames, heldGate_.data(), oldLeft_.data(), oldRight_.data(), nullptr) &&
         loudest(oldLeft_.data(), oldRight_.data(), restFrames) <=
             0.01F * loudest(left, right, std::min(frames, fade_));
}

void Strands::silence() noexcept {
  now_ = {};
  fadingCount_ = 0;
  judged_ = true;
}

bool Strands::holds(const PreparedPlan* plan) const noexcept {
  if (now_.plan == plan) return true;
  for (std::size_t i = 0; i < fadingCount_; ++i)
    if (fading_[i].strand.plan == plan) return true;
  return false;
}

bool Strands::renderStrand(Strand& strand, int frames, const float* gate, float* left, float* right,
                           float* peaks) noexcept {
  std::fill_n(left, frames, 0.0F);
  std::fill_n(right, frames, 0.0F);
  const bool atHand = !strand.plan || renderPlan(strand, frames, gate, left, right, peaks);
  strand.position += Frames{frames};
  return atHand;
}

bool Strands::renderPlan(const Strand& strand, int frames, const float* gate, float* left, float* right,
                         float* peaks) noexcept {
  const PlaybackPlan& plan = *strand.plan->plan;
  bool atHand = true;
  for (std::size_t t = 0; t < plan.tracks.size(); ++t) {
    if (!plan.sounds(t)) continue;
    float peak = 0.0F;
    if (!plan.monitors[t].gated) {
      atHand = mix(strand, t, frames, left, right, peak) && atHand;
    } else {
      std::fill_n(gatedLeft_.begin(), frames, 0.0F);
      std::fill_n(gatedRight_.begin(), frames, 0.0F);
      atHand = mix(strand, t, frames, gatedLeft_.data(), gatedRight_.data(), peak) && atHand;
      for (int i = 0; i < frames; ++i) {
        left[i] += (1.0F - gate[i]) * gatedLeft_[static_cast<std::size_t>(i)];
        right[i] += (1.0F - gate[i]) * gatedRight_[static_cast<std::size_t>(i)];
      }
    }
    if (peaks) peaks[t] = std::max(peaks[t], peak);
  }
  return atHand;
}

bool Strands::mix(const Strand& strand, std::size_t track, int frames, float* left, float* right,
                  float& peak) noexcept {
  const PlaybackPlan& plan = *strand.plan->plan;
  if (const Choice* const chosen = plan.chosen(track, strand.heard))
    return renderer_.mixTrack(*chosen->plan, strand.position, frames, strand.plan->files, left, right, peak,
                              chosen->gain);
  return renderer_.mixTrack(*plan.tracks[track], strand.position, frames, strand.plan->files, left, right,
                            peak, plan.levelOf(track));
}

}  // namespace yewdrift
