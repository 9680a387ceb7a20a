// SPDX-License-Identifier: GPL-3.0-or-later
//
// The plan of a session as it is listened to, made of its tracks' plans; what did not change is kept.
#include <algorithm>
#include <utility>

#include "core/edit/edit.h"
#include "core/edit/edit_pieces.h"
#include "core/plan/track_plan_parts.h"

namespace yewdrift {
namespace {

MonitorPlan monitorOf(const Track& track, bool audible, const Listening& how) {
  MonitorPlan monitor;
  monitor.mode = track.armed && audible ? track.monitoring : Monitoring::Off;
  monitor.gated = std::find(how.gated.begin(), how.gated.end(), track.id) != how.gated.end();
  const std::vector<StereoGain> mix = mixOf(track);
  for (const Microphone& microphone : track.microphones)
    for (int channel = 0; channel < microphone.channels; ++channel)
      monitor.inputs.push_back({microphone.input + channel, mix[monitor.inputs.size()]});
  return monitor;
}

/// The track as it would be were those lanes picked over the span, the first of them, and the others heard
/// with it.
Track withPicked(const Session& session, const Track& track, const std::vector<LaneNumber>& lanes, Span span,
                 Decibels trim) {
  if (spansWithout(track, lanes.front(), span) == std::vector{span}) return track;
  Session picked = pick(session, track.id, span, lanes.front());
  for (std::size_t i = 1; i < lanes.size(); ++i)
    picked = overdub(std::move(picked), track.id, span, lanes[i]);
  Track heard = *picked.track(track.id);
  if (trim.value == 0.0) return heard;
  std::vector<Piece> pieces(heard.composite.picks.begin(), heard.composite.picks.end());
  for (Piece& piece : pieces)
    if (span.contains(piece.span.start) && piece.lane == lanes.front()) piece.gain.value += trim.value;
  heard.composite.picks = SharedSequence<Piece>(pieces);
  return heard;
}

/// Of that track, by itself or together; none: its composite.
std::vector<LaneNumber> lanesHeard(const Listening& how, TrackId track) {
  const auto heard = std::find_if(how.heard.begin(), how.heard.end(),
                                  [track](const HeardLanes& each) { return each.track == track; });
  return heard != how.heard.end() ? heard->lanes : std::vector<LaneNumber>{};
}

}  // namespace

std::optional<int> PlaybackPlan::choiceOf(TrackId id, std::optional<LaneNumber> lane) const {
  if (!choiceTrack || tracks[*choiceTrack]->track != id) return std::nullopt;
  for (std::size_t i = 0; i < choices.size(); ++i)
    if (choices[i].lane == lane && !choices[i].together) return static_cast<int>(i);
  return std::nullopt;
}

std::shared_ptr<const TrackPlan> Compiler::compositeOf(const Session& session, const Shared<Track>& track,
                                                       bool audible) {
  for (const auto* made : {&making_.tracks, &last_.tracks})
    for (const MadeTrack& each : *made)
      if (each.from.same(track) && each.plan->audible == audible) {
        MadeTrack kept = each;
        making_.tracks.push_back(kept);
        return kept.plan;
      }
  TrackPlan fresh = compileTrack(session, *track, meter_, derived_);
  fresh.audible = audible;
  making_.tracks.push_back({track, std::make_shared<const TrackPlan>(std::move(fresh))});
  return making_.tracks.back().plan;
}

std::shared_ptr<const TrackPlan> Compiler::laneOf(const Session& session, const Track& track,
                                                  const Shared<Lane>& lane, bool audible) {
  MadeLane& made = making_.lanes.try_emplace(&*lane, MadeLane{lane, nullptr}).first->second;
  if (made.plan) return made.plan;
  const auto old = last_.lanes.find(&*lane);
  const TrackPlan* plan = old != last_.lanes.end() ? old->second.plan.get() : nullptr;
  if (plan && plan->track == track.id && plan->audible == audible && plan->mix == mixOf(track))
    return made.plan = old->second.plan;
  TrackPlan fresh = compileLane(session, track, *lane, derived_);
  fresh.audible = audible;
  return made.plan = std::make_shared<const TrackPlan>(std::move(fresh));
}

void Compiler::forget(TrackId track) {
  std::erase_if(last_.tracks, [track](const MadeTrack& made) { return made.from->id == track; });
  std::erase_if(last_.picked, [track](const MadePicked& made) { return made.from->id == track; });
}

std::shared_ptr<const TrackPlan> Compiler::pickedOf(const Session& session, const Shared<Track>& track,
                                                    const std::vector<LaneNumber>& lanes,
                                                    const Listening& how, bool audible) {
  const auto trim = how.trims.find(lanes.front());
  MadePicked wanted{track, lanes, *how.within, trim != how.trims.end() ? trim->second.value : 0.0, nullptr};
  for (const MadePicked& each : last_.picked)
    if (each.from.same(track) && each.lanes == lanes && each.within == wanted.within &&
        each.trim == wanted.trim && each.plan->audible == audible)
      wanted.plan = each.plan;
  if (!wanted.plan) {
    TrackPlan fresh = compileTrack(session, withPicked(session, *track, lanes, wanted.within, {wanted.trim}),
                                   meter_, derived_);
    fresh.audible = audible;
    wanted.plan = std::make_shared<const TrackPlan>(std::move(fresh));
  }
  making_.picked.push_back(wanted);
  return wanted.plan;
}

std::shared_ptr<const TrackPlan> Compiler::togetherOf(const Session& session, const Track& track,
                                                      const std::vector<LaneNumber>& lanes,
                                                      const Listening& how, bool audible) {
  std::vector<Segment> segments;
  for (const auto& lane : track.lanes) {
    if (std::find(lanes.begin(), lanes.end(), lane->number) == lanes.end()) continue;
    const auto trim = how.trims.find(lane->number);
    for (Segment segment : laneOf(session, track, lane, audible)->segments) {
      if (trim != how.trims.end()) segment.gain *= factorOf(trim->second);
      segments.push_back(std::move(segment));
    }
  }
  TrackPlan plan = finished(track, std::move(segments));
  plan.audible = audible;
  return std::make_shared<const TrackPlan>(std::move(plan));
}

void Compiler::addChoices(PlaybackPlan& plan, const Session& session, const Listening& how) {
  for (std::size_t t = 0; t < session.tracks.size(); ++t) {
    const Shared<Track>& track = session.tracks[t];
    if (track->id != how.inHand) continue;
    plan.choiceTrack = t;
    const bool audible = plan.tracks[t]->audible;
    // With the composite around them lanes are turned to it, and it stays as it is.
    plan.choices.push_back({std::nullopt, compositeOf(session, track, audible),
                            how.within ? 1.0F : factorOf(how.compositeTrim)});
    for (const auto& lane : track->lanes) {
      const auto trim = how.trims.find(lane->number);
      if (how.within)
        plan.choices.push_back({lane->number, pickedOf(session, track, {lane->number}, how, audible)});
      else
        plan.choices.push_back({lane->number, laneOf(session, *track, lane, audible),
                                trim != how.trims.end() ? factorOf(trim->second) : 1.0F});
    }
    const std::vector<LaneNumber> heard = lanesHeard(how, track->id);
    if (heard.size() == 1) plan.heard = plan.choiceOf(track->id, heard.front()).value_or(0);
    if (heard.size() < 2) return;
    plan.heard = static_cast<int>(plan.choices.size());
    plan.choices.push_back({std::nullopt,
                            how.within ? pickedOf(session, track, heard, how, audible)
                                       : togetherOf(session, *track, heard, how, audible),
                            1.0F, true});
  }
}

std::shared_ptr<const PlaybackPlan> Compiler::compile(const Session& session, const Listening& how) {
  const bool anySolo =
      std::any_of(session.tracks.begin(), session.tracks.end(), [](const auto& t) { return t->soloed; });
  if (rate_ != session.rate) last_ = {};
  rate_ = session.rate;
  auto plan = std::make_shared<PlaybackPlan>();
  plan->rate = session.rate;
  plan->files = *session.pool;
  plan->tempo = session.tempo;
  plan->click = session.recording.click;
  plan->grid = session.recording.grid;
  for (const auto& track : session.tracks) {
    const bool audible = !track->muted && (!anySolo || track->soloed);
    const std::vector<LaneNumber> lanes = lanesHeard(how, track->id);
    std::shared_ptr<const TrackPlan> heard;
    if (lanes.size() > 1) heard = togetherOf(session, *track, lanes, how, audible);
    for (const auto& lane : track->lanes)
      if (lanes.size() == 1 && lane->number == lanes.front()) heard = laneOf(session, *track, lane, audible);
    plan->tracks.push_back(heard ? heard : compositeOf(session, track, audible));
    plan->levels.push_back(!how.inHand || how.inHand == track->id ? 1.0F
                           : how.others                           ? factorOf(*how.others)
                                                                  : 0.0F);
    plan->monitors.push_back(monitorOf(*track, audible, how));
  }
  addChoices(*plan, session, how);
  if (derived_) plan->derived = derived_->files();
  last_ = std::exchange(making_, {});
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
