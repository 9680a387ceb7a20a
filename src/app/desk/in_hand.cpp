// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/in_hand.h"

#include <utility>

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
  keepHeard();
  keepJoin();
  keepUnit();
}

/// A take that is gone, or was set aside meanwhile, is not heard any more.
void InHand::keepHeard() {
  const Track* const now = track();
  std::erase_if(heardLanes_, [&](LaneNumber number) {
    const Lane* const lane = now ? now->lane(number) : nullptr;
    return !lane || (lane->setAside && !heardAside_);
  });
  if (!heard_ || (!heardLanes_.empty() && heardLanes_.front() == *heard_)) return;
  lostTake_ = heard_;
  heard_ = heardLanes_.empty() ? std::nullopt : std::optional(heardLanes_.front());
  emit listeningChanged();
}

/// A piece whose boundaries were moved is still the one in hand. Where a pick put another take into it, or
/// where one of its boundaries went (undo of a split, merging), what is in hand stays the stretch that it
/// was: a pick must not reach farther than what was compared.
void InHand::keepUnit() {
  if (!taken_) return;
  const Track* const now = track();
  const Frames middle = taken_->span.start + Frames{taken_->span.length().count / 2};
  std::optional<Span> there;
  const std::size_t piecesBefore = taken_->pieces;
  if (taken_->kind == Unit::Piece) {
    const Piece* const piece = now ? composite(*now).pieceAt(middle) : nullptr;
    if (piece && (piece->lane || piece->picked)) there = piece->span;
    if (now) taken_->pieces = composite(*now).pieces.size();
  } else {
    for (const Punch& punch : desk_.session().punches)
      if (punch.span().overlaps(taken_->span) && (!there || punch.span() == taken_->seen))
        there = punch.span();
  }
  if (!there) {
    taken_.reset();
    return emit unitGone();
  }
  if (*there == taken_->seen) return;
  taken_->seen = *there;
  const bool moved = !picks_ && taken_->pieces == piecesBefore;
  if (moved || taken_->kind == Unit::Punch) taken_->span = *there;
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

std::vector<TrackId> InHand::tracksInHand() const {
  std::vector<TrackId> all;
  for (const auto& track : desk_.session().tracks)
    if (track->id == track_ || std::find(along_.begin(), along_.end(), track->id) != along_.end())
      all.push_back(track->id);
  return all;
}

void InHand::takeTrackAlong(TrackId track) {
  if (track == track_ || !desk_.session().track(track)) return;
  if (std::erase(along_, track) == 0) along_.push_back(track);
  emit changed();
}

void InHand::takeTracksUpTo(TrackId track) {
  along_.clear();
  bool between = false;
  for (const auto& each : desk_.session().tracks) {
    const bool end = each->id == track || each->id == track_;
    if ((between || end) && each->id != track_) along_.push_back(each->id);
    if (end && track != track_) between = !between;
  }
  emit changed();
}

bool InHand::takeNextTrackAlong(int direction) {
  const auto& tracks = desk_.session().tracks;
  const auto inHand = tracksInHand();
  if (inHand.empty()) return false;
  const TrackId edge = direction > 0 ? inHand.back() : inHand.front();
  for (std::size_t i = 0; i < tracks.size(); ++i) {
    if (tracks[i]->id != edge) continue;
    if (direction > 0 ? i + 1 == tracks.size() : i == 0) return false;
    takeTrackAlong(tracks[direction > 0 ? i + 1 : i - 1]->id);
    return true;
  }
  return false;
}

void InHand::takeTrack(TrackId track) {
  if (track == track_ && !along_.empty()) {
    along_.clear();
    return emit changed();
  }
  if (track == track_ || !desk_.session().track(track)) return;
  desk_.keepHeld();
  along_.clear();
  track_ = track;
  heard_.reset();
  heardLanes_.clear();
  order_.reset();
  heardBefore_.reset();
  phrasePlace_.reset();
  selection_.reset();
  taken_.reset();
  join_.reset();
  emit listeningChanged();
  emit changed();
}

void InHand::select(std::optional<Span> span) {
  selection_ = span;
  taken_.reset();
  emit changed();
}

Unit InHand::unit() {
  if (taken_) return taken_->kind;
  if (!selection_) return Unit::None;
  const Phrase* const now = phrase();
  return now && now->cell == *selection_ ? Unit::Phrase : Unit::Selection;
}

std::optional<Span> InHand::unitSpan() const {
  return taken_ ? std::optional(taken_->span) : selection_;
}

bool InHand::takePiece(Frames at) {
  const Track* const now = track();
  const Piece* const piece = now ? composite(*now).pieceAt(at) : nullptr;
  const bool plays = piece && (piece->lane || piece->picked);
  selection_.reset();
  phrasePlace_.reset();
  taken_.reset();
  if (plays) taken_ = Taken{Unit::Piece, piece->span, piece->span, composite(*now).pieces.size()};
  emit listeningChanged();
  emit changed();
  return plays;
}

bool InHand::takePunch(std::size_t index) {
  const auto& punches = desk_.session().punches;
  if (index >= punches.size()) return false;
  selection_.reset();
  phrasePlace_.reset();
  taken_ = Taken{Unit::Punch, punches[index].span(), punches[index].span(), 0};
  emit listeningChanged();
  emit changed();
  return true;
}

bool InHand::stepUnit(int direction) {
  const Track* const now = track();
  if (!taken_ || !now) return false;
  const Span from = taken_->span;
  if (taken_->kind == Unit::Punch) {
    const std::size_t number = unitNumber();
    return direction > 0 ? takePunch(number) : number > 1 && takePunch(number - 2);
  }
  const Piece* next = nullptr;
  for (const Piece& piece : composite(*now).pieces) {
    if (!piece.lane && !piece.picked) continue;
    if (direction > 0 && piece.span.start >= from.end && !next) next = &piece;
    if (direction < 0 && piece.span.end <= from.start) next = &piece;
  }
  return next && takePiece(next->span.start);
}

std::size_t InHand::unitNumber() {
  if (!taken_) return 0;
  std::size_t number = 1;
  if (taken_->kind == Unit::Punch) {
    for (const Punch& punch : desk_.session().punches)
      if (punch.span().start < taken_->seen.start) ++number;
    return number;
  }
  if (const Track* const now = track())
    for (const Piece& piece : composite(*now).pieces)
      if ((piece.lane || piece.picked) && piece.span.end <= taken_->span.start) ++number;
  return number;
}

std::optional<PickOver> InHand::pickOver() {
  using Kind = PickOver::Kind;
  switch (unit()) {
    case Unit::Piece:
      return PickOver{Kind::Piece, taken_->span};
    case Unit::Punch:
      return PickOver{Kind::Punch, taken_->span};
    case Unit::Phrase: {
      const auto& all = phrases();
      return phraseOver(all, static_cast<std::size_t>(phrase() - all.data()));
    }
    case Unit::Selection:
      return PickOver{Kind::Span, *selection_};
    case Unit::None:
      break;
  }
  const auto& loop = desk_.session().loop;
  return loop ? std::optional(PickOver{Kind::Span, *loop}) : std::nullopt;
}

void InHand::letGoOfUnit() {
  if (!selection_ && !phrasePlace_ && !taken_) return;
  const bool heard = taken_.has_value();
  selection_.reset();
  phrasePlace_.reset();
  taken_.reset();
  if (heard) emit listeningChanged();
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
  const Session& before = desk_.present();
  Frames place;
  try {
    // What is left of the piece that gives is no shorter than a crossfade, unless it was.
    const JoinShape fade = defaultJoin(before.rate);
    const Frames least = fade.before + fade.after;
    place = to;
    for (const Piece& piece : piecesAround(requireTrack(before, id), from)) {
      if (to > from && piece.span.start == from) place = std::min(to, std::max(from, piece.span.end - least));
      if (to < from && piece.span.end == from) place = std::max(to, std::min(from, piece.span.start + least));
    }
    place = reachableBoundary(before, id, from, place);
  } catch (const Error&) {
    return;
  }
  join_ = place;
  by.show([=](const Session& s) { return moveBoundary(s, id, from, place); });
  const bool stops = place != to;
  if (std::exchange(stops_, stops) != stops && stops) emit boundaryStopped();
}

void InHand::hear(std::optional<LaneNumber> lane) {
  const Track* now = track();
  if (lane && (!now || !now->lane(*lane))) return;
  if (lane != heard_) heardBefore_ = heard_;
  heard_ = lane;
  heardAside_ = lane && now->lane(*lane)->setAside;
  lostTake_.reset();
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
  if (taken_)
    std::erase_if(takes, [&](LaneNumber number) {
      const auto& clips = now->lane(number)->clips;
      return std::none_of(clips.begin(), clips.end(),
                          [&](const Clip& clip) { return clip.window.overlaps(taken_->span); });
    });
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
  // From where the one was that is gone: as many of its neighbours come before it as have a lower number.
  if (!heard_ && lostTake_) {
    index = static_cast<int>(
        std::count_if(all.begin(), all.end(), [this](LaneNumber take) { return take < *lostTake_; }));
    if (direction > 0) --index;
  }
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

Frames InHand::splitPlace(Frames at) {
  const Track* const now = track();
  const Piece* const piece = now ? composite(*now).pieceAt(at) : nullptr;
  if (!piece) return at;
  const Lane* const plays = piece->lane ? now->lane(*piece->lane) : nullptr;
  const auto within = [piece](Frames place) { return place > piece->span.start && place < piece->span.end; };
  const Frames snapped = this->snapped(at, plays);
  if (snapped != at && within(snapped)) return snapped;
  const Frames crossing = nearestZeroCrossing(at - piece->slip, plays) + piece->slip;
  return within(crossing) ? crossing : at;
}

QString InHand::tooShortToSnap() const {
  const RecordingOptions& options = desk_.options();
  if (options.snap == Snap::Off) return tr("That drag was too short: nothing was changed.");
  return tr(
      "Both ends of that drag snap to the same place: nothing was changed. Press [,] to snap finer, or "
      "hold Alt to drag freely.");
}

std::vector<Frames> InHand::pieceEdges() {
  std::vector<Frames> edges;
  if (const Track* const now = track())
    for (const Piece& piece : composite(*now).pieces) {
      edges.push_back(piece.span.start);
      edges.push_back(piece.span.end);
    }
  return edges;
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
  const bool heard = taken_.has_value();
  taken_.reset();
  if (heard) emit listeningChanged();
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
