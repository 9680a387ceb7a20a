// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <tuple>
#include <utility>

#include "core/plan/track_plan_parts.h"
#include "core/signal/fade_curve.h"

namespace yewdrift {
namespace {

/// The fade tables of one compilation, each made once.
class FadeTables {
 public:
  std::shared_ptr<const FadeTable> get(Curve curve, Frames length, double bend = 0.0) {
    auto& table = tables_[{curve, length, bend}];
    if (!table) table = makeFadeTable(curve, length, bend);
    return table;
  }

 private:
  std::map<std::tuple<Curve, Frames, double>, std::shared_ptr<const FadeTable>> tables_;
};

StereoGain stereoGain(double gain, double pan) {
  // Equal-power pan law (common practice): -3 dB on both sides in the middle.
  const double angle = (pan + 1.0) * std::numbers::pi / 4.0;
  return {static_cast<float>(gain * std::cos(angle)), static_cast<float>(gain * std::sin(angle))};
}

/// The clip that fades on this side of a join, the first of several; null where it is silence.
const Clip* fadingClip(const Track& track, const Piece& piece, const Piece& other, Frames edge) {
  const Clip* found = nullptr;
  forEachFading(piece, other, [&](LaneNumber number) {
    const Lane* lane = track.lane(number);
    if (!found && lane) found = clipAt(*lane, edge - piece.slip);
  });
  return found;
}

/// A clip of a lane where a piece plays it, in session time.
struct Placed {
  Placed(const Clip& clip, Frames slip)
      : window(clip.window.shifted(slip)),
        extent(clip.extent().shifted(slip)),
        origin(clip.origin + slip),
        channels(&clip.channels) {}
  Span window;
  Span extent;
  Frames origin;
  const std::vector<ChannelSource>* channels;

  [[nodiscard]] bool goesOnAs(const Placed& next) const {
    return origin == next.origin && *channels == *next.channels;
  }
};

/// Where a take is cut inside what plays it: fades of its own, into the material beyond the cut, so that what
/// is audible stays as it was played. Where there is none the take itself begins or ends, and nothing is
/// faded.
class EdgeFades {
 public:
  explicit EdgeFades(SampleRate rate) : length_(framesFromSeconds(0.005, rate)) {}

  /// At `edge`, where `clip` begins to sound; nothing may sound before `room`.
  std::optional<Fade> in(const Placed& clip, Frames edge, const std::optional<Placed>& before, Frames room) {
    if (before && before->window.end == edge) return between(*before, clip);
    const Frames material = std::min(length_, edge - clip.extent.start);
    const Frames start = edge - std::min(material, edge - room);
    return fade(Curve::EqualGain, {start, start + material});
  }
  /// At `edge`, where it ceases to.
  std::optional<Fade> out(const Placed& clip, Frames edge, const std::optional<Placed>& behind, Frames room) {
    if (behind && behind->window.start == edge) return between(clip, *behind);
    const Frames material = std::min(length_, clip.extent.end - edge);
    const Frames end = edge + std::min(material, room - edge);
    return fade(Curve::EqualGain, {end - material, end});
  }
  FadeTables& tables() { return tables_; }

 private:
  /// Two clips of a lane that meet: a crossfade, unless they are one recording that goes on.
  std::optional<Fade> between(const Placed& left, const Placed& right) {
    if (left.goesOnAs(right)) return std::nullopt;
    const Frames at = left.window.end;
    const Frames half{length_.count / 2};
    const Span span{at - std::min({half, at - right.extent.start, left.window.length()}),
                    at + std::min({half, left.extent.end - at, right.window.length()})};
    return fade(Curve::EqualPower, span);
  }
  std::optional<Fade> fade(Curve curve, Span span) {
    if (span.empty()) return std::nullopt;
    return Fade{span, tables_.get(curve, span.length())};
  }

  Frames length_;
  FadeTables tables_;
};

/// The stretch in which a lane is played, and what becomes of it at its ends.
struct LaneEdges {
  Span own;
  Span room;       // fades of the lane's own may reach as far
  bool fadesIn{};  // what is cut at own.start has a fade of its own, or else
  bool fadesOut{};
  std::optional<Fade> in;  // this one, or none
  std::optional<Fade> out;
};

/// How a lane sounds where it is played.
struct LaneSound {
  Decibels gain;
  Cents pitch;
  std::vector<RiddenLevel> levels;
};

/// Where files are to be had at the pitch they are wanted at.
class Pitching {
 public:
  Pitching(const std::vector<PoolFile>& pool, DerivedSources* derived) : pool_(pool), derived_(derived) {}

  /// As they are where one of them is not there at that pitch: a set is heard as one.
  [[nodiscard]] std::vector<ChannelSource> at(const std::vector<ChannelSource>& channels, Cents pitch) const {
    if (!derived_ || pitch.value == 0.0) return channels;
    std::vector<ChannelSource> pitched = channels;
    for (ChannelSource& source : pitched) {
      const auto name = derived_->pitched(pool_[static_cast<std::size_t>(source.file)], pitch);
      if (!name) return channels;
      source.file = *name;
    }
    return pitched;
  }

 private:
  const std::vector<PoolFile>& pool_;
  DerivedSources* derived_;
};

std::shared_ptr<const LevelLine> sharedLine(const LevelLine& line) {
  return line.empty() ? nullptr : std::make_shared<const LevelLine>(line);
}

void addSegments(std::vector<Segment>& segments, const Lane& lane, Frames slip, const LaneSound& sound,
                 const LaneEdges& edges, EdgeFades& edgeFades, const Pitching& pitching) {
  const auto placed = [&](std::size_t i) {  // none before the first (the number wraps), or behind the last
    return i < lane.clips.size() ? std::optional(Placed(lane.clips[i], slip)) : std::nullopt;
  };
  const auto first = std::ranges::upper_bound(lane.clips, edges.own.start - slip, {},
                                              [](const Clip& clip) { return clip.window.end; });
  for (auto i = static_cast<std::size_t>(first - lane.clips.begin()); i < lane.clips.size(); ++i) {
    const Placed clip(lane.clips[i], slip);
    Segment segment;
    segment.span = clip.window.intersect(edges.own);
    if (segment.span.empty()) break;
    if (segment.span.start > edges.own.start || edges.fadesIn)
      segment.fadeIn = edgeFades.in(clip, segment.span.start, placed(i - 1), edges.room.start);
    else
      segment.fadeIn = edges.in;
    if (segment.span.end < edges.own.end || edges.fadesOut)
      segment.fadeOut = edgeFades.out(clip, segment.span.end, placed(i + 1), edges.room.end);
    else
      segment.fadeOut = edges.out;
    // Fades read on beyond the edges, as far as there is material.
    if (segment.fadeIn)
      segment.span.start =
          std::max(clip.extent.start, std::min(segment.span.start, segment.fadeIn->span.start));
    if (segment.fadeOut)
      segment.span.end = std::min(clip.extent.end, std::max(segment.span.end, segment.fadeOut->span.end));
    segment.origin = clip.origin;
    segment.channels = pitching.at(*clip.channels, sound.pitch);
    segment.gain = factorOf(sound.gain);
    segment.levels = sound.levels;
    segments.push_back(std::move(segment));
  }
}

class TrackCompiler {
 public:
  TrackCompiler(const Session& session, const Track& track, CorrelationMeter& meter, DerivedSources* derived)
      : track_(track),
        composite_(resolve(track, session.rate)),
        meter_(meter),
        edgeFades_(session.rate),
        pitching_(*session.pool, derived),
        level_(sharedLine(track.composite.level)) {
    for (const auto& lane : track.lanes)
      if (!lane->level.empty()) levels_[lane->number] = sharedLine(lane->level);
  }

  std::vector<Segment> segments() {
    std::vector<Fade> fades;
    for (const Join& join : composite_.joins) fades.push_back(fadeOf(join));
    const auto& pieces = composite_.pieces;
    std::size_t next = 0;
    Boundary in;
    for (std::size_t i = 0; i < pieces.size(); ++i) {
      const Frames end = pieces[i].span.end;
      while (next < composite_.joins.size() && composite_.joins[next].at < end) ++next;
      Boundary out;
      if (i + 1 < pieces.size()) out.beyond = &pieces[i + 1];
      if (next < composite_.joins.size() && composite_.joins[next].at == end) out.join = &fades[next];
      addPiece(pieces[i], in, out);
      in = {&pieces[i], out.join};
    }
    fadeEnds();
    return std::move(segments_);
  }

 private:
  /// An edge of a piece: what lies beyond, null at the composite's ends, and the crossfade there; null where
  /// there is no join but a gap.
  struct Boundary {
    const Piece* beyond = nullptr;
    const Fade* join = nullptr;

    /// What becomes of a lane of `piece` there: nothing where it sounds on in the next.
    [[nodiscard]] std::optional<Fade> fadeOf(const Piece& piece, LaneNumber lane) const {
      std::optional<Fade> fade;
      if (!join || join->span.empty()) return fade;
      forEachFading(piece, *beyond, [&](LaneNumber fading) {
        if (fading == lane) fade = *join;
      });
      return fade;
    }
    [[nodiscard]] bool gap() const { return beyond && !join; }
  };

  Fade fadeOf(const Join& join) {
    Fade fade;
    fade.span = {join.at - join.shape.before, join.at + join.shape.after};
    if (fade.span.empty()) return fade;
    fade.table = edgeFades_.tables().get(join.shape.curve, fade.span.length(), join.shape.bend);
    fade.matched = join.shape.curve == Curve::Matched;
    if (!fade.matched) return fade;
    const Piece* left = composite_.pieceAt(join.at - Frames{1});
    const Piece* right = composite_.pieceAt(join.at);
    const Clip* a = fadingClip(track_, *left, *right, join.at - Frames{1});
    const Clip* b = fadingClip(track_, *right, *left, join.at);
    // At another pitch a signal has nothing in common with what it was.
    const auto pitch = [this](const Piece& piece) {
      const Lane* lane = piece.lane ? track_.lane(*piece.lane) : nullptr;
      return piece.pitch.value + (lane ? lane->pitch.value : 0.0);
    };
    if (a && b && pitch(*left) == 0.0 && pitch(*right) == 0.0)
      fade.correlation = meter_.correlation(a->channels, a->origin + left->slip, b->channels,
                                            b->origin + right->slip, fade.span);
    return fade;
  }

  /// The composite's own, no longer than it is; null where it begins or ends as it was played.
  [[nodiscard]] std::shared_ptr<const Fade> compositeFade(const EndFade& fade, bool in) {
    if (composite_.pieces.empty()) return nullptr;
    const Span all{composite_.pieces.front().span.start, composite_.pieces.back().span.end};
    const Frames length = std::min(fade.length, all.length());
    if (length.count <= 0) return nullptr;
    const Span span = in ? Span{all.start, all.start + length} : Span{all.end - length, all.end};
    FadeTable table = *makeFadeTable(fade.curve, length, fade.bend);
    if (!in) {
      // The end is the start's mirror.
      std::reverse(table.begin(), table.end());
      for (FadeGains& gains : table) std::swap(gains.in, gains.out);
    }
    return std::make_shared<const Fade>(Fade{span, std::make_shared<const FadeTable>(std::move(table))});
  }
  /// On all that plays while the composite fades.
  void fadeEnds() {
    const auto in = compositeFade(track_.composite.fadeIn, true);
    const auto out = compositeFade(track_.composite.fadeOut, false);
    for (Segment& segment : segments_) {
      if (in && in->span.overlaps(segment.span)) segment.compositeIn = in;
      if (out && out->span.overlaps(segment.span)) segment.compositeOut = out;
    }
  }

  void addPiece(const Piece& piece, const Boundary& in, const Boundary& out) {
    LaneEdges edges;
    edges.own = piece.span;
    // Into a gap a take may fade; the composite's own start and end are as they are.
    edges.room = {in.gap() ? in.beyond->span.start : piece.span.start,
                  out.gap() ? out.beyond->span.end : piece.span.end};
    edges.fadesIn = in.gap();
    edges.fadesOut = out.gap();
    const auto pieceLevel = sharedLine(piece.level);
    const auto add = [&](LaneNumber number) {
      const Lane* lane = track_.lane(number);
      if (!lane || lane->muted) return;
      edges.in = in.fadeOf(piece, number);
      edges.out = out.fadeOf(piece, number);
      const auto level = levels_.find(number);
      LaneSound sound{{piece.gain.value + lane->gain.value}, {piece.pitch.value + lane->pitch.value}, {}};
      if (level != levels_.end()) sound.levels.push_back({level->second, piece.slip});
      if (pieceLevel) sound.levels.push_back({pieceLevel, {}});
      if (level_) sound.levels.push_back({level_, {}});
      addSegments(segments_, *lane, piece.slip, sound, edges, edgeFades_, pitching_);
    };
    if (piece.lane) add(*piece.lane);
    for (const LaneNumber lane : piece.overdubs) add(lane);
  }

  const Track& track_;
  ResolvedComposite composite_;
  CorrelationMeter& meter_;
  EdgeFades edgeFades_;
  Pitching pitching_;
  std::shared_ptr<const LevelLine> level_;
  std::map<LaneNumber, std::shared_ptr<const LevelLine>> levels_;
  std::vector<Segment> segments_;
};

}  // namespace

std::vector<StereoGain> mixOf(const Track& track) {
  std::vector<StereoGain> mix;
  for (const Microphone& microphone : track.microphones) {
    const double gain = static_cast<double>(factorOf(track.gain)) * factorOf(microphone.gain);
    const double pan = std::clamp(track.pan.value + microphone.pan.value, -1.0, 1.0);
    if (microphone.channels == 1) {
      mix.push_back(stereoGain(gain, pan));
    } else {
      // A stereo microphone is balanced: the side panned away from loses level, the other keeps it.
      mix.push_back({static_cast<float>(gain * std::min(1.0, 1.0 - pan)), 0.0F});
      mix.push_back({0.0F, static_cast<float>(gain * std::min(1.0, 1.0 + pan))});
    }
  }
  return mix;
}

TrackPlan finished(const Track& track, std::vector<Segment> segments) {
  TrackPlan plan;
  plan.track = track.id;
  plan.mix = mixOf(track);
  std::ranges::stable_sort(segments, {}, [](const Segment& segment) { return segment.span.start; });
  plan.segments = std::move(segments);
  Frames latest = -maximumPosition;
  for (const Segment& segment : plan.segments) {
    latest = std::max(latest, segment.span.end);
    plan.latestEnd.push_back(latest);
  }
  return plan;
}

FadeGains fadeAt(Curve curve, double x, double bend) {
  const double bent = bentBy(x, bend);
  switch (curve) {
    case Curve::EqualGain:
      return equalGain(bent);
    case Curve::S:
      return sCurve(bent);
    case Curve::EqualPower:
      return equalPower(bent);
    case Curve::Matched:
      break;
  }
  return smoothPower(bent);
}

std::shared_ptr<const FadeTable> makeFadeTable(Curve curve, Frames length, double bend) {
  auto table = std::make_shared<FadeTable>();
  table->reserve(static_cast<std::size_t>(std::max<std::int64_t>(length.count, 0)));
  for (std::int64_t i = 0; i < length.count; ++i)
    table->push_back(fadeAt(curve, (static_cast<double>(i) + 0.5) / static_cast<double>(length.count), bend));
  return table;
}

TrackPlan compileTrack(const Session& session, const Track& track, CorrelationMeter& meter,
                       DerivedSources* derived) {
  return finished(track, TrackCompiler(session, track, meter, derived).segments());
}

TrackPlan compileLane(const Session& session, const Track& track, const Lane& lane, DerivedSources* derived) {
  std::vector<Segment> segments;
  EdgeFades edgeFades(session.rate);
  const Span anywhere{-maximumPosition, maximumPosition};
  const LaneEdges edges{anywhere, anywhere, true, true, {}, {}};
  LaneSound sound{lane.gain, lane.pitch, {}};
  if (!lane.level.empty()) sound.levels.push_back({sharedLine(lane.level), {}});
  addSegments(segments, lane, {}, sound, edges, edgeFades, Pitching(*session.pool, derived));
  return finished(track, std::move(segments));
}

}  // namespace yewdrift
