// SPDX-License-Identifier: GPL-3.0-or-later
//
// What plays when, with which gain. Made from a session by compile(); immutable afterwards, so that the audio
// thread can read it while the session goes on changing.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <vector>

#include "core/plan/derived_sources.h"
#include "core/session/resolved_composite.h"
#include "core/signal/fade_curve.h"

namespace yewdrift {

/// Gains of both sides after `x` of a crossfade, 0 to 1; a matched one's before it is scaled by the
/// correlation of the two signals (matchedScale).
FadeGains fadeAt(Curve curve, double x, double bend = 0.0);
/// Gains of both sides over a crossfade of some length, sampled in the middle of each frame. Shared by all
/// crossfades of the same curve, bend and length.
using FadeTable = std::vector<FadeGains>;
std::shared_ptr<const FadeTable> makeFadeTable(Curve curve, Frames length, double bend = 0.0);

/// One side of a crossfade over `span`.
struct Fade {
  Span span;
  std::shared_ptr<const FadeTable> table;
  bool matched = false;
  float correlation = 0.0F;  // of the two signals, where matched
};

/// A line that rides the level: a lane's, a piece's or the composite's; it lies `shift` later than it says.
struct RiddenLevel {
  std::shared_ptr<const LevelLine> line;
  Frames shift;
};

/// A stretch of one clip as one piece plays it, crossfades included.
struct Segment {
  Span span;
  Frames origin;  // session frame of source frame 0
  std::vector<ChannelSource> channels;
  float gain = 1.0F;
  std::vector<RiddenLevel> levels;  // each of them multiplies
  std::optional<Fade> fadeIn;
  std::optional<Fade> fadeOut;
  /// Where the composite itself fades at its start or end, over this and whatever else plays there.
  std::shared_ptr<const Fade> compositeIn = nullptr;
  std::shared_ptr<const Fade> compositeOut = nullptr;
};

/// Of one channel of a track to the two sides of the mix.
struct StereoGain {
  float left = 1.0F;
  float right = 1.0F;
  bool operator==(const StereoGain&) const = default;
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

/// What can be heard in place of what one track plays: its composite, a lane, or several lanes together.
struct Choice {
  std::optional<LaneNumber> lane;  // none: the composite
  std::shared_ptr<const TrackPlan> plan;
  float gain = 1.0F;      // so that takes can be compared at one level
  bool together = false;  // several lanes, which `lane` does not name
};

struct PlaybackPlan {
  SampleRate rate;
  std::vector<PoolFile> files;    // as in the session's pool
  std::vector<PoolFile> derived;  // made from them; those that segments name by negative numbers
  std::vector<std::shared_ptr<const TrackPlan>> tracks;
  std::vector<float> levels;  // one a track, or none: how far it is turned to listen to another; 0: silent
  /// Of the track in hand: any of them is heard at once, by its index. None where no track is in hand.
  std::optional<std::size_t> choiceTrack;
  std::vector<Choice> choices;
  int heard = 0;                      // of the choices, when the plan begins to play
  std::vector<MonitorPlan> monitors;  // one a track
  TempoMap tempo;                     // for the click
  ClickOptions click;
  bool grid = true;  // people count in beats; else in seconds
  [[nodiscard]] float levelOf(std::size_t track) const {
    return track < levels.size() ? levels[track] : 1.0F;
  }
  [[nodiscard]] bool sounds(std::size_t track) const {
    return tracks[track]->audible && levelOf(track) > 0.0F;
  }
  /// What is heard of a track, by the index of a choice; null where it is not the track in hand.
  [[nodiscard]] const Choice* chosen(std::size_t track, int choice) const noexcept {
    return choiceTrack == track ? &choices[static_cast<std::size_t>(choice)] : nullptr;
  }
  /// The index of the choice that plays that lane, or the composite; none where there is no such choice.
  [[nodiscard]] std::optional<int> choiceOf(TrackId id, std::optional<LaneNumber> lane) const;
};

/// What is heard of a track in place of its composite.
struct HeardLanes {
  TrackId track;
  std::vector<LaneNumber> lanes;  // together; none: the composite
};

/// How a session is listened to: all that a plan is made from beside the session itself. The default is the
/// music as it is.
struct Listening {
  std::vector<HeardLanes> heard{};  // at most one a track
  std::vector<TrackId> gated{};     // earlier takes silent where they are recorded
  std::optional<TrackId> inHand{};  // its composite and its lanes are there to choose from
  std::optional<Span> within{};     // only there its lanes are heard, as if picked; around it the composite
  std::map<LaneNumber, Decibels> trims{};       // of its lanes, so that all are equally loud
  Decibels compositeTrim{};                     // the same of its composite
  std::optional<Decibels> others = Decibels{};  // by how much the other tracks are turned; none: silent
};

/// The correlation of two stretches, all channels together; cached by content, since joins rarely change.
class CorrelationMeter {
 public:
  virtual ~CorrelationMeter() = default;
  /// Of clip `a` and clip `b` as they lie over the session span, `a` slipped to aOrigin and `b` to bOrigin.
  virtual float correlation(const std::vector<ChannelSource>& a, Frames aOrigin,
                            const std::vector<ChannelSource>& b, Frames bOrigin, Span over) = 0;
};

/// The plan of a track's composite, or of one lane alone. `derived`: takes at another pitch; null, or where
/// one is not there: they play plain.
TrackPlan compileTrack(const Session& session, const Track& track, CorrelationMeter& meter,
                       DerivedSources* derived = nullptr);
TrackPlan compileLane(const Session& session, const Track& track, const Lane& lane,
                      DerivedSources* derived = nullptr);

/// The whole session's plan. Tracks that are equal (in memory) to those `previous` was made from keep their
/// plan.
class Compiler {
 public:
  /// `derived` outlives it, or is null.
  explicit Compiler(CorrelationMeter& meter, DerivedSources* derived = nullptr)
      : meter_(meter), derived_(derived) {}
  std::shared_ptr<const PlaybackPlan> compile(const Session& session, const Listening& how);
  /// A file of that track is another than it was: it is compiled anew.
  void forget(TrackId track);
  /// Something derived is there that was not.
  void lookForDerived() { last_ = {}; }

 private:
  /// Of a whole track's composite, or of one lane: what it was made from, kept as long as it is wanted.
  struct MadeTrack {
    Shared<Track> from;
    std::shared_ptr<const TrackPlan> plan;
  };
  struct MadeLane {
    Shared<Lane> from;
    std::shared_ptr<const TrackPlan> plan;
  };
  /// Of lanes as if they were picked.
  struct MadePicked {
    Shared<Track> from;
    std::vector<LaneNumber> lanes;
    Span within;
    double trim = 0.0;
    std::shared_ptr<const TrackPlan> plan;
  };
  struct Made {
    std::vector<MadeTrack> tracks;
    std::map<const Lane*, MadeLane> lanes;
    std::vector<MadePicked> picked;
  };
  std::shared_ptr<const TrackPlan> compositeOf(const Session& session, const Shared<Track>& track,
                                               bool audible);
  std::shared_ptr<const TrackPlan> laneOf(const Session& session, const Track& track,
                                          const Shared<Lane>& lane, bool audible);
  std::shared_ptr<const TrackPlan> pickedOf(const Session& session, const Shared<Track>& track,
                                            const std::vector<LaneNumber>& lanes, const Listening& how,
                                            bool audible);
  std::shared_ptr<const TrackPlan> togetherOf(const Session& session, const Track& track,
                                              const std::vector<LaneNumber>& lanes, const Listening& how,
                                              bool audible);
  void addChoices(PlaybackPlan& plan, const Session& session, const Listening& how);

  CorrelationMeter& meter_;
  DerivedSources* derived_;
  SampleRate rate_;
  Made last_;    // for the last plan
  Made making_;  // for this one
};

/// From the first to the last frame that the plan plays; empty where it plays nothing.
Span extentOf(const TrackPlan& plan);
Span extentOf(const PlaybackPlan& plan);

}  // namespace yewdrift
