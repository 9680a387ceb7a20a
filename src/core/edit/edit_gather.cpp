// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/edit_gather.h"

#include "core/edit/edit_access.h"
#include "core/error.h"
#include "core/session/limits.h"
#include "core/session/resolved_composite.h"

namespace yewdrift {
namespace {

auto placeOf(Session& session, TrackId id) {
  const auto found = std::find_if(session.tracks.begin(), session.tracks.end(),
                                  [id](const auto& track) { return track->id == id; });
  if (found == session.tracks.end()) throw Error("There is no such track in this session.");
  return found;
}

void checkOthers(TrackId track, const std::vector<TrackId>& from) {
  if (from.empty()) throw Error("Say which other tracks are meant.");
  for (std::size_t i = 0; i < from.size(); ++i)
    if (from[i] == track || std::count(from.begin(), from.end(), from[i]) > 1)
      throw Error("A track can be named only once.");
}

/// Puts a track behind another one.
void insertBehind(Session& session, TrackId behind, Track track) {
  if (session.tracks.size() >= limits::tracks)
    throw Error("A session can have %1 tracks at most.", limits::tracks);
  session.tracks.insert(placeOf(session, behind) + 1, Shared<Track>(std::move(track)));
}

/// A lane as it is on a track of so many channels.
Lane fitted(Lane lane, std::size_t channels, const std::string& name) {
  for (auto* clips : {&lane.clips, &lane.cutAway})
    for (Clip& clip : *clips) {
      if (clip.channels.size() == 1) clip.channels.resize(channels, clip.channels.front());
      if (clip.channels.size() != channels)
        throw Error("\"%1\" does not have as many channels as that track.", name);
    }
  return lane;
}

/// Lanes that lie at the same places, channel by channel in one.
void addChannels(Lane& lane, const Lane& other, const std::string& name) {
  if (lane.clips.size() != other.clips.size())
    throw Error("Lane %1 of \"%2\" does not have its takes at the same places.", other.number.value, name);
  for (std::size_t i = 0; i < lane.clips.size(); ++i) {
    Clip& clip = lane.clips[i];
    const Clip& more = other.clips[i];
    if (clip.origin != more.origin || !clip.window.overlaps(more.window))
      throw Error("Lane %1 of \"%2\" does not have its takes at the same places.", other.number.value, name);
    clip.channels.insert(clip.channels.end(), more.channels.begin(), more.channels.end());
    // Where one of them ends earlier it is silent.
    const Span both{std::min(clip.extent().start, more.extent().start),
                    std::max(clip.extent().end, more.extent().end)};
    clip.sourceLength = std::max(clip.sourceLength, more.sourceLength);
    if (clip.part || more.part) clip.part = both.shifted(-clip.origin);
  }
}

/// The channels that a microphone has among those of its track.
struct Channels {
  std::size_t from = 0;
  std::size_t count = 0;
};

Track onlyMicrophone(const Track& track, std::size_t index) {
  Channels channels;
  for (std::size_t i = 0; i < index; ++i)
    channels.from += static_cast<std::size_t>(track.microphones[i].channels);
  channels.count = static_cast<std::size_t>(track.microphones[index].channels);
  Track one = track;
  one.microphones = {track.microphones[index]};
  for (auto& lane : one.lanes) {
    Lane& edited = lane.edit();
    for (auto* clips : {&edited.clips, &edited.cutAway})
      for (Clip& clip : *clips) {
        const auto first = clip.channels.begin() + static_cast<std::ptrdiff_t>(channels.from);
        clip.channels =
            std::vector<ChannelSource>(first, first + static_cast<std::ptrdiff_t>(channels.count));
      }
  }
  return one;
}

}  // namespace

std::string freeTrackName(const Session& session, const std::string& wanted) {
  std::string name = wanted;
  for (int n = 2; session.trackNamed(name); ++n) name = wanted + " " + std::to_string(n);
  return name;
}

Session removeTrack(Session session, TrackId id) {
  session.tracks.erase(placeOf(session, id));
  return session;
}

Session placeTrack(Session session, TrackId id, int place) {
  if (place < 1) throw Error("Tracks are shown from the first on: a place is 1 or more.");
  const auto found = placeOf(session, id);
  const Shared<Track> track = *found;
  session.tracks.erase(found);
  const auto index = std::min(session.tracks.size(), static_cast<std::size_t>(place - 1));
  session.tracks.insert(session.tracks.begin() + static_cast<std::ptrdiff_t>(index), track);
  return session;
}

Session duplicateTrack(Session session, TrackId id) {
  Track copy = requireTrack(session, id);
  copy.name = freeTrackName(session, copy.name);
  copy.id = TrackId{++session.tracksMade};
  copy.armed = false;
  insertBehind(session, id, std::move(copy));
  return session;
}

std::vector<SpreadTake> spreadEvenly(const Track& track, double width, const std::vector<LaneNumber>& only) {
  if (!(width >= 0.0 && width <= 1.0))
    throw Error("Takes are spread by 0 (all in the middle) to 1 (hard left to hard right).");
  std::vector<SpreadTake> takes;
  for (const LaneNumber number : only) requireLane(track, number);
  for (const auto& lane : track.lanes) {
    const bool meant =
        only.empty() ? !lane->setAside : std::find(only.begin(), only.end(), lane->number) != only.end();
    if (meant && !lane->clips.empty()) takes.push_back({lane->number, {}});
  }
  if (takes.empty()) throw Error("\"%1\" has no takes to be spread.", track.name);
  for (std::size_t i = 0; takes.size() > 1 && i < takes.size(); ++i) {
    const double share = static_cast<double>(i) / static_cast<double>(takes.size() - 1);
    takes[i].pan = {std::clamp(width * (2.0 * share - 1.0), -1.0, 1.0)};
  }
  return takes;
}

Session spreadTakes(Session session, TrackId id, const std::vector<SpreadTake>& takes) {
  const Track track = requireTrack(session, id);
  if (takes.empty()) throw Error("\"%1\" has no takes to be spread.", track.name);
  TrackId behind = id;
  for (const SpreadTake& take : takes) {
    Lane lane = requireLane(track, take.lane);
    lane.setAside = false;
    Track one = track;
    one.name = freeTrackName(session, track.name + ", " + lane.name);
    one.id = TrackId{++session.tracksMade};
    one.armed = false;
    one.muted = false;
    one.recordInto.reset();
    one.composite = {};
    one.compositeName.clear();
    one.keptComposites.clear();
    one.lanes = {Shared<Lane>(std::move(lane))};
    one.pan = take.pan;
    const TrackId made = one.id;
    insertBehind(session, behind, std::move(one));
    behind = made;
  }
  const auto isSpread = [&takes](LaneNumber lane) {
    return std::any_of(takes.begin(), takes.end(),
                       [lane](const SpreadTake& take) { return take.lane == lane; });
  };
  const auto pieces = resolve(track, session.rate).pieces;
  const bool twice = std::all_of(pieces.begin(), pieces.end(), [&](const Piece& piece) {
    return !piece.lane ||
           (isSpread(*piece.lane) && std::all_of(piece.overdubs.begin(), piece.overdubs.end(), isSpread));
  });
  if (twice) editTrack(session, id).muted = true;
  return session;
}

Session absorbTracks(Session session, TrackId id, const std::vector<TrackId>& from) {
  checkOthers(id, from);
  for (const TrackId other : from) {
    const Track source = requireTrack(session, other);
    Track& track = editTrack(session, id);
    if (track.lanes.size() + source.lanes.size() > limits::lanes)
      throw Error("A track can have %1 lanes at most.", limits::lanes);
    for (const auto& lane : source.lanes) {
      Lane taken = fitted(*lane, static_cast<std::size_t>(track.channels()), source.name);
      taken.number = LaneNumber{++track.lanesMade};
      if (source.lanes.size() == 1) taken.name = source.name;
      track.lanes.emplace_back(std::move(taken));
    }
    session.tracks.erase(placeOf(session, other));
  }
  return session;
}

Session gatherMicrophones(Session session, TrackId id, const std::vector<TrackId>& from) {
  checkOthers(id, from);
  for (const TrackId other : from) {
    const Track source = requireTrack(session, other);
    Track& track = editTrack(session, id);
    if (track.lanes.size() != source.lanes.size())
      throw Error("\"%1\" does not have as many takes as \"%2\".", source.name, track.name);
    if (track.microphones.size() + source.microphones.size() > limits::microphones)
      throw Error("A set can have %1 microphones at most.", limits::microphones);
    for (std::size_t i = 0; i < track.lanes.size(); ++i) {
      Lane& lane = track.lanes[i].edit();
      addChannels(lane, *source.lanes[i], source.name);
      lane.cutAway.clear();  // what was cut out of one alone cannot come back in all
    }
    // Each is heard as it was: what differs between the tracks goes into the microphones.
    for (Microphone microphone : source.microphones) {
      if (source.microphones.size() == 1) microphone.name = source.name;
      microphone.gain = {std::clamp(microphone.gain.value + source.gain.value - track.gain.value,
                                    limits::lowestGain.value, limits::highestGain.value)};
      microphone.pan = {std::clamp(microphone.pan.value + source.pan.value - track.pan.value, -1.0, 1.0)};
      track.microphones.push_back(std::move(microphone));
    }
    session.tracks.erase(placeOf(session, other));
  }
  Track& track = editTrack(session, id);
  if (!track.microphones.empty() && track.microphones.front().name == "Microphone")
    track.microphones.front().name = track.name;
  return session;
}

Session separateMicrophones(Session session, TrackId id) {
  const Track track = requireTrack(session, id);
  if (track.microphones.size() < 2) throw Error("\"%1\" has only one microphone.", track.name);
  editTrack(session, id) = onlyMicrophone(track, 0);
  TrackId behind = id;
  for (std::size_t i = 1; i < track.microphones.size(); ++i) {
    Track one = onlyMicrophone(track, i);
    one.id = TrackId{++session.tracksMade};
    one.name =
        freeTrackName(session, track.microphones[i].name.empty() ? track.name : track.microphones[i].name);
    const TrackId made = one.id;
    insertBehind(session, behind, std::move(one));
    behind = made;
  }
  return session;
}

}  // namespace yewdrift
