// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/read_ahead.h"

#include <algorithm>

namespace yewdrift {

std::vector<FilePart> partsPlayed(const TrackPlan& plan, Span span) {
  std::vector<FilePart> parts;
  // Segments that have ended by then are passed over without being looked at.
  const auto first = std::upper_bound(plan.latestEnd.begin(), plan.latestEnd.end(), span.start);
  for (auto i = static_cast<std::size_t>(first - plan.latestEnd.begin()); i < plan.segments.size(); ++i) {
    const Segment& segment = plan.segments[i];
    if (segment.span.start >= span.end) break;
    const Span part = segment.span.intersect(span);
    if (!part.empty())
      for (const ChannelSource& source : segment.channels)
        parts.push_back({source.file, part.start - segment.origin, part.end - segment.origin});
  }
  return parts;
}

std::vector<Span> spansAhead(Frames playhead, const std::vector<RollTimeline>& rolls, Frames length) {
  std::vector<Span> spans{{playhead, playhead + length}};
  for (const RollTimeline& roll : rolls) {
    spans.push_back({roll.start, roll.start + length});
    if (roll.loop) spans.push_back({roll.loop->start, roll.loop->start + length});
  }
  return spans;
}

}  // namespace yewdrift
