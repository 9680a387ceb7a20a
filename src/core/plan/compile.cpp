// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>
#include <map>
#include <numbers>

#include "core/plan/playback_plan.h"
#include "core/signal/fade_curve.h"

namespace yewdrift {
namespace {

/// The fade tables of one compilation, each made once.
class FadeTables {
 public:
  std::shared_ptr<const FadeTable> get(Curve curve, Frames length) {
    auto& table = tables_[{curve, length}];
    if (!table) table = makeFadeTable(curve, length);
    return table;
  }

 private:
  std::map<std::pair<Curve, Frames>, std::shared_ptr<const FadeTable>> tables_;
};

StereoGain stereoGain(double gain, double pan) {
  // Equal-power pan law (common practice): -3 dB on both sides in the middle.
  const double angle = (pan + 1.0) * std::numbers::pi / 4.0;
  return {static_cast<float>(gain * std::cos(angle)), static_cast<float>(gain * std::sin(angle))};
}

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

MonitorPlan monitorOf(const Track& track, bool audible, const CompileOptions& options) {
  MonitorPlan monitor;
  monitor.mode = track.armed && audible ? track.monitoring : Monitoring::Off;
  monitor.gated = std::find(options.gated.begin(), options.gated.end(), track.id) != options.gated.end();
  const std::vector<StereoGain> mix = mixOf(track);
  for (const Microphone& microphone : track.microphones)
    for (int channel = 0; channel < microphone.channels; ++channel)
      monitor.inputs.push_back({microphone.input + channel, mix[monitor.inputs.size()]});
  return monitor;
}

const Clip* sideClip(const Track& track, const Piece& piece, Frames edge) {
  const Lane* lane = piece.lane ? track.lane(*piece.lane) : nullptr;
  return lane ? clipAt(*lane, edge - piece.slip) : nullptr;
}

class TrackCompiler {
 public:
  TrackCompiler(const Session& session, const Track& track, CorrelationMeter& meter)
      : track_(track), composite_(resolve(track, session.rate)), meter_(meter) {}

  std::vector<Segment> segments() {
    std::vector<Fade> fades;
    for (const Join& join : composite_.joins) fades.push_back(fadeOf(join));
    std::size_t next = 0;
    std::optional<Fade> in;
    for (const Piece& piece : composite_.pieces) {
      while (next < composite_.joins.size() && composite_.joins[next].at < piece.span.end) ++next;
      std::optional<Fade> out;
      if (next < composite_.joins.size() && composite_.joins[next].at == piece.span.end) out = fades[next];
      addPiece(piece, in, out);
      in = out;
    }
    return std::move(segments_);
  }

 private:
  Fade fadeOf(const Join& join) {
    Fade fade;
    fade.span = {join.at - join.shape.before, join.at + join.shape.after};
    if (fade.span.empty()) return fade;
    fade.table = tables_.get(join.shape.curve, fade.span.length());
    fade.matched = join.shape.curve == Curve::Matched;
    if (!fade.matched) return fade;
    const Piece* left = composite_.pieceAt(join.at - Frames{1});
    const Piece* right = composite_.pieceAt(join.at);
    const Clip* a = sideClip(track_, *left, join.at - Frames{1});
    const Clip* b = sideClip(track_, *right, join.at);
    if (a && b)
      fade.correlation = meter_.correlation(a->channels, a->origin + left->slip, b->channels,
                                            b->origin + right->slip, fade.span);
    return fade;
  }

  void addPiece(const Piece& piece, const std::optional<Fade>& in, const std::optional<Fade>& out) {
    if (piece.lane) addLane(piece, *piece.lane, in, out);
    for (const LaneNumber lane : piece.overdubs) addLane(piece, lane, in, out);
  }

  void addLane(const Piece& piece, LaneNumber number, const std::optional<Fade>& in,
               const std::optional<Fade>& out) {
    const Lane* lane = track_.lane(number);
    if (!lane) return;
    for (const Clip& clip : lane->clips) {
      const Span window = clip.window.shifted(piece.slip);
      Segment segment;
      segment.span = window.intersect(piece.span);
      if (segment.span.empty()) continue;
      const Span extent = clip.extent().shifted(piece.slip);
      if (in && !in->span.empty()) {
        segment.fadeIn = in;
        // At the piece's edge the crossfade reads on into the handle.
        if (window.contains(piece.span.start)) segment.span.start = std::max(extent.start, in->span.start);
      }
      if (out && !out->span.empty()) {
        segment.fadeOut = out;
        if (window.contains(piece.span.end - Frames{1}))
          segment.span.end = std::min(extent.end, out->span.end);
      }
      segment.origin = clip.origin + piece.slip;
      segment.channels = clip.channels;
      segment.gain = factorOf(piece.gain);
      segments_.push_back(std::move(segment));
    }
  }

  const Track& track_;
  ResolvedComposite composite_;
  CorrelationMeter& meter_;
  FadeTables tables_;
  std::vector<Segment> segments_;
};

TrackPlan finished(const Track& track, std::vector<Segment> segments) {
  TrackPlan plan;
  plan.track = track.id;
  plan.mix = mixOf(track);
  std::stable_sort(segments.begin(), segments.end(),
                   [](const Segment& a, const Segment& b) { return a.span.start < b.span.start; });
  plan.segments = std::move(segments);
  Frames latest = -maximumPosition;
  for (const Segment& segment : plan.segments) {
    latest = std::max(latest, segment.span.end);
    plan.latestEnd.push_back(latest);
  }
  return plan;
}

}  // namespace

std::shared_ptr<const FadeTable> makeFadeTable(Curve curve, Frames length) {
  auto table = std::make_shared<FadeTable>();
  table->reserve(static_cast<std::size_t>(std::max<std::int64_t>(length.count, 0)));
  for (std::int64_t i = 0; i < length.count; ++i) {
    const double x = (static_cast<double>(i) + 0.5) / static_cast<double>(length.count);
    switch (curve) {
      case Curve::EqualGain:
        table->push_back(equalGain(x).in);
        break;
      case Curve::S:
        table->push_back(sCurve(x).in);
        break;
      case Curve::EqualPower:
      case Curve::Matched:  // scaled by the correlation when it is played
        table->push_back(equalPower(x).in);
        break;
    }
  }
  return table;
}

const TrackPlan* PlaybackPlan::track(TrackId id) const {
  for (const auto& candidate : tracks)
    if (candidate->track == id) return candidate.get();
  return nullptr;
}

TrackPlan compileTrack(const Session& session, const Track& track, CorrelationMeter& meter) {
  return finished(track, TrackCompiler(session, track, meter).segments());
}

TrackPlan compileLane(const Session&, const Track& track, const Lane& lane) {
  std::vector<Segment> segments;
  for (const Clip& clip : lane.clips)
    segments.push_back({clip.window, clip.origin, clip.channels, 1.0F, {}, {}});
  return finished(track, std::move(segments));
}

std::shared_ptr<const PlaybackPlan> Compiler::compile(const Session& session, const CompileOptions& options) {
  const bool anySolo =
      std::any_of(session.tracks.begin(), session.tracks.end(), [](const auto& t) { return t->soloed; });
  std::vector<Made> made;
  auto plan = std::make_shared<PlaybackPlan>();
  plan->rate = session.rate;
  plan->files = *session.pool;
  plan->tempo = session.tempo;
  plan->click = session.recording.click;
  for (const auto& track : session.tracks) {
    Made entry{track, std::nullopt, !track->muted && (!anySolo || track->soloed), nullptr};
    for (const Listening& listening : options.listening)
      if (listening.track == track->id && track->lane(listening.lane)) entry.lane = listening.lane;
    const auto same = std::find_if(made_.begin(), made_.end(), [&](const Made& old) {
      return old.from.same(track) && old.lane == entry.lane && old.audible == entry.audible;
    });
    if (same != made_.end() && rate_ == session.rate) {
      entry.plan = same->plan;
    } else {
      TrackPlan fresh = entry.lane ? compileLane(session, *track, *track->lane(*entry.lane))
                                   : compileTrack(session, *track, meter_);
      fresh.audible = entry.audible;
      entry.plan = std::make_shared<const TrackPlan>(std::move(fresh));
    }
    plan->tracks.push_back(entry.plan);
    plan->monitors.push_back(monitorOf(*track, entry.audible, options));
    made.push_back(std::move(entry));
  }
  made_ = std::move(made);
  rate_ = session.rate;
  return plan;
}

Span extentOf(const TrackPlan& plan) {
  return plan.segments.empty() ? Span{} : Span{plan.segments.front().span.start, plan.latestEnd.back()};
}

Span extentOf(const PlaybackPlan& plan) {
  Span all{maximumPosition, -maximumPosition};
  for (const auto& track : plan.tracks)
    if (const Span span = extentOf(*track); !span.empty())
      all = {std::min(all.start, span.start), std::max(all.end, span.end)};
  return all.empty() ? Span{} : all;
}

}  // namespace yewdrift
