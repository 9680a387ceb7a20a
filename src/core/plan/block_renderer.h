// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <vector>

#include "core/plan/file_sample_source.h"
#include "core/plan/offline_render.h"
#include "core/plan/pitched_files.h"
#include "core/plan/renderer.h"

namespace yewdrift {

/// Renders what a session, a track's composite or one of its lanes plays, from the files on disk, through the
/// renderer that plays it live. For core/plan only. One thread at a time.
class BlockRenderer {
 public:
  static constexpr int blockFrames = 4096;

  BlockRenderer(const SessionDisk& disk, const Session& session, std::optional<TrackId> track,
                std::optional<LaneNumber> lane);
  /// Makes what is to be heard at another pitch, where it is not there. Throws Error where it was cancelled.
  static void makePitched(const SessionDisk& disk, const Session& session, std::optional<TrackId> track,
                          const RenderProgress& progress);

  [[nodiscard]] int channels() const { return track_ ? track_->channels() : 2; }
  /// From the first to the last frame that plays.
  [[nodiscard]] Span extent() const;
  /// Null where the whole mix is rendered.
  [[nodiscard]] const TrackPlan* trackPlan() const { return track_ ? &*track_ : nullptr; }
  /// From now on that is rendered of the track, in place of what the session plays.
  void play(TrackPlan plan) { track_ = std::move(plan); }
  /// Throws Error, naming the file, where what plays in the span is not all there.
  void requireFiles(const std::vector<PoolFile>& pool, Span span) const;
  /// Interleaved; at most blockFrames. Throws Error, naming the file, where one could not be read.
  const float* render(Frames at, int count);

 private:
  const SessionDisk& disk_;
  FileCorrelationMeter meter_;
  PitchedFiles pitched_;
  std::optional<FileSampleSource> source_;
  Renderer renderer_;
  std::optional<TrackPlan> track_;
  std::shared_ptr<const PlaybackPlan> mix_;
  std::vector<std::vector<float>> channels_;
  std::vector<float*> pointers_;
  std::vector<float> interleaved_;
};

}  // namespace yewdrift
