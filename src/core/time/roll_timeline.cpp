// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/time/roll_timeline.h"

namespace yewdrift {

RollTimeline::Run RollTimeline::runAt(Frames rollFrame) const {
  if (rollFrame < countIn)
    return {start - (countIn - rollFrame), countIn - rollFrame, 1, rollFrame.count == 0, true};
  const std::optional<Frames> total = totalLength();
  const Frames end = total ? *total - countIn : maximumPosition * 2;
  const bool first = rollFrame.count == 0;
  rollFrame -= countIn;
  if (!loop) return {start + rollFrame, end - rollFrame, 1, first};
  const Frames firstLeg = loop->end - start;
  if (rollFrame < firstLeg) {
    const bool last = passes == 1;
    return {start + rollFrame, (last ? end : firstLeg) - rollFrame, 1, first};
  }
  const std::int64_t length = loop->length().count;
  std::int64_t turn = (rollFrame - firstLeg).count / length;
  if (passes > 0 && turn > passes - 2) turn = passes - 2;  // the last time round runs on into the post-roll
  if (passes == 1) return {start + rollFrame, end - rollFrame, 1, false};
  const Frames into{(rollFrame - firstLeg).count - turn * length};
  const int round = static_cast<int>(turn) + 2;
  const Frames left = passes > 0 && round == passes ? end - rollFrame : loop->length() - into;
  return {loop->start + into, left, round, into.count == 0};
}

Frames RollTimeline::roundStart(int round) const {
  if (round <= 1 || !loop) return countIn;
  return countIn + (loop->end - start) + loop->length() * (round - 2);
}

std::optional<Frames> RollTimeline::totalLength() const {
  if (loop && passes > 0) return countIn + (loop->end - start) + loop->length() * (passes - 1) + postRoll;
  if (!loop && stopAt) return countIn + (*stopAt - start) + postRoll;
  return std::nullopt;
}

std::vector<RollTimeline::Pass> RollTimeline::passesWithin(Frames rolled) const {
  std::vector<Pass> result;
  if (!loop) {
    const Frames reached = start + rolled - countIn;
    const Frames end = stopAt ? std::min(*stopAt, reached) : reached;
    if (start < end) result.push_back({1, {start, end}, countIn});
    return result;
  }
  Frames begin = countIn;
  Frames position = start;
  for (int round = 1; begin < rolled && (passes == 0 || round <= passes); ++round) {
    const Frames length = std::min(loop->end - position, rolled - begin);
    result.push_back({round, {position, position + length}, begin});
    begin += loop->end - position;
    position = loop->start;
  }
  return result;
}

RollTimeline goingOnFrom(RollTimeline timeline, Frames position) noexcept {
  timeline.start = timeline.loop && position >= timeline.loop->end ? timeline.loop->start : position;
  return timeline;
}

}  // namespace yewdrift
