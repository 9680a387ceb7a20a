// SPDX-License-Identifier: GPL-3.0-or-later
//
// A recording that was cut off before its punch: nothing of it is audible, and all of it is kept.
#include "core/core_tests.h"

TEST_CASE(
    "What was captured before a punch that never came is set aside, each microphone where it was played") {
  const TemporaryFolder temporary;
  const fs::path path = temporary / "s";
  Session session;
  session.rate = SampleRate{48000};
  session = addTrack(session, "Drum", {Microphone{"near", 0, 1, {}, {}}, Microphone{"room", 1, 2, {}, {}}});
  const TrackId id = session.tracks.front()->id;
  const SessionFolder made = SessionFolder::create(path, session);
  // The microphones end within a moment of each other.
  writeWave(path / "audio" / "near.wav", {noise(30000, 1)});
  writeWave(path / "audio" / "room.wav", {noise(30100, 2), noise(30100, 3)});
  RecordSetup setup;
  setup.timeline.start = Frames{96000};
  setup.recordFrom = Frames{96000};
  setup.timeline.countIn = Frames{24000};
  setup.capturesFrom = Frames{1000};
  setup.roundTrip = Frames{333};
  setup.byHand = true;
  Capture capture{id, {{"audio/near.wav", 1, {}}, {"audio/room.wav", 2, {}}}, {}};
  RecordingNote(made.disk()).write(session, setup, {capture});
  const std::vector<std::string> notes = recordingNotes(made.disk());
  REQUIRE(notes.size() == 1);

  const Recovery recovery = recoverRecording(made.disk(), notes.front(), session);
  CHECK(recovery.changed);
  CHECK(recovery.settled);
  REQUIRE(recovery.sentences.size() == 1);
  CHECK_THAT(recovery.sentences.front().english(),
             Catch::Contains("before its punch") && Catch::Contains("set aside"));
  const Track& track = *recovery.session.tracks.front();
  REQUIRE(track.lanes.size() == 1);
  const Lane& lane = *track.lanes.front();
  CHECK(lane.setAside);
  REQUIRE(lane.clips.size() == 1);
  const Clip& clip = lane.clips.front();
  CHECK(clip.origin == Frames{96000 + 1000 - 24000 - 333});
  CHECK(clip.sourceLength == Frames{30100});
  CHECK(clip.window == clip.extent());
  CHECK(clip.channels == std::vector<ChannelSource>{{0, 0}, {1, 0}, {1, 1}});
  CHECK((*recovery.session.pool)[0] == PoolFile{"audio/near.wav", 1, {30000}});
  CHECK((*recovery.session.pool)[1] == PoolFile{"audio/room.wav", 2, {30100}});
  // Once: what is in the pool came in before.
  const Recovery again = recoverRecording(made.disk(), notes.front(), recovery.session);
  CHECK_FALSE(again.changed);
  CHECK(again.session.tracks.front()->lanes.size() == 1);
}
