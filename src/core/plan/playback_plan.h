// SPDX-License-Identifier: GPL-3.0-or-later
//
// What plays when, with which gain. Made from a session by compile(); immutable afterwards, so that the audio
// thread can read it while the session goes on changing.
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "core/session/resolved_composite.h"

namespace yewdrift {

/// Fade-in gains over a crossfade of some length, sampled in the middle of each frame; the fade-out is the
/// same read backwards. Shared by all crossfades of the same curve and length.
using FadeTable = std::vector<float>;
std::shared_ptr<const FadeTable> makeFadeTable(Curve curve, Frames length);

/// One side of a crossfade over `span`.
struct Fade {
  Span span;
  std::shared_ptr<const FadeTable> table;
  bool matched = false;
  float correlation = 0.0F;  // of the two signals, where matched
};

/// A stretch of one clip as one piece plays it, crossfades included.
struct Segment {
  Span span;
  Frames origin;  // session frame of source frame 0
  std::vector<ChannelSource> channels;
  float gain = 1.0F;
  std::optional<Fade> fadeIn;
  std::optional<Fade> fadeOut;
};

/// Of one channel of a track to the two sides of the mix.
struct StereoGain {
  float left = 1.0F;
  float right = 1.0F;
};

struct TrackPlan {
  TrackId track;
  std::vector<Segment> segments;  // by start
  std::vector<Frames> latestEnd;  // the latest end of segments up to and including this one
  std::vector<StereoGain> mix;    // one a channel; gain and pan of microphone and track
  bool audible = true;            // not muted, and no other track soloed
  [[nodiscard]] int channels() const { return static_cast<int>(mix.size()); }
};

/// How a track's inputs are heard, and what becomes of the track where it is recorded.
struct MonitorPlan {
  struct Input {
    int input = 0;
    StereoGain gain;
  };
  Monitoring mode = Monitoring::Off;  // Off too where the track is not armed
  std::vector<Input> inputs;
  bool gated = false;  // silent where it is recorded
};

struct PlaybackPlan {
  SampleRate rate;
  std::vector<PoolFile> files;  // as in the session's pool
  std::vector<std::shared_ptr<const TrackPlan>> tracks;
  std::vector<MonitorPlan> monitors;  // one a track
  TempoMap tempo;                     // for the click
  ClickOptions click;
  [[nodiscard]] const TrackPlan* track(TrackId id) const;
};

/// What is heard of the track in hand.
struct Listening {
  TrackId track;
  LaneNumber lane;  // this lane alone in place of the composite
};

/// The correlation of two stretches, all channels together; cached by content, since joins rarely change.
class CorrelationMeter {
 public:
  virtual ~CorrelationMeter() = default;
  /// Of clip `a` and clip `b` as they lie over the session span, `a` slipped to aOrigin and `b` to bOrigin.
  virtual float correlation(const std::vector<ChannelSource>& a, Frames aOrigin,
                            const std::vector<ChannelSource>& b, Frames bOrigin, Span over) = 0;
};

/// The plan of a track's composite, or of one lane alone.
TrackPlan compileTrack(const Session& session, const Track& track, CorrelationMeter& meter);
TrackPlan compileLane(const Session& session, const Track& track, const Lane& lane);

struct CompileOptions {
  std::vector<Listening> listening;  // at most one a track
  std::vector<TrackId> gated;        // earlier takes silent where they are recorded
};
/// The whole session's plan. Tracks that are equal (in memory) to those `previous` was made from keep their
/// plan.
class Compiler {
 public:
  explicit Compiler(CorrelationMeter& meter) : meter_(meter) {}
  std::shared_ptr<const PlaybackPlan> compile(const Session& session, const CompileOptions& options);

 private:
  struct Made {
    Shared<Track> from;
    std::optional<LaneNumber> lane;
    bool audible = true;
    std::shared_ptr<const TrackPlan> plan;
  };
  CorrelationMeter& meter_;
  SampleRate rate_;
  std::vector<Made> made_;
};

/// From the first to the last frame that the plan plays; empty where it plays nothing.
Span extentOf(const TrackPlan& plan);
Span extentOf(const PlaybackPlan& plan);

}  // namespace yewdrift
