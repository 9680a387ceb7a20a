// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/pick_up.h"

#include "core/edit/edit.h"

namespace yewdrift {

void PickUp::follow(const Session& session) {
  std::vector<TrackId> edited;
  for (const auto& [id, left] : left_)
    if (const Track* const track = session.track(id); track && track->composite != left) edited.push_back(id);
  if (edited.empty()) return;
  PickUp attempts;  // whose lanes are taken out, but nothing comes back in their place
  attempts.attempts_ = attempts_;
  Session without = attempts.takenBack(session, -maximumPosition);
  for (const TrackId id : edited) {
    // Where an attempt still plays, what it played over is underneath; elsewhere the edit is.
    for (const Piece& piece : session.track(id)->composite.picks)
      if (std::ranges::any_of(attempts_, [&](const RecordedLane& each) {
            return each.track == id && piece.lane == each.lane;
          }))
        without = playAsIn(std::move(without), id, before_.at(id), piece.span);
    before_[id] = without.track(id)->composite;
    left_[id] = session.track(id)->composite;
  }
}

void PickUp::recorded(const std::vector<RecordedLane>& lanes, const Session& session) {
  attempts_.insert(attempts_.end(), lanes.begin(), lanes.end());
  remember(session);
}

Session PickUp::takenBack(Session session, Frames from) const {
  if (attempts_.empty()) return session;
  for (const RecordedLane& each : attempts_) {
    const Track* const track = session.track(each.track);
    const Lane* const lane = track ? track->lane(each.lane) : nullptr;
    if (!lane || lane->setAside || lane->clips.empty() || lane->clips.back().window.end <= from) continue;
    if (lane->clips.front().window.start < from)
      session = endLaneAt(std::move(session), each.track, each.lane, from);
    else if (track->recordInto != each.lane)
      session = withdrawLane(std::move(session), each.track, each.lane);
  }
  for (const auto& [id, before] : before_)
    if (session.track(id)) session = playAsIn(std::move(session), id, before, {from, maximumPosition});
  return session;
}

void PickUp::begins(const Session& session, const std::vector<TrackId>& tracks) {
  for (const TrackId id : tracks)
    if (const Track* const track = session.track(id)) before_.try_emplace(id, track->composite);
  remember(session);
}

void PickUp::remember(const Session& session) {
  for (const auto& [id, before] : before_)
    if (const Track* const track = session.track(id)) left_[id] = track->composite;
}

}  // namespace yewdrift
