// SPDX-License-Identifier: GPL-3.0-or-later
//
// What every pass holds and where it goes: in loops, by hand, into chosen lanes, and how the roll leads
// there.
#include "engine/engine_tests.h"

TEST_CASE("Every pass has handles: what was played before the loop's start and behind its end") {
  constexpr std::int64_t loop = 12000;
  constexpr std::int64_t roundTrip = 345;
  constexpr std::int64_t preRoll = 3000;
  const std::vector<Samples> performances{noise(16000, 1, 0.3F), noise(16000, 2, 0.3F),
                                          noise(16000, 3, 0.3F)};
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  SimulatedInterface interface;
  interface.roundTrip = {roundTrip};
  interface.parts = {{0, {10000}, {}, false, {}}};
  for (const Samples& performance : performances)
    interface.parts.front().performances.push_back(played(performance));
  Rig rig(folder, 100, interface);
  RecordSetup setup;
  setup.timeline = {{10000 - preRoll}, Span{{10000}, {10000 + loop}}, 3, std::nullopt, {}};
  setup.recordFrom = {10000};
  setup.roundTrip = {roundTrip};
  Session session = rig.record(setup, {onlyTrack(folder)});
  // What was played at each frame of the roll: each performance rings on into the next.
  Samples whole(preRoll + 3 * loop + 4 * 48000, 0.0F);
  for (std::size_t pass = 0; pass < 3; ++pass)
    for (std::size_t i = 0; i < performances[pass].size(); ++i)
      whole[preRoll + pass * loop + i] += performances[pass][i];
  const Track& track = *session.tracks.front();
  REQUIRE(track.lanes.size() == 3);
  for (int lane = 1; lane <= 3; ++lane) {
    INFO("pass " << lane);
    const std::int64_t passStart = preRoll + (lane - 1) * loop;
    const Clip& clip = track.lane({lane})->clips.front();
    CHECK(clip.window == Span{{10000}, {10000 + loop}});
    CHECK(clip.origin == Frames{10000 - passStart - roundTrip});
    // Half a round: what lies beyond is another pass.
    CHECK(clip.extent().end == Frames{10000 + loop + loop / 2});
    session = pullWindow(session, track.id, {lane}, {{10000 - preRoll}, {10000 + loop + 4000}});
    REQUIRE(session.track(track.id)->lane({lane})->clips.front().window ==
            Span{{10000 - preRoll}, {10000 + loop + 4000}});
    folder.commit("Pull", session);
    const Samples heard = laneSamples(folder, lane);
    for (std::size_t i = 0; i < heard.size(); ++i)
      REQUIRE(heard[i] == Approx(whole[static_cast<std::size_t>(passStart - preRoll) + i]).margin(1e-6));
  }
}

TEST_CASE("Of several times round the last goes into the chosen lane, the others into lanes of their own") {
  const TemporaryFolder temporary;
  const Samples old = noise(30000, 1);
  SessionFolder folder = sessionWithLanes(temporary / "s", {noise(30000, 9), old});
  const TrackId id = onlyTrack(folder);
  folder.commit("Choose", setRecordInto(folder.session(), id, LaneNumber{2}));
  const std::vector<Samples> passes{noise(12000, 2), noise(12000, 3), noise(12000, 4)};
  SimulatedInterface interface;
  interface.roundTrip = {55};
  interface.parts = {{0, {8000}, {played(passes[0]), played(passes[1]), played(passes[2])}, false, {}}};
  Rig rig(folder, 128, interface);
  RecordSetup setup;
  setup.timeline = {{8000}, Span{{8000}, {20000}}, 0, std::nullopt, {}};
  setup.recordFrom = {8000};
  setup.roundTrip = {55};
  // Broken off in the third: what goes into a chosen lane is not judged.
  const auto result = rig.roll(setup, {id}, [&](EngineState state) {
    if (state.rollFrame.count >= 24000 + 1000) rig.engine.stop();
  });
  REQUIRE(result.lanes ==
          std::vector<RecordedLane>{{id, {3}, 1, false}, {id, {4}, 2, false}, {id, {2}, 3, false}});
  CHECK(result.setAside == 0);
  CHECK((laneSamples(folder, 3) == passes[0]));
  CHECK((laneSamples(folder, 4) == passes[1]));
  const auto& clips = folder.session().track(id)->lane({2})->clips;
  REQUIRE(clips.size() == 3);
  const std::int64_t out = clips[1].window.end.count;
  CHECK(clips[1].window.start == Frames{8000});
  CHECK(out >= 9000);
  CHECK(out < 9200);
  CHECK((laneSamples(folder, 2, 0) == part(old, 0, 8000)));
  CHECK((laneSamples(folder, 2, 1) == part(passes[2], 0, out - 8000)));
  CHECK((laneSamples(folder, 2, 2) == part(old, out, 30000)));
}

TEST_CASE("The microphones of a set whose files differ in length are one take, as long as the shortest") {
  Session session;
  session = addTrack(session, "Drum", microphonesFor(3));
  const TrackId id = session.tracks.front()->id;
  RecordSetup setup;
  setup.roundTrip = {100};
  const Capture capture{
      id, {{"audio/a.wav", 1, {5000}}, {"audio/b.wav", 1, {4321}}, {"audio/c.wav", 1, {9000}}}, std::nullopt};
  const Recorded recorded = addRecording(session, setup, {Capture{id, {}, std::nullopt}, capture});
  checkInvariants(recorded.session);
  CHECK(recorded.session.track(id)->lanes.size() == 1);  // a capture that has no file is no take
  const Clip& clip = recorded.session.track(id)->lane({1})->clips.front();
  CHECK(clip.sourceLength == Frames{4321});
  CHECK(clip.origin == Frames{-100});
  CHECK(clip.window == Span{{0}, {4221}});
  CHECK(clip.channels == std::vector<ChannelSource>{{0, 0}, {1, 0}, {2, 0}});
  CHECK(recorded.session.pool->at(2).length == Frames{9000});
}

TEST_CASE(
    "What a ruler shows beforehand is the first time round: what is played and what is recorded, and no "
    "more") {
  using Stretches = std::vector<PlannedStretch>;
  Session session = session240();
  session = setLoop(session, Span{bar(3), bar(7)});
  session.recording.preRoll = {};
  session.recording.passes = 2;
  CHECK(firstTimeRound(planRecording(session, {bar(3), {}})) == Stretches{{{bar(3), bar(7)}, true}});
  session.recording.preRoll = {1.0, LengthUnit::Bars};
  session.recording.postRoll = {2.0, LengthUnit::Bars};
  session.recording.countInBars = 1;
  CHECK(firstTimeRound(planRecording(session, {bar(5), {777}})) ==
        Stretches{{{bar(2), bar(3)}, false}, {{bar(3), bar(7)}, true}, {{bar(7), bar(9)}, false}});
  session.recording.passes = 0;  // round and round: nothing follows
  CHECK(firstTimeRound(planRecording(session, {bar(5), {777}})) ==
        Stretches{{{bar(2), bar(3)}, false}, {{bar(3), bar(7)}, true}});
  session = addPunch(addPunch(session, {bar(3), bar(4)}), {bar(5), bar(6)});
  session.recording.punch = true;
  CHECK(firstTimeRound(planRecording(session, {bar(5), {777}})) == Stretches{{{bar(2), bar(3)}, false},
                                                                             {{bar(3), bar(4)}, true},
                                                                             {{bar(4), bar(5)}, false},
                                                                             {{bar(5), bar(6)}, true},
                                                                             {{bar(6), bar(7)}, false}});
  session.recording.loop = false;
  CHECK(firstTimeRound(planRecording(session, {bar(1), {}})) == Stretches{{{bar(1), bar(3)}, false},
                                                                          {{bar(3), bar(4)}, true},
                                                                          {{bar(4), bar(5)}, false},
                                                                          {{bar(5), bar(6)}, true},
                                                                          {{bar(6), bar(8)}, false}});
  session.recording.punch = false;
  CHECK(firstTimeRound(planRecording(session, {bar(4), {}})) ==
        Stretches{{{bar(3), bar(4)}, false}, {{bar(4), maximumPosition}, true}});
}

TEST_CASE("One pass round the loop with a post-roll: what follows is played, captured and no pass") {
  const TemporaryFolder temporary;
  Session session = session240();
  session = setLoop(session, Span{bar(2), bar(3)});
  session.recording.passes = 1;
  session.recording.preRoll = {};
  session.recording.postRoll = {0.5, LengthUnit::Bars};
  SessionFolder folder = SessionFolder::create(temporary / "s", session);
  const Samples performance = noise(200000, 1);
  Rig rig(folder, 128, playerOf(performance, 48000, 64));
  const RecordSetup setup = planRecording(session, {bar(2), {64}});
  CHECK(setup.timeline.postRoll == Frames{24000});
  CHECK(setup.timeline.totalLength() == Frames{72000});
  Frames furthest;
  rig.roll(setup, {onlyTrack(folder)}, [&](EngineState state) {
    if (state.rolling) furthest = std::max(furthest, state.position);
  });
  // It goes on behind the loop's end, not back to its start.
  CHECK(furthest > bar(3) + Frames{23000});
  const Track& track = *folder.session().tracks.front();
  REQUIRE(track.lanes.size() == 1);
  CHECK(track.lane({1})->clips.front().window == Span{bar(2), bar(3)});
  CHECK((laneSamples(folder, 1) == part(performance, 0, 48000)));
  folder.commit("Pull", pullWindow(folder.session(), track.id, {1}, {bar(2), bar(4)}));
  CHECK((laneSamples(folder, 1) == part(performance, 0, 96000)));
}

TEST_CASE("The first input that nobody records from, beside stereo microphones and between tracks") {
  Session session;
  CHECK(firstFreeInput(session) == 0);
  session = addTrack(session, "Room", {{"Room", 0, 2, {}, {}}});
  CHECK(firstFreeInput(session) == 2);
  session = addTrack(session, "Voice", {{"Voice", 4, 1, {}, {}}});
  CHECK(firstFreeInput(session) == 2);
  session = addTrack(session, "Celesta", {{"Left", 2, 1, {}, {}}, {"Right", 3, 1, {}, {}}});
  CHECK(firstFreeInput(session) == 5);
  session = addTrack(session, "River", {{"River", 5, 2, {}, {}}}, true);
  CHECK(firstFreeInput(session) == 5);
}

TEST_CASE("A punch-in alone lasts until the next punch, a punch-out alone begins where the last one ended") {
  Session session = session240();
  session.recording.loop = false;
  session.recording.punch = true;
  session = addPunch(session, {bar(9), bar(10)});
  session = punchInAt(session, bar(5));
  CHECK(session.punches == std::vector<Punch>{{bar(5), bar(9)}, {bar(9), bar(10)}});
  const RecordSetup setup = planRecording(session, {bar(4), {}});
  CHECK(setup.recordFrom == bar(5));
  CHECK(setup.timeline.stopAt == bar(10));
  session = punchInAt(session, bar(12));  // nothing comes behind it
  CHECK(session.punches.back() == Punch{bar(12), std::nullopt});
  session = punchOutAt(session, bar(14));
  CHECK(session.punches.back() == Punch{bar(12), bar(14)});
  session = punchOutAt(session, bar(16));
  CHECK(session.punches.back() == Punch{bar(14), bar(16)});
  session = setPunches(session, {});
  session = punchOutAt(session, bar(3));
  CHECK(session.punches == std::vector<Punch>{{std::nullopt, bar(3)}});
}

TEST_CASE("Pan and gain stay within what a mixer has") {
  Session session = session240();
  const TrackId id = session.tracks.front()->id;
  session = setTrackMix(session, id, {99.0}, {3.0});
  CHECK(session.track(id)->gain == Decibels{24.0});
  CHECK(session.track(id)->pan == Pan{1.0});
  session = setTrackMix(session, id, {-500.0}, {-3.0});
  CHECK(session.track(id)->gain == Decibels{-120.0});
  CHECK(session.track(id)->pan == Pan{-1.0});
  session = setTrackMix(session, id, {-6.5}, {0.25});
  CHECK(session.track(id)->gain == Decibels{-6.5});
  CHECK(session.track(id)->pan == Pan{0.25});
  session = setMicrophones(session, id, {{"Close", 255, 1, {99.0}, {-3.0}}});
  CHECK(session.track(id)->microphones.front().gain == Decibels{24.0});
  CHECK(session.track(id)->microphones.front().pan == Pan{-1.0});
  session = setMicrophones(session, id, {{"Close", 0, 1, {-500.0}, {3.0}}});
  CHECK(session.track(id)->microphones.front().gain == Decibels{-120.0});
  CHECK(session.track(id)->microphones.front().pan == Pan{1.0});
  CHECK_THROWS_WITH(setMicrophones(session, id, {{"Close", 256, 1, {}, {}}}), Catch::Contains("1 to 256"));
  CHECK_THROWS_WITH(setMicrophones(session, id, {{"Close", -1, 1, {}, {}}}), Catch::Contains("1 to 256"));
  CHECK_THROWS_WITH(setMicrophones(session, id, {{"Close", 0, 3, {}, {}}}), Catch::Contains("one channel"));
  CHECK_THROWS_WITH(setMicrophones(session, id, {{"Close", 0, 0, {}, {}}}), Catch::Contains("one channel"));
  CHECK_THROWS_WITH(setMicrophones(session, id, {}), Catch::Contains("at least one"));
}
