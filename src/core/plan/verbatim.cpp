// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/plan/verbatim.h"

#include <algorithm>

namespace yewdrift {
namespace {

/// The file that all its channels come from, in order, and of which no channel is left out.
std::optional<int> wholeFile(const Segment& segment, std::span<const PoolFile> pool) {
  if (segment.channels.empty()) return std::nullopt;
  const int file = segment.channels.front().file;
  if (static_cast<std::size_t>(file) >= pool.size()) return std::nullopt;  // or below zero: a derived one
  if (pool[static_cast<std::size_t>(file)].channels != static_cast<int>(segment.channels.size()))
    return std::nullopt;
  for (std::size_t c = 0; c < segment.channels.size(); ++c)
    if (segment.channels[c] != ChannelSource{file, static_cast<int>(c)}) return std::nullopt;
  return file;
}

/// What of it no fade touches; empty where its level is another throughout.
Span untouched(const Segment& segment) {
  if (segment.gain != 1.0F || !segment.levels.empty()) return {};
  Span left = segment.span;
  const auto behind = [&](const auto& fade) {
    if (fade && fade->span.overlaps(segment.span)) left.start = std::max(left.start, fade->span.end);
  };
  const auto before = [&](const auto& fade) {
    if (fade && fade->span.overlaps(segment.span)) left.end = std::min(left.end, fade->span.start);
  };
  behind(segment.fadeIn);
  behind(segment.compositeIn);
  before(segment.fadeOut);
  before(segment.compositeOut);
  return left;
}

}  // namespace

std::vector<Verbatim> verbatimStretches(const TrackPlan& plan, std::span<const PoolFile> pool, Span span) {
  std::vector<Verbatim> found;
  Frames covered = span.start;  // where all segments before end
  for (std::size_t i = 0; i < plan.segments.size(); ++i) {
    const Segment& segment = plan.segments[i];
    // Segments stand in order of their starts: nothing else plays behind those before, and before the next.
    const Frames from = std::max(covered, span.start);
    const Frames to =
        i + 1 < plan.segments.size() ? std::min(plan.segments[i + 1].span.start, span.end) : span.end;
    covered = std::max(covered, segment.span.end);
    const auto file = wholeFile(segment, pool);
    if (!file) continue;
    if (const Span part = untouched(segment).intersect({from, to}); !part.empty())
      found.push_back({part, *file, segment.origin});
  }
  return found;
}

}  // namespace yewdrift
