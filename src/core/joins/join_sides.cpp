// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/joins/join_sides.h"

#include "core/edit/lane_clips.h"
#include "core/plan/playback_plan.h"
#include "core/plan/renderer.h"

namespace yewdrift {
namespace {

/// One piece alone has no join to measure.
class NoCorrelation : public CorrelationMeter {
 public:
  float correlation(const std::vector<ChannelSource>& /*a*/, Frames /*aOrigin*/,
                    const std::vector<ChannelSource>& /*b*/, Frames /*bOrigin*/, Span /*over*/) override {
    return {};
  }
};

/// The track, with nothing but that piece.
Track alone(const Track& track, Piece piece, Span span) {
  Track only;
  only.id = track.id;
  only.microphones = track.microphones;
  for (const auto& lane : track.lanes)
    if (piece.plays(lane->number)) only.lanes.push_back(lane);
  piece.span = span;
  piece.picked = true;
  piece.split = false;
  if (piece.lane) makeAudible(only, *piece.lane, span.shifted(-piece.slip));
  only.composite.level = track.composite.level;
  only.composite.picks = SharedSequence<Piece>({piece});
  return only;
}

}  // namespace

SideSamples PieceListener::hear(const Session& session, const Track& track, const Piece& piece, Span span) {
  const int count = static_cast<int>(span.length().count);
  SideSamples samples(static_cast<std::size_t>(track.channels()),
                      std::vector<float>(static_cast<std::size_t>(count)));
  if (!piece.lane) return samples;
  NoCorrelation meter;
  const Track only = alone(track, piece, span);
  const TrackPlan plan = compileTrack(session, only, meter, &pitched_);
  Renderer renderer(count);
  std::vector<float*> out;
  for (auto& channel : samples) out.push_back(channel.data());
  renderer.renderTrack(plan, span.start, count, sourceFor(session), out.data());
  return samples;
}

SampleSource& PieceListener::sourceFor(const Session& session) {
  // What is compiled may ask for files that were not known when the source was made.
  if (!source_ || !pool_ || !(*pool_ == session.pool) || derived_ != pitched_.files().size()) {
    pool_ = session.pool;
    derived_ = pitched_.files().size();
    source_.emplace(disk_, *session.pool, pitched_.files());
  }
  return *source_;
}

Span materialAround(const Track& track, const Piece& piece, Frames edge, Span around) {
  const Lane* const lane = piece.lane ? track.lane(*piece.lane) : nullptr;
  if (!lane) return around;
  for (const Span material : materialIn(*lane, around.shifted(-piece.slip)))
    if (material.contains(edge - piece.slip)) return material.shifted(piece.slip).intersect(around);
  return {edge, edge};
}

}  // namespace yewdrift
