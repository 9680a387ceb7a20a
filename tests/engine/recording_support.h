// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "bench_rig.h"

namespace yewdrift::test {

inline Performance played(const Samples& signal) {
  return {{signal}};
}

/// An armed viola at 240 bpm in 4/4: a bar is a second, so that rolls are short.
inline Session session240() {
  Session session;
  session.format = SampleFormat::Float32;
  session.tempo = TempoMap({{1, 240.0, {4, 4}}});
  session = addTrack(std::move(session), "Viola", microphonesFor(1));
  return setTrackSwitch(session, session.tracks.front()->id, TrackSwitch::Arm, true);
}

/// Where a bar of it begins.
inline Frames bar(int number) {
  return {(number - 1) * std::int64_t{48000}};
}

inline SessionFolder emptySession(const fs::path& path, int microphones = 1) {
  Session session;
  session.format = SampleFormat::Float32;
  SessionFolder folder = SessionFolder::create(path, session);
  folder.commit("Add", addTrack(session, "Viola", microphonesFor(microphones)));
  return folder;
}

/// A player who plays `performance` from session frame `at` on.
inline SimulatedInterface playerOf(const Samples& performance, std::int64_t at, std::int64_t roundTrip) {
  SimulatedInterface interface;
  interface.roundTrip = {roundTrip};
  interface.parts = {{0, {at}, {played(performance)}, false, {}}};
  return interface;
}

inline TrackId onlyTrack(const SessionFolder& folder) {
  return folder.session().tracks.front()->id;
}

/// The lane's audible samples, read from its file.
inline Samples laneSamples(const SessionFolder& folder, int lane, std::size_t clip = 0,
                           std::size_t channel = 0) {
  const Clip& c = folder.session().tracks.front()->lane({lane})->clips.at(clip);
  const ChannelSource source = c.channels.at(channel);
  const Samples file =
      readWave(audioPath(folder, (*folder.session().pool)[static_cast<std::size_t>(source.file)]))
          .at(static_cast<std::size_t>(source.channel));
  const auto from = file.begin() + (c.window.start - c.origin).count;
  return {from, from + c.window.length().count};
}

/// The capture's file of a lane, whole.
inline Samples laneFile(const SessionFolder& folder, int lane) {
  const Clip& clip = folder.session().tracks.front()->lane({lane})->clips.at(0);
  return readWave(audioPath(folder,
                            (*folder.session().pool)[static_cast<std::size_t>(clip.channels.front().file)]))
      .front();
}

inline Samples part(const Samples& whole, std::int64_t from, std::int64_t to) {
  return {whole.begin() + from, whole.begin() + to};
}

}  // namespace yewdrift::test
