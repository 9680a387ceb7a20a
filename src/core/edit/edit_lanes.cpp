// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/edit.h"
#include "core/edit/edit_access.h"
#include "core/edit/lane_clips.h"
#include "core/error.h"

namespace yewdrift {
namespace {

/// The clips of a lane with `span` made silent: windows that reach into it end or start at its edges.
std::vector<Clip> clipsWithout(const std::vector<Clip>& clips, Span span) {
  std::vector<Clip> kept;
  for (const Clip& clip : clips) {
    for (const Span part : {Span{clip.window.start, std::min(clip.window.end, span.start)},
                            Span{std::max(clip.window.start, span.end), clip.window.end}}) {
      if (part.empty()) continue;
      kept.push_back(clip);
      kept.back().window = part;
      if (!clip.window.overlaps(span)) break;  // it lies on one side whole
    }
  }
  return kept;
}

void setPicks(Track& track, const std::vector<Piece>& picks) {
  track.composite.picks = SharedSequence<Piece>(picks);
  std::vector<JoinSetting> joins(track.composite.joins.begin(), track.composite.joins.end());
  for (const JoinSetting& join : joins) dropStaleJoins(track, {join.at, join.at});
}

/// The picks with every piece changed by `change`, which returns false for those that go.
template <typename Change>
void changePicks(Track& track, Change change) {
  std::vector<Piece> picks;
  for (Piece piece : track.composite.picks)
    if (change(piece)) picks.push_back(std::move(piece));
  setPicks(track, picks);
}

/// The piece without a lane that it plays: what is heard with it goes on. False where nothing is left.
bool takeOut(Piece& piece, LaneNumber number) {
  std::erase(piece.overdubs, number);
  if (piece.lane != number) return true;
  piece.lane.reset();
  if (piece.overdubs.empty()) return false;
  piece.lane = piece.overdubs.front();
  piece.overdubs.erase(piece.overdubs.begin());
  return true;
}

}  // namespace

Lane& editLane(Track& track, LaneNumber number) {
  for (auto& lane : track.lanes)
    if (lane->number == number) return lane.edit();
  throw Error("The track \"%1\" has no lane %2.", track.name, number.value);
}

Session placeInLane(Session session, TrackId id, LaneNumber number, const std::vector<Clip>& clips) {
  Lane& lane = editLane(editTrack(session, id), number);
  for (const Clip& clip : clips) {
    lane.clips = clipsWithout(lane.clips, clip.window);
    lane.clips.push_back(clip);
  }
  sortByTime(lane.clips);
  return session;
}

Session setLaneAside(Session session, TrackId id, LaneNumber number, bool aside) {
  editLane(editTrack(session, id), number).setAside = aside;
  return session;
}

Session setLaneBrokenOff(Session session, TrackId id, LaneNumber number, bool brokenOff) {
  editLane(editTrack(session, id), number).brokenOff = brokenOff;
  return session;
}

Session withdrawLane(Session session, TrackId id, LaneNumber number) {
  Track& track = editTrack(session, id);
  editLane(track, number).setAside = true;
  changePicks(track, [number](Piece& piece) { return takeOut(piece, number); });
  return session;
}

Session removeLane(Session session, TrackId id, LaneNumber number) {
  requireLane(requireTrack(session, id), number);
  Track& track = editTrack(session, id);
  std::erase_if(track.lanes, [number](const auto& lane) { return lane->number == number; });
  if (track.recordInto == number) track.recordInto.reset();
  const auto without = [number](Piece& piece) { return takeOut(piece, number); };
  changePicks(track, without);
  for (KeptComposite& kept : track.keptComposites) {
    std::swap(track.composite, kept.composite);
    changePicks(track, without);
    std::swap(track.composite, kept.composite);
  }
  return session;
}

Session endLaneAt(Session session, TrackId id, LaneNumber number, Frames at) {
  Track& track = editTrack(session, id);
  Lane& lane = editLane(track, number);
  std::erase_if(lane.clips, [at](const Clip& clip) { return clip.window.start >= at; });
  for (Clip& clip : lane.clips) clip.window.end = std::min(clip.window.end, at);
  std::vector<Piece> picks;
  for (const Piece& piece : track.composite.picks) {
    if (piece.lane != number || piece.span.end <= at) {
      picks.push_back(piece);
      continue;
    }
    Piece before = piece;
    before.span.end = std::max(at, piece.span.start);
    if (!before.span.empty()) picks.push_back(std::move(before));
    Piece rest = piece;
    rest.span.start = std::max(at, piece.span.start);
    rest.split = piece.split && rest.span == piece.span;
    if (takeOut(rest, number)) picks.push_back(std::move(rest));
  }
  setPicks(track, picks);
  return session;
}

}  // namespace yewdrift
