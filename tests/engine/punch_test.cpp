// SPDX-License-Identifier: GPL-3.0-or-later
//
// Every way to record, to the sample, through the simulated interface: punches by hand and by span, count-in,
// playing back between passes, into a chosen lane, what the player hears meanwhile.
#include "engine/engine_tests.h"

TEST_CASE("Punched by hand in and out many times in one roll, every window holds what was played there") {
  const Samples performance = noise(100000, 1);
  for (const int block : {64, 100, 441, 1024}) {
    for (const std::int64_t roundTrip : {0, 333, 5000}) {
      const TemporaryFolder temporary;
      SessionFolder folder = emptySession(temporary / "s");
      Rig rig(folder, block, playerOf(performance, 0, roundTrip));
      RollTimeline timeline;
      timeline.stopAt = Frames{90000};
      const RecordSetup setup = planStandby(timeline, folder.session(), {roundTrip});
      std::vector<std::int64_t> wanted{10000, 20000, 30000, 33000, 60000, 80000};
      std::size_t next = 0;
      const auto result = rig.roll(setup, {onlyTrack(folder)}, [&](EngineState state) {
        while (next < wanted.size() && state.rolling && state.position.count >= wanted[next]) {
          rig.engine.punch();
          ++next;
        }
      });
      INFO("block " << block << ", round trip " << roundTrip);
      REQUIRE(result.lanes.size() == 1);
      const auto& clips = folder.session().tracks.front()->lane({1})->clips;
      REQUIRE(clips.size() == 3);
      for (std::size_t i = 0; i < 3; ++i) {
        // A hand acts at the start of the next block.
        CHECK(clips[i].window.start.count - wanted[2 * i] >= 0);
        CHECK(clips[i].window.start.count - wanted[2 * i] < block);
        CHECK(clips[i].window.end.count - wanted[2 * i + 1] < block);
        CHECK(laneSamples(folder, 1, i) ==
              part(performance, clips[i].window.start.count, clips[i].window.end.count));
      }
      // The edges stay movable: what lay outside the punches was captured too.
      Session session = pullWindow(folder.session(), onlyTrack(folder), {1}, {{2000}, {25000}});
      folder.commit("Pull", session);
      CHECK(laneSamples(folder, 1, 0) == part(performance, 2000, 25000));
    }
  }
}

TEST_CASE("The count-in comes before the start, is captured, and leaves the take where it was played") {
  for (const std::int64_t start : {0, 48000}) {
    const TemporaryFolder temporary;
    SessionFolder folder = emptySession(temporary / "s");
    Session session = folder.session();
    session.tempo = TempoMap({{1, 240.0, {3, 4}}});  // a bar is 36000 frames
    session.recording.countInBars = 1;
    session.recording.preRoll = {};
    folder.commit("Set", session);
    const Samples performance = noise(30000, 7);
    Rig rig(folder, 128, playerOf(performance, start, 640));
    session.recording.loop = false;
    RecordSetup setup = planRecording(session, {{start}, {640}});
    REQUIRE(setup.timeline.countIn == Frames{36000});
    setup.timeline.stopAt = Frames{start + 30000};
    rig.roll(setup, {onlyTrack(folder)});
    const Clip& clip = folder.session().tracks.front()->lane({1})->clips.front();
    CHECK(clip.window == Span{{start}, {start + 30000}});
    CHECK(clip.extent().start <= Frames{start - 36000});  // a breath before the first note is in the handle
    CHECK(laneSamples(folder, 1) == performance);
    // Three beats of 12000 frames were heard, and nothing between their knocks.
    for (const std::int64_t beat : {0, 12000, 24000}) {
      float loudest = 0.0F;
      for (std::int64_t i = beat; i < beat + 1000; ++i)
        loudest = std::max(loudest, std::abs(rig.heard.left[static_cast<std::size_t>(i)]));
      CHECK(loudest > 0.05F);
      for (std::int64_t i = beat + 2000; i < beat + 12000; ++i)
        REQUIRE(rig.heard.left[static_cast<std::size_t>(i)] == 0.0F);
    }
  }
}
