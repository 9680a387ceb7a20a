// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/plan/join_close_up.h"

#include "core/error.h"
#include "core/signal/correlation.h"
#include "core/signal/fade_curve.h"

namespace yewdrift {
namespace {

std::vector<float> sideSamples(const Track& track, const Piece& piece, Frames edge, Span span,
                               SampleSource& source) {
  std::vector<float> sum(static_cast<std::size_t>(span.length().count), 0.0F);
  const Lane* lane = piece.lane ? track.lane(*piece.lane) : nullptr;
  const Clip* clip = lane ? clipAt(*lane, edge - piece.slip) : nullptr;
  if (!clip) return sum;
  const Span there = clip->extent().shifted(piece.slip).intersect(span);
  if (there.empty()) return sum;
  std::vector<float> channel(static_cast<std::size_t>(there.length().count));
  for (const ChannelSource& from : clip->channels) {
    source.read(from.file, from.channel, there.start - clip->origin - piece.slip,
                static_cast<int>(channel.size()), channel.data());
    for (std::size_t i = 0; i < channel.size(); ++i)
      sum[static_cast<std::size_t>((there.start - span.start).count) + i] += channel[i];
  }
  return sum;
}

void fillGains(JoinCloseUp& view) {
  const JoinShape& shape = view.join.shape;
  const Frames start = view.join.at - shape.before;
  const std::int64_t length = (shape.before + shape.after).count;
  const auto table = makeFadeTable(shape.curve, {length}, shape.bend);
  const bool matched = shape.curve == Curve::Matched;
  for (Frames at = view.span.start; at < view.span.end; at += Frames{1}) {
    const std::int64_t i = (at - start).count;
    float in = i < 0 ? 0.0F : 1.0F;
    float out = 1.0F - in;
    if (i >= 0 && i < length) {
      in = (*table)[static_cast<std::size_t>(i)].in;
      out = (*table)[static_cast<std::size_t>(i)].out;
      const float scale =
          matched ? matchedScale(out, in, static_cast<float>(view.measure.correlation)) : 1.0F;
      in *= scale;
      out *= scale;
    }
    view.inGains.push_back(in);
    view.outGains.push_back(out);
  }
}

JoinCloseUp closeUpOf(const Session& session, const Track& track, const ResolvedComposite& composite,
                      const Join& join, Span span, SampleSource& source) {
  JoinCloseUp view;
  view.join = join;
  view.span = span;
  const Piece& left = *composite.pieceAt(join.at - Frames{1});
  const Piece& right = *composite.pieceAt(join.at);
  view.outgoingLane = left.lane;
  view.incomingLane = right.lane;
  view.outgoing = sideSamples(track, left, join.at - Frames{1}, view.span, source);
  view.incoming = sideSamples(track, right, join.at, view.span, source);
  const Frames least = framesFromSeconds(0.005, session.rate);
  const Span judged =
      Span{join.at - std::max(join.shape.before, least), join.at + std::max(join.shape.after, least)}
          .intersect(view.span);
  if (judged.empty()) return view;  // the join lies out of sight
  const auto from = static_cast<std::size_t>((judged.start - view.span.start).count);
  const auto count = static_cast<std::size_t>(judged.length().count);
  view.measure = measureJoin(std::span(view.outgoing).subspan(from, count),
                             std::span(view.incoming).subspan(from, count),
                             static_cast<std::size_t>((join.at - judged.start).count));
  return view;
}

}  // namespace

JoinCloseUp closeUp(const Session& session, const Track& track, Frames at, Span span, SampleSource& source) {
  const ResolvedComposite composite = resolve(track, session.rate);
  const Join* join = composite.joinAt(at);
  if (!join) throw Error("There is no join at that place.");
  JoinCloseUp view = closeUpOf(session, track, composite, *join, span, source);
  fillGains(view);
  return view;
}

}  // namespace yewdrift
