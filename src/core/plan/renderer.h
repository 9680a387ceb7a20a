// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/plan/playback_plan.h"
#include "core/plan/sample_source.h"

namespace yewdrift {

/// The one renderer: the audio callback and flattening run this same code. A frame's value depends on its
/// position alone, never on where blocks begin, so what is heard is what is flattened, bit for bit.
/// Allocates only when constructed.
class Renderer {
 public:
  explicit Renderer(int largestBlock);

  /// The track's channels before gain and pan, into `out` (overwritten). count <= largestBlock. False where
  /// samples were not at hand in time.
  bool renderTrack(const TrackPlan& plan, Frames start, int count, SampleSource& source,
                   float* const* out) noexcept;

  /// Adds the track to the two sides of the mix, through its gains and `trim`. `peak` goes up to the
  /// loudest sample it adds.
  bool mixTrack(const TrackPlan& plan, Frames start, int count, SampleSource& source, float* left,
                float* right, float& peak, float trim = 1.0F) noexcept;

  /// All audible tracks, into `left` and `right` (overwritten). `peaks` may be null or have one place a
  /// track.
  bool renderMix(const PlaybackPlan& plan, Frames start, int count, SampleSource& source, float* left,
                 float* right, float* peaks) noexcept;

 private:
  void computeGains(const Segment& segment, Span span) noexcept;
  bool addSegment(const Segment& segment, Span block, int channel, SampleSource& source, float* out) noexcept;

  std::vector<float> samples_;
  std::vector<float> gains_;
  std::vector<float> channel_;
};

}  // namespace yewdrift
