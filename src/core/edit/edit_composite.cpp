// SPDX-License-Identifier: GPL-3.0-or-later
//
// Composites as a whole: several of a track, compared, and flattened.
#include "core/edit/composite_parts.h"
#include "core/edit/edit.h"
#include "core/edit/edit_access.h"
#include "core/edit/edit_composites.h"
#include "core/edit/lane_clips.h"
#include "core/error.h"
#include "core/session/limits.h"
#include "core/session/resolved_composite.h"

namespace yewdrift {
namespace {

std::vector<KeptComposite>::iterator keptNamed(Track& track, const std::string& name) {
  return std::find_if(track.keptComposites.begin(), track.keptComposites.end(),
                      [&](const KeptComposite& kept) { return kept.name == name; });
}

std::string checkedName(const Track& track, const std::string& name) {
  if (name.empty()) throw Error("A composite needs a name.");
  const auto names = compositeNames(track);
  if (std::find(names.begin(), names.end(), name) != names.end())
    throw Error("The track \"%1\" has a composite \"%2\" already.", track.name, name);
  return readableText(name);
}

/// "Composite 1", or the first number that is free.
std::string freeName(const Track& track) {
  for (int number = 1;; ++number) {
    std::string name = "Composite " + std::to_string(number);
    if (std::none_of(track.keptComposites.begin(), track.keptComposites.end(),
                     [&](const KeptComposite& kept) { return kept.name == name; }))
      return name;
  }
}

/// What of `span` no person picked.
std::vector<Span> unchosenIn(const SharedSequence<Piece>& picks, Span span) {
  std::vector<Span> unchosen;
  Frames from = span.start;
  for (std::size_t i = firstPickEndingAfter(picks, span.start);
       i < picks.size() && picks[i].span.start < span.end; ++i) {
    if (picks[i].rough || !picks[i].picked) continue;
    if (picks[i].span.start > from) unchosen.push_back({from, picks[i].span.start});
    from = std::max(from, picks[i].span.end);
  }
  if (from < span.end) unchosen.push_back({from, span.end});
  return unchosen;
}

[[noreturn]] void noComposite(const Track& track, const std::string& name) {
  throw Error("The track \"%1\" has no composite \"%2\".", track.name, name);
}

}  // namespace

std::string compositeName(const Track& track) {
  return track.compositeName.empty() ? freeName(track) : track.compositeName;
}

std::vector<std::string> compositeNames(const Track& track) {
  std::vector<std::string> names{compositeName(track)};
  for (const KeptComposite& kept : track.keptComposites) names.push_back(kept.name);
  return names;
}

Session keepComposite(Session session, TrackId id, const std::string& name) {
  Track& track = editTrack(session, id);
  std::string checked = checkedName(track, name);
  if (track.keptComposites.size() >= limits::composites)
    throw Error("A track can have %1 composites at most.", limits::composites);
  track.compositeName = compositeName(track);
  track.keptComposites.push_back({std::move(checked), track.composite, {}});
  return session;
}

Session useComposite(Session session, TrackId id, const std::string& name) {
  Track& track = editTrack(session, id);
  if (name == compositeName(track)) return session;
  const auto kept = keptNamed(track, name);
  if (kept == track.keptComposites.end()) noComposite(track, name);
  track.compositeName = compositeName(track);
  std::swap(track.compositeName, kept->name);
  std::swap(track.composite, kept->composite);
  return session;
}

Session removeComposite(Session session, TrackId id, const std::string& name) {
  Track& track = editTrack(session, id);
  if (name == compositeName(track))
    throw Error("\"%1\" is the composite in use; use another one first.", name);
  const auto kept = keptNamed(track, name);
  if (kept == track.keptComposites.end()) noComposite(track, name);
  track.keptComposites.erase(kept);
  return session;
}

Session renameComposite(Session session, TrackId id, const std::string& name, const std::string& to) {
  if (name == to) return session;
  Track& track = editTrack(session, id);
  std::string checked = checkedName(track, to);
  if (name == compositeName(track)) {
    track.compositeName = std::move(checked);
    return session;
  }
  const auto kept = keptNamed(track, name);
  if (kept == track.keptComposites.end()) noComposite(track, name);
  kept->name = std::move(checked);
  return session;
}

namespace {

/// How a piece that is chosen anew sounds: as a person set it where the same take played there before.
void keepSound(Piece& placed, const SharedSequence<Piece>& before) {
  const Frames middle = placed.span.start + Frames{placed.span.length().count / 2};
  const std::size_t i = firstPickEndingAfter(before, middle);
  if (i == before.size() || !before[i].span.contains(middle) || before[i].lane != placed.lane) return;
  placed.gain = before[i].gain;
  placed.pitch = before[i].pitch;
  placed.level = before[i].level;
}

}  // namespace

Session playRough(Session session, TrackId id, const std::vector<Piece>& pieces, bool keepChosen) {
  Track& track = editTrack(session, id);
  const SharedSequence<Piece> before = track.composite.picks;
  for (const Piece& piece : pieces) {
    requireSpan(piece.span);
    for (const Span part : keepChosen ? unchosenIn(before, piece.span) : std::vector<Span>{piece.span}) {
      const Span heard = part.shifted(-piece.slip);
      const std::vector<Span> there =
          piece.lane ? audibleIn(requireLane(track, *piece.lane), heard) : std::vector<Span>{heard};
      for (const Span each : there) {
        Piece placed = piece;
        placed.span = each.shifted(piece.slip);
        placed.rough = true;
        keepSound(placed, before);
        placePieces(track, placed.span, {placed});
      }
    }
  }
  return session;
}

const Composite& compositeNamed(const Track& track, const std::string& name) {
  if (name == compositeName(track)) return track.composite;
  for (const KeptComposite& kept : track.keptComposites)
    if (kept.name == name) return kept.composite;
  noComposite(track, name);
}

std::vector<Span> differencesBetween(const Track& track, const Composite& a, const Composite& b,
                                     SampleRate rate) {
  Track one = track;
  one.composite = a;
  Track other = track;
  other.composite = b;
  const auto left = resolve(one, rate).pieces;
  const auto right = resolve(other, rate).pieces;
  std::vector<Frames> edges;
  for (const auto* pieces : {&left, &right})
    for (const Piece& piece : *pieces) {
      edges.push_back(piece.span.start);
      edges.push_back(piece.span.end);
    }
  std::sort(edges.begin(), edges.end());
  edges.erase(std::unique(edges.begin(), edges.end()), edges.end());
  std::vector<Span> different;
  std::size_t l = 0;
  std::size_t r = 0;
  const Piece nothing;
  for (std::size_t i = 0; i + 1 < edges.size(); ++i) {
    const auto at = [&](const std::vector<Piece>& pieces, std::size_t& index) -> const Piece& {
      while (index < pieces.size() && pieces[index].span.end <= edges[i]) ++index;
      return index < pieces.size() && pieces[index].span.contains(edges[i]) ? pieces[index] : nothing;
    };
    const Piece& here = at(left, l);
    const Piece& there = at(right, r);
    if (playTheSame(here, there)) continue;
    if (!different.empty() && different.back().end == edges[i])
      different.back().end = edges[i + 1];
    else
      different.push_back({edges[i], edges[i + 1]});
  }
  return different;
}

bool sameComposite(const Session& a, const Session& b, TrackId id) {
  const Track* const left = a.track(id);
  const Track* const right = b.track(id);
  if (!left || !right || left->channels() != right->channels()) return false;
  const ResolvedComposite plays = resolve(*left, a.rate);
  const ResolvedComposite other = resolve(*right, b.rate);
  if (plays.pieces != other.pieces || plays.joins != other.joins ||
      left->composite.level != right->composite.level || left->composite.fadeIn != right->composite.fadeIn ||
      left->composite.fadeOut != right->composite.fadeOut)
    return false;
  const auto sameSource = [&](const ChannelSource& x, const ChannelSource& y) {
    return x.channel == y.channel && (*a.pool)[static_cast<std::size_t>(x.file)].path ==
                                         (*b.pool)[static_cast<std::size_t>(y.file)].path;
  };
  const auto sameClip = [&](const Clip& x, const Clip& y) {
    return x.origin == y.origin && x.extent() == y.extent() && x.window == y.window &&
           std::equal(x.channels.begin(), x.channels.end(), y.channels.begin(), y.channels.end(), sameSource);
  };
  const auto sameLane = [&](LaneNumber number) {
    const Lane& x = *left->lane(number);
    const Lane& y = *right->lane(number);
    return x.gain == y.gain && x.pitch == y.pitch && x.muted == y.muted && x.level == y.level &&
           std::equal(x.clips.begin(), x.clips.end(), y.clips.begin(), y.clips.end(), sameClip);
  };
  return std::all_of(plays.pieces.begin(), plays.pieces.end(), [&](const Piece& piece) {
    return (!piece.lane || sameLane(*piece.lane)) &&
           std::all_of(piece.overdubs.begin(), piece.overdubs.end(), sameLane);
  });
}

namespace {

/// A lane of its own that plays the file; returns its number.
LaneNumber addFlattened(Session& session, TrackId id, PoolFile flattened, Frames origin) {
  Clip clip;
  clip.origin = origin;
  clip.sourceLength = flattened.length;
  clip.window = clip.extent();
  const int channels = flattened.channels;
  session = addPoolFile(std::move(session), std::move(flattened));
  for (int channel = 0; channel < channels; ++channel)
    clip.channels.push_back({static_cast<int>(session.pool->size()) - 1, channel});
  session = addLane(std::move(session), id, {clip});
  Lane& lane = editTrack(session, id).lanes.back().edit();
  lane.name = "Flattened " + std::to_string(lane.number.value);
  lane.flattened = true;
  return lane.number;
}

}  // namespace

Session playAsIn(Session session, TrackId id, const Composite& before, Span span) {
  requireSpan(span);
  Track& track = editTrack(session, id);
  std::vector<Piece> pieces;
  for (std::size_t i = firstPickEndingAfter(before.picks, span.start);
       i < before.picks.size() && before.picks[i].span.start < span.end; ++i) {
    Piece piece = before.picks[i];
    piece.span = piece.span.intersect(span);
    std::erase_if(piece.overdubs, [&track](LaneNumber lane) { return !track.lane(lane); });
    if (!piece.lane || track.lane(*piece.lane)) pieces.push_back(std::move(piece));
  }
  placePieces(track, span, pieces);
  for (const JoinSetting& setting : before.joins)
    if (setting.at > span.start && setting.at < span.end && isBoundary(track, setting.at))
      placeJoinSetting(track, setting);
  return session;
}

Session takePlaceOfComposite(Session session, TrackId id, PoolFile flattened, Frames origin,
                             OtherLanes others) {
  // Where the composite was silent at its ends no other take begins to play.
  Span span{origin, origin + flattened.length};
  const std::vector<Piece> before = resolve(requireTrack(session, id), session.rate).pieces;
  if (!before.empty())
    span = {std::min(span.start, before.front().span.start), std::max(span.end, before.back().span.end)};
  const LaneNumber lane = addFlattened(session, id, std::move(flattened), origin);
  Piece whole;
  whole.span = span;
  whole.lane = lane;
  Track& track = editTrack(session, id);
  track.composite = Composite{SharedSequence<Piece>({whole}), {}};
  std::vector<LaneNumber> rest;
  for (const auto& each : track.lanes)
    if (each->number != lane) rest.push_back(each->number);
  for (const LaneNumber each : rest) {
    if (others == OtherLanes::Archive) session = setLaneAside(std::move(session), id, each, true);
    if (others == OtherLanes::Remove) session = removeLane(std::move(session), id, each);
  }
  return session;
}

void requireFlattenableInPart(const Track& track) {
  const Composite& composite = track.composite;
  if (!composite.level.empty() || composite.fadeIn.length.count > 0 || composite.fadeOut.length.count > 0)
    throw Error(
        "The composite's own level or fades are set, and hold all along it: flatten the whole of it.");
}

Session takePlaceInComposite(Session session, TrackId id, PoolFile flattened, Frames origin, Span span) {
  const Track& before = requireTrack(session, id);
  requireFlattenableInPart(before);
  if (span.empty() || span.start < origin || span.end > origin + flattened.length)
    throw Error("The flattened file does not hold all of that span.");
  const SampleRate rate = session.rate;
  const std::vector<Join> joins = resolve(before, rate).joins;
  std::vector<JoinSetting> settings;
  for (const Frames edge : {span.start, span.end}) {
    const JoinSetting* const there = joinSettingAt(before, edge);
    settings.push_back(there ? *there : JoinSetting{edge});
  }
  const LaneNumber lane = addFlattened(session, id, std::move(flattened), origin);
  Track& track = editTrack(session, id);
  track.lanes.back().edit().clips.front().window = span;
  session = pick(std::move(session), id, span, lane);
  for (JoinSetting& setting : settings) {
    if (!isBoundary(requireTrack(session, id), setting.at)) continue;
    const auto was = std::ranges::find(joins, setting.at, &Join::at);
    const JoinShape shape = was == joins.end() ? JoinShape{{}, {}, Curve::EqualGain, 0.0} : was->shape;
    placeJoinSetting(editTrack(session, id), setting);
    const ResolvedComposite resolved = resolve(requireTrack(session, id), rate);
    const Join* const now = resolved.joinAt(setting.at);
    if (!now || now->shape == shape) continue;
    // Nobody set it: it goes once something else plays on either side.
    setting.found = !setting.shape || setting.found;
    setting.shape = shape;
    placeJoinSetting(editTrack(session, id), setting);
  }
  return session;
}

}  // namespace yewdrift
