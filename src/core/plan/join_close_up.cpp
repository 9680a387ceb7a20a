// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/plan/join_close_up.h"

#include <algorithm>
#include <span>

#include "core/error.h"
#include "core/signal/correlation.h"

namespace yewdrift {
namespace {

CloseUpSide::Material materialOf(const Track& track, const Piece& piece, Frames edge, Span span) {
  const Lane* lane = piece.lane ? track.lane(*piece.lane) : nullptr;
  const Clip* clip = lane ? clipAt(*lane, edge - piece.slip) : nullptr;
  return {clip ? std::optional(*clip) : std::nullopt, piece.slip, span};
}

std::vector<float> samplesOf(const CloseUpSide::Material& material, SampleSource& source) {
  const auto& [clip, slip, span] = material;
  std::vector<float> sum(static_cast<std::size_t>(span.length().count));
  if (!clip) return sum;
  const Span there = clip->extent().shifted(slip).intersect(span);
  if (there.empty()) return sum;
  std::vector<float> channel(static_cast<std::size_t>(there.length().count));
  const auto first = static_cast<std::size_t>((there.start - span.start).count);
  for (const ChannelSource& from : clip->channels) {
    source.read(from.file, from.channel, there.start - clip->origin - slip, static_cast<int>(channel.size()),
                channel.data());
    for (std::size_t i = 0; i < channel.size(); ++i) sum[first + i] += channel[i];
  }
  return sum;
}

CloseUpSide sideOf(std::optional<LaneNumber> lane, CloseUpSide::Material material, SampleSource& source,
                   const JoinCloseUp* before) {
  CloseUpSide side{lane, std::move(material), nullptr};
  if (before)
    for (const CloseUpSide* known : {&before->outgoing, &before->incoming})
      if (known->material == side.material) side.samples = known->samples;
  if (!side.samples)
    side.samples = std::make_shared<const std::vector<float>>(samplesOf(side.material, source));
  return side;
}

JoinMeasure measureOf(const JoinCloseUp& view, SampleRate rate) {
  const JoinShape& shape = view.join.shape;
  const Frames least = framesFromSeconds(0.005, rate);
  const Span judged =
      Span{view.join.at - std::max(shape.before, least), view.join.at + std::max(shape.after, least)}
          .intersect(view.span);
  if (judged.empty()) return {};  // the join lies out of sight
  const auto from = static_cast<std::size_t>((judged.start - view.span.start).count);
  const auto count = static_cast<std::size_t>(judged.length().count);
  return measureJoin(std::span(*view.outgoing.samples).subspan(from, count),
                     std::span(*view.incoming.samples).subspan(from, count),
                     static_cast<std::size_t>((view.join.at - judged.start).count));
}

}  // namespace

FadeGains JoinCloseUp::gainsAt(Frames at) const {
  const std::int64_t i = (at - (join.at - join.shape.before)).count;
  if (i < 0) return {1.0F, 0.0F};
  if (i >= static_cast<std::int64_t>(fade->size())) return {0.0F, 1.0F};
  const FadeGains gains = (*fade)[static_cast<std::size_t>(i)];
  if (join.shape.curve != Curve::Matched) return gains;
  const float scale = matchedScale(gains.out, gains.in, static_cast<float>(measure.correlation));
  return {gains.out * scale, gains.in * scale};
}

JoinCloseUp closeUp(const Session& session, const Track& track, Frames at, Span span, SampleSource& source,
                    const JoinCloseUp* before) {
  const ResolvedComposite composite = resolve(track, session.rate);
  const Join* join = composite.joinAt(at);
  if (!join) throw Error("There is no join at that place.");
  JoinCloseUp view;
  view.join = *join;
  view.span = span;
  const Piece& left = *composite.pieceAt(join->at - Frames{1});
  const Piece& right = *composite.pieceAt(join->at);
  view.outgoing = sideOf(left.lane, materialOf(track, left, join->at - Frames{1}, span), source, before);
  view.incoming = sideOf(right.lane, materialOf(track, right, join->at, span), source, before);
  view.measure = measureOf(view, session.rate);
  view.fade = makeFadeTable(join->shape.curve, join->shape.before + join->shape.after, join->shape.bend);
  return view;
}

}  // namespace yewdrift
