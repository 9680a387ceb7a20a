// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/plan/renderer.h"

#include <algorithm>
#include <cmath>

#include "core/signal/fade_curve.h"

namespace yewdrift {
namespace {

/// Of an optional fade, or a shared one.
template <typename Fading>
bool touches(const Fading& fade, Span span) {
  return fade && fade->span.overlaps(span);
}

/// What fades in begins with its fade, and what fades out ends with it (compile.cpp): the rest is whole.
void applyFade(const Fade& fade, bool in, Span span, float* faded) noexcept {
  const Span part = fade.span.intersect(span);
  for (Frames at = part.start; at < part.end; at += Frames{1}) {
    const FadeGains gains = (*fade.table)[static_cast<std::size_t>((at - fade.span.start).count)];
    float side = in ? gains.in : gains.out;
    if (fade.matched) side *= matchedScale(gains.out, gains.in, fade.correlation);
    faded[(at - span.start).count] *= side;
  }
}

/// The segments that may touch [start, end).
std::size_t firstSegment(const TrackPlan& plan, Frames start) noexcept {
  return static_cast<std::size_t>(std::upper_bound(plan.latestEnd.begin(), plan.latestEnd.end(), start) -
                                  plan.latestEnd.begin());
}

}  // namespace

Renderer::Renderer(int largestBlock)
    : samples_(static_cast<std::size_t>(largestBlock)),
      gains_(static_cast<std::size_t>(largestBlock)),
      channel_(static_cast<std::size_t>(largestBlock)) {}

void Renderer::computeGains(const Segment& segment, Span span) noexcept {
  std::fill_n(gains_.begin(), span.length().count, segment.gain);
  if (touches(segment.fadeIn, span)) applyFade(*segment.fadeIn, true, span, gains_.data());
  if (touches(segment.fadeOut, span)) applyFade(*segment.fadeOut, false, span, gains_.data());
  if (touches(segment.compositeIn, span)) applyFade(*segment.compositeIn, true, span, gains_.data());
  if (touches(segment.compositeOut, span)) applyFade(*segment.compositeOut, false, span, gains_.data());
  const std::span<float> gains(gains_.data(), static_cast<std::size_t>(span.length().count));
  for (const RiddenLevel& level : segment.levels)
    multiplyByLevel(*level.line, span.start - level.shift, gains);
}

bool Renderer::addSegment(const Segment& segment, Span block, int channel, SampleSource& source,
                          float* out) noexcept {
  const Span span = segment.span.intersect(block);
  if (span.empty()) return true;
  const int count = static_cast<int>(span.length().count);
  const ChannelSource from = segment.channels[static_cast<std::size_t>(channel)];
  const bool atHand =
      source.read(from.file, from.channel, span.start - segment.origin, count, samples_.data());
  const float* const samples = samples_.data();
  float* target = out + (span.start - block.start).count;
  const bool plain = segment.gain == 1.0F && segment.levels.empty() && !touches(segment.fadeIn, span) &&
                     !touches(segment.fadeOut, span) && !touches(segment.compositeIn, span) &&
                     !touches(segment.compositeOut, span);
  if (plain) {
    for (int i = 0; i < count; ++i) target[i] += samples[i];
    return atHand;
  }
  computeGains(segment, span);
  const float* const gains = gains_.data();
  for (int i = 0; i < count; ++i) target[i] += samples[i] * gains[i];
  return atHand;
}

bool Renderer::renderTrack(const TrackPlan& plan, Frames start, int count, SampleSource& source,
                           float* const* out) noexcept {
  const Span block{start, start + Frames{count}};
  bool atHand = true;
  for (int channel = 0; channel < plan.channels(); ++channel) {
    std::fill_n(out[channel], count, 0.0F);
    for (std::size_t i = firstSegment(plan, start);
         i < plan.segments.size() && plan.segments[i].span.start < block.end; ++i)
      atHand = addSegment(plan.segments[i], block, channel, source, out[channel]) && atHand;
  }
  return atHand;
}

bool Renderer::mixTrack(const TrackPlan& plan, Frames start, int count, SampleSource& source, float* left,
                        float* right, float& peak, float trim) noexcept {
  const Span block{start, start + Frames{count}};
  bool atHand = true;
  const std::size_t first = firstSegment(plan, start);
  if (first >= plan.segments.size() || plan.segments[first].span.start >= block.end) return true;
  for (int channel = 0; channel < plan.channels(); ++channel) {
    std::fill_n(channel_.begin(), count, 0.0F);
    for (std::size_t i = first; i < plan.segments.size() && plan.segments[i].span.start < block.end; ++i)
      atHand = addSegment(plan.segments[i], block, channel, source, channel_.data()) && atHand;
    const StereoGain mix = plan.mix[static_cast<std::size_t>(channel)];
    const StereoGain gain{mix.left * trim, mix.right * trim};
    const float loudest = std::max(gain.left, gain.right);
    const float* const samples = channel_.data();
    for (int i = 0; i < count; ++i) {
      const float sample = samples[i];
      left[i] += sample * gain.left;
      right[i] += sample * gain.right;
      peak = std::max(peak, std::abs(sample) * loudest);
    }
  }
  return atHand;
}

bool Renderer::renderMix(const PlaybackPlan& plan, Frames start, int count, SampleSource& source, float* left,
                         float* right, float* peaks) noexcept {
  std::fill_n(left, count, 0.0F);
  std::fill_n(right, count, 0.0F);
  bool atHand = true;
  for (std::size_t t = 0; t < plan.tracks.size(); ++t) {
    float peak = 0.0F;
    if (plan.sounds(t))
      atHand = mixTrack(*plan.tracks[t], start, count, source, left, right, peak, plan.levelOf(t)) && atHand;
    if (peaks) peaks[t] = std::max(peaks[t], peak);
  }
  return atHand;
}

}  // namespace yewdrift
