// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/in_hand.h"

#include "app/desk/snapping.h"
#include "core/edit/edit.h"
#include "core/error.h"
#include "core/signal/phrases.h"

namespace yewdrift::app {

InHand::InHand(SessionDesk& desk) : desk_(desk), finder_(desk.peaks()) {
  const Session& session = desk_.session();
  for (const auto& track : session.tracks)
    if (!track_.value || (track->armed && !session.track(track_)->armed)) track_ = track->id;
  connect(&desk_, &SessionDesk::committed, this, &InHand::keepValid);
  connect(&desk_, &SessionDesk::changed, this, &InHand::keepValid);
  connect(&finder_, &PhraseFinder::moreFound, this, &InHand::changed);
}

void InHand::keepValid() {
  if (!track() && !desk_.session().tracks.empty()) track_ = desk_.session().tracks.front()->id;
  const Track* now = track();
  std::erase_if(heardLanes_, [now](LaneNumber lane) { return !now || !now->lane(lane); });
  if (heard_ && (heardLanes_.empty() || heardLanes_.front() != *heard_))
    heard_ = heardLanes_.empty() ? std::nullopt : std::optional(heardLanes_.front());
  keepJoin();
}

/// A join that was moved, or moved back, stays in hand: the one between the same takes that is nearest.
void InHand::keepJoin() {
  constexpr double farthestSeconds = 5.0;
  const Track* const now = track();
  if (!join_) return;
  if (!now) return join_.reset();
  const ResolvedComposite& played = composite(*now);
  const auto sidesOf = [&played](Frames at) {
    const Piece* const before = played.pieceAt(at - Frames{1});
    const Piece* const behind = played.pieceAt(at);
    return JoinSides{before ? before->lane : std::nullopt, behind ? behind->lane : std::nullopt};
  };
  if (!played.joinAt(*join_)) {
    Frames nearest = framesFromSeconds(farthestSeconds, desk_.session().rate) + Frames{1};
    std::optional<Frames> found;
    for (const Join& join : played.joins) {
      const Frames away{std::abs((join.at - *join_).count)};
      if (away >= nearest || !(sidesOf(join.at) == joinSides_)) continue;
      nearest = away;
      found = join.at;
    }
    join_ = found;
  }
  if (join_) joinSides_ = sidesOf(*join_);
}

void InHand::takeTrack(TrackId track) {
  if (track == track_ || !desk_.session().track(track)) return;
  desk_.keepHeld();
  track_ = track;
  heard_.reset();
  heardLanes_.clear();
  order_.reset();
  heardBefore_.reset();
  phrasePlace_.reset();
  selection_.reset();
  join_.reset();
  emit listeningChanged();
  emit changed();
}

void InHand::select(std::optional<Span> span) {
  selection_ = span;
  emit changed();
}

void InHand::takeJoin(std::optional<Frames> at) {
  join_ = at;
  joinSides_ = {};
  keepJoin();
  emit changed();
}

void InHand::holdBoundary(HeldEdit& by, Frames from, Frames to) {
  const TrackId id = track_;
  try {
    join_ = reachableBoundary(desk_.present(), id, from, to);
  } catch (const Error&) {
    return;
  }
  by.show([=](const Session& s) { return moveBoundary(s, id, from, to); });
}

void InHand::hear(std::optional<LaneNumber> lane) {
  const Track* now = track();
  if (lane && (!now || !now->lane(*lane))) return;
  if (lane != heard_) heardBefore_ = heard_;
  heard_ = lane;
  heardLanes_.clear();
  if (lane) heardLanes_.push_back(*lane);
  emit listeningChanged();
  emit changed();
}

void InHand::hearOther() {
  const Track* now = track();
  if (heardBefore_ && (!now || !now->lane(*heardBefore_))) heardBefore_.reset();
  hear(heardBefore_);
}

void InHand::hearAlso(LaneNumber lane) {
  const Track* now = track();
  if (!now || !now->lane(lane)) return;
  if (!heard_) return hear(lane);
  const auto found = std::find(heardLanes_.begin(), heardLanes_.end(), lane);
  if (found == heardLanes_.end()) {
    heardLanes_.push_back(lane);
  } else {
    heardLanes_.erase(found);
    heard_ = heardLanes_.empty() ? std::nullopt : std::optional(heardLanes_.front());
  }
  emit listeningChanged();
  emit changed();
}

void InHand::followHeard(LaneNumber lane) {
  if (heard_ == lane) return;
  heardBefore_ = heard_;
  heard_ = lane;
  heardLanes_ = {lane};
  emit changed();
}

std::vector<LaneNumber> InHand::takes() const {
  std::vector<LaneNumber> takes;
  const Track* now = track();
  if (!now) return takes;
  if (order_)
    for (const LaneNumber lane : *order_)
      if (now->lane(lane) && !now->lane(lane)->setAside) takes.push_back(lane);
  for (const auto& lane : now->lanes)
    if (!lane->setAside && std::find(takes.begin(), takes.end(), lane->number) == takes.end())
      takes.push_back(lane->number);
  return takes;
}

void InHand::setOrder(std::optional<std::vector<LaneNumber>> order) {
  if (order == order_) return;
  order_ = std::move(order);
  emit changed();
}

std::optional<LaneNumber> InHand::nextTake() const {
  const std::vector<LaneNumber> all = takes();
  if (all.empty()) return std::nullopt;
  const auto found = heard_ ? std::find(all.begin(), all.end(), *heard_) : all.end();
  return found == all.end() || found + 1 == all.end() ? all.front() : *(found + 1);
}

void InHand::hearNeighbour(int direction) {
  const std::vector<LaneNumber> all = takes();
  if (all.empty()) return;
  const int count = static_cast<int>(all.size());
  int index = direction > 0 ? -1 : count;
  for (int i = 0; i < count; ++i)
    if (all[static_cast<std::size_t>(i)] == heard_) index = i;
  hear(all[static_cast<std::size_t>(std::clamp(index + direction, 0, count - 1))]);
}

const ResolvedComposite& InHand::composite(const Track& track) {
  ResolvedTrack& entry = resolved_[track.id];
  for (const auto& shared : desk_.session().tracks)
    if (&*shared == &track && !(entry.from && entry.from->same(shared))) {
      entry.from = shared;
      entry.composite = resolve(track, desk_.session().rate);
    }
  return entry.composite;
}

FileSampleSource& InHand::closeUpSource() {
  if (!closeUpSource_ || closeUpFiles_ != *desk_.session().pool) {
    closeUpFiles_ = *desk_.session().pool;
    closeUpSource_.emplace(desk_.disk(), closeUpFiles_);
    closeUpBefore_.reset();
  }
  return *closeUpSource_;
}

std::optional<JoinCloseUp> InHand::joinCloseUp(Frames around, std::optional<Frames> centre) {
  const Track* now = track();
  if (!now || !join_) return std::nullopt;
  const Frames middle = centre.value_or(*join_);
  try {
    const Span span{middle - around, middle + around};
    FileSampleSource& source = closeUpSource();
    closeUpBefore_ =
        closeUp(desk_.session(), *now, *join_, span, source, closeUpBefore_ ? &*closeUpBefore_ : nullptr);
    return closeUpBefore_;
  } catch (const Error&) {
    return std::nullopt;
  }
}

void InHand::stepSnap(int direction) {
  RecordingOptions options = desk_.options();
  options.snap = neighbourSnap(options.snap, direction);
  desk_.setOptions(options);
}

Frames InHand::snapped(Frames at, const Lane* by) {
  return app::snapped(desk_.session(), at,
                      {[this] {
                         std::vector<Span> spans;
                         for (const Phrase& each : phrases()) spans.push_back(each.span);
                         return spans;
                       },
                       [this, by](Frames from) { return nearestZeroCrossing(from, by); }});
}

const std::vector<Phrase>& InHand::phrases() {
  return finder_.phrasesOf(desk_.session(), trackId());
}

const Phrase* InHand::phrase() {
  return phrasePlace_ ? phraseAt(phrases(), *phrasePlace_) : nullptr;
}

void InHand::takePhrase(const Phrase& phrase) {
  phrasePlace_ = phrase.span.start + Frames{phrase.span.length().count / 2};
  selection_ = phrase.cell;
  emit changed();
}

void InHand::dropPhrase() {
  if (!phrasePlace_) return;
  phrasePlace_.reset();
  emit changed();
}

Frames InHand::nearestZeroCrossing(Frames at, const Lane* by) {
  const Track* now = track();
  if (!by && now) by = newestLaneAt(*now, at);
  const Clip* clip = by ? clipAt(*by, at) : nullptr;
  if (!clip || clip->channels.empty()) return at;
  constexpr int reach = 1024;
  std::vector<float> samples(std::size_t{2} * std::size_t{reach});
  const ChannelSource source = clip->channels.front();
  closeUpSource().read(source.file, source.channel, at - clip->origin - Frames{reach}, 2 * reach,
                       samples.data());
  return at - Frames{reach} + Frames{nearestCrossing(samples, reach)};
}

}  // namespace yewdrift::app
