// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/lane_clips.h"

#include <algorithm>

#include "core/edit/edit.h"
#include "core/edit/edit_access.h"

namespace yewdrift {
namespace {

bool goesOnAs(const Clip& left, const Clip& right) {
  return left.window.end == right.window.start && left.origin == right.origin &&
         left.sourceLength == right.sourceLength && left.part == right.part &&
         left.channels == right.channels;
}

/// Those of `spans` that are not empty, in order; what overlaps or meets becomes one.
std::vector<Span> united(std::vector<Span> spans) {
  std::erase_if(spans, [](Span span) { return span.empty(); });
  std::ranges::sort(spans, {}, &Span::start);
  std::vector<Span> all;
  for (const Span span : spans)
    if (!all.empty() && span.start <= all.back().end)
      all.back().end = std::max(all.back().end, span.end);
    else
      all.push_back(span);
  return all;
}

/// What of `span` is neither audible nor cut away.
std::vector<Span> unheardIn(const Lane& lane, Span span) {
  std::vector<Clip> both = lane.clips;
  both.insert(both.end(), lane.cutAway.begin(), lane.cutAway.end());
  sortByTime(both);
  return silentIn(both, span);
}

/// How far a clip's audible part is from `span`; the nearest one's handle is taken.
std::int64_t distance(const Clip& clip, Span span) {
  return std::max(
      {std::int64_t{0}, (clip.window.start - span.end).count, (span.start - clip.window.end).count});
}

const Clip* nearestWithMaterial(const std::vector<Clip>& clips, Span span) {
  const Clip* nearest = nullptr;
  for (const Clip& clip : clips)
    if (clip.extent().overlaps(span) && (!nearest || distance(clip, span) < distance(*nearest, span)))
      nearest = &clip;
  return nearest;
}

}  // namespace

Clip partOf(const Clip& clip, Span window) {
  Clip part = clip;
  part.window = window;
  return part;
}

void sortByTime(std::vector<Clip>& clips) {
  std::ranges::sort(clips, {}, [](const Clip& clip) { return clip.window.start; });
}

void mergeMeeting(std::vector<Clip>& clips) {
  sortByTime(clips);
  std::vector<Clip> merged;
  for (Clip& clip : clips) {
    if (!merged.empty() && goesOnAs(merged.back(), clip))
      merged.back().window.end = clip.window.end;
    else
      merged.push_back(std::move(clip));
  }
  clips = std::move(merged);
}

std::vector<Span> silentIn(const std::vector<Clip>& clips, Span span) {
  std::vector<Span> silent;
  Frames from = span.start;
  for (const Clip& clip : clips) {
    if (clip.window.end <= from) continue;
    if (clip.window.start >= span.end) break;
    if (clip.window.start > from) silent.push_back({from, clip.window.start});
    from = std::max(from, clip.window.end);
  }
  if (from < span.end) silent.push_back({from, span.end});
  return silent;
}

std::vector<Span> audibleIn(const Lane& lane, Span span) {
  std::vector<Span> parts;
  for (const auto* clips : {&lane.clips, &lane.cutAway})
    for (const Clip& clip : *clips) parts.push_back(clip.window.intersect(span));
  return united(std::move(parts));
}

std::vector<Span> materialIn(const Lane& lane, Span span) {
  std::vector<Span> parts;
  for (const Clip& clip : lane.clips) parts.push_back(clip.extent().intersect(span));
  for (const Clip& clip : lane.cutAway) parts.push_back(clip.window.intersect(span));
  return united(std::move(parts));
}

void makeAudible(Track& track, LaneNumber number, Span span) {
  const Lane& now = requireLane(track, number);
  std::vector<Span> holes = unheardIn(now, span);
  std::erase_if(holes, [&](Span hole) { return !nearestWithMaterial(now.clips, hole); });
  if (holes.empty()) return;
  const std::vector<Clip> clips = now.clips;
  Lane& lane = editLane(track, number);
  while (!holes.empty()) {
    const Span hole = holes.back();
    holes.pop_back();
    const Clip* const clip = nearestWithMaterial(clips, hole);
    if (!clip) continue;
    const Span part = clip->extent().intersect(hole);
    lane.clips.push_back(partOf(*clip, part));
    for (const Span left : {Span{hole.start, part.start}, Span{part.end, hole.end}})
      if (!left.empty()) holes.push_back(left);
  }
  mergeMeeting(lane.clips);
}

}  // namespace yewdrift
