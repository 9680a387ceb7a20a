// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/edit.h"
#include "core/edit/edit_access.h"
#include "core/error.h"
#include "core/session/limits.h"

namespace yewdrift {

const Track& requireTrack(const Session& session, TrackId id) {
  if (const Track* track = session.track(id)) return *track;
  throw Error("There is no such track in this session.");
}

const Track& requireTrack(const Session& session, const std::string& name) {
  if (const Track* track = session.trackNamed(name)) return *track;
  throw Error("There is no track named \"%1\" in this session.", name);
}

const Lane& requireLane(const Track& track, LaneNumber number) {
  if (const Lane* lane = track.lane(number)) return *lane;
  throw Error("The track \"%1\" has no lane %2.", track.name, number.value);
}

Track& editTrack(Session& session, TrackId id) {
  for (auto& track : session.tracks)
    if (track->id == id) return track.edit();
  throw Error("There is no such track in this session.");
}

std::vector<Microphone> microphonesFor(int channels) {
  if (channels <= 2) return {{"Microphone", 0, channels, {}, {}}};
  std::vector<Microphone> set;
  set.reserve(static_cast<std::size_t>(channels));
  for (int i = 0; i < channels; ++i) set.push_back({"Microphone " + std::to_string(i + 1), i, 1, {}, {}});
  return set;
}

int firstFreeInput(const Session& session) {
  const auto taken = [&session](int input) {
    for (const auto& track : session.tracks)
      for (const Microphone& microphone : track->microphones)
        if (!track->backing && input >= microphone.input && input < microphone.input + microphone.channels)
          return true;
    return false;
  };
  int free = 0;
  while (taken(free)) ++free;
  return free;
}

Session addTrack(Session session, std::string name, std::vector<Microphone> microphones, bool backing) {
  name = readableText(name);
  if (name.empty()) throw Error("A track needs a name.");
  if (session.trackNamed(name)) throw Error("There already is a track named \"%1\".", name);
  if (microphones.empty()) throw Error("A track needs at least one microphone.");
  Track track;
  track.id = TrackId{++session.tracksMade};
  track.name = std::move(name);
  track.microphones = std::move(microphones);
  track.backing = backing;
  session.tracks.emplace_back(std::move(track));
  return session;
}

Session addPoolFile(Session session, PoolFile file) {
  session.pool.edit().push_back(std::move(file));
  return session;
}

Session addLane(Session session, TrackId id, std::vector<Clip> clips, std::string name) {
  Track& track = editTrack(session, id);
  Lane lane;
  lane.number = LaneNumber{++track.lanesMade};
  lane.name = name.empty() ? "Take " + std::to_string(lane.number.value) : readableText(name);
  lane.clips = std::move(clips);
  track.lanes.emplace_back(std::move(lane));
  return session;
}

Session addFileAsLane(Session session, TrackId id, const PoolFile& file, Frames at, std::string name) {
  const std::string trackName = requireTrack(session, id).name;
  const int channels = requireTrack(session, id).channels();
  if (file.channels != channels && file.channels != 1)
    throw Error("Channels do not go together: \"%1\" has %2, the file has %3.", trackName, channels,
                file.channels);
  // One that is in the pool already stays what it is there.
  const auto& pool = *session.pool;
  const auto known =
      std::find_if(pool.begin(), pool.end(), [&](const PoolFile& each) { return each.path == file.path; });
  const auto index = static_cast<int>(known - pool.begin());
  if (known == pool.end()) session = addPoolFile(std::move(session), file);
  Clip clip;
  clip.origin = at;
  clip.sourceLength = file.length;
  clip.window = clip.extent();
  for (int channel = 0; channel < channels; ++channel)
    clip.channels.push_back({index, std::min(channel, file.channels - 1)});
  return addLane(std::move(session), id, {clip}, std::move(name));
}

Session setTrackMix(Session session, TrackId id, Decibels gain, Pan pan) {
  Track& track = editTrack(session, id);
  track.gain = {std::clamp(gain.value, -120.0, 24.0)};
  track.pan = {std::clamp(pan.value, -1.0, 1.0)};
  return session;
}

Session setTrackSwitch(Session session, TrackId id, TrackSwitch which, bool on) {
  Track& track = editTrack(session, id);
  switch (which) {
    case TrackSwitch::Arm:
      if (on && track.backing)
        throw Error("\"%1\" is a backing track; takes belong on another track.", track.name);
      track.armed = on;
      break;
    case TrackSwitch::Mute:
      track.muted = on;
      break;
    case TrackSwitch::Solo:
      track.soloed = on;
      break;
  }
  return session;
}

Session renameTrack(Session session, TrackId id, std::string name) {
  name = readableText(name);
  if (name.empty()) throw Error("A track needs a name.");
  const Track* other = session.trackNamed(name);
  if (other && other->id != id) throw Error("There already is a track named \"%1\".", name);
  editTrack(session, id).name = std::move(name);
  return session;
}

Session setMonitoring(Session session, TrackId id, Monitoring monitoring) {
  editTrack(session, id).monitoring = monitoring;
  return session;
}

Session setMicrophones(Session session, TrackId id, std::vector<Microphone> microphones) {
  if (microphones.empty()) throw Error("A track needs at least one microphone.");
  Track& track = editTrack(session, id);
  for (Microphone& microphone : microphones) {
    if (microphone.input < 0 || microphone.input > 255) throw Error("Inputs are numbered from 1 to 256.");
    if (microphone.channels < 1 || microphone.channels > 2)
      throw Error("A microphone has one channel or two.");
    microphone.gain = {std::clamp(microphone.gain.value, -120.0, 24.0)};
    microphone.pan = {std::clamp(microphone.pan.value, -1.0, 1.0)};
  }
  const bool same =
      std::equal(microphones.begin(), microphones.end(), track.microphones.begin(), track.microphones.end(),
                 [](const Microphone& a, const Microphone& b) { return a.channels == b.channels; });
  if (!same && !track.lanes.empty())
    throw Error(
        "\"%1\" has takes already, so the number of its microphones stays; add another track instead.",
        track.name);
  track.microphones = std::move(microphones);
  return session;
}

Session setRecordInto(Session session, TrackId id, std::optional<LaneNumber> lane) {
  if (lane) requireLane(requireTrack(session, id), *lane);
  editTrack(session, id).recordInto = lane;
  return session;
}

}  // namespace yewdrift
