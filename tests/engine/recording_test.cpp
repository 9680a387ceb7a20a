// SPDX-License-Identifier: GPL-3.0-or-later
//
// What a player plays lies in the session where it was played, to the sample, whatever block and round trip.
#include "engine/engine_tests.h"

TEST_CASE("Loop passes equal the performances, sample for sample, for any block size and round trip") {
  constexpr std::size_t loop = 5003;  // prime: no block size divides it
  const std::vector<Samples> performances{noise(loop, 1), noise(loop, 2), noise(loop, 3)};
  for (const int block : {32, 33, 64, 100, 128, 441, 1024, 4096, 8192}) {
    for (const std::int64_t roundTrip : {0, 1, 31, 777, 4800, 20000}) {
      const TemporaryFolder temporary;
      SessionFolder folder = emptySession(temporary / "s");
      SimulatedInterface interface;
      interface.roundTrip = {roundTrip};
      interface.parts = {{0,
                          {1000},
                          {played(performances[0]), played(performances[1]), played(performances[2])},
                          false,
                          {}}};
      Rig rig(folder, block, interface);
      RecordSetup setup;
      setup.timeline = {{1000}, Span{{1000}, {1000 + loop}}, 3, std::nullopt, {}};
      setup.recordFrom = {1000};
      setup.roundTrip = {roundTrip};
      const Session session = rig.record(setup, {folder.session().tracks.front()->id});
      INFO("block " << block << ", round trip " << roundTrip);
      REQUIRE(session.tracks.front()->lanes.size() == 3);
      for (int lane = 1; lane <= 3; ++lane) {
        REQUIRE(session.tracks.front()->lane({lane})->clips.front().window == Span{{1000}, {1000 + loop}});
        REQUIRE(laneSamples(folder, lane) == performances[static_cast<std::size_t>(lane - 1)]);
      }
    }
  }
}

TEST_CASE("Blocks larger than the device announced are recorded and heard whole") {
  constexpr std::size_t loop = 5003;
  const std::vector<Samples> performances{noise(loop, 1), noise(loop, 2)};
  for (const int block : {65, 1000, 4096}) {
    const TemporaryFolder temporary;
    SessionFolder folder = emptySession(temporary / "s");
    SimulatedInterface interface;
    interface.roundTrip = {777};
    interface.parts = {{0, {}, {played(performances[0]), played(performances[1])}, false, {}}};
    Rig rig(folder, block, interface, 64);
    RecordSetup setup;
    setup.timeline = {{}, Span{{0}, {loop}}, 2, std::nullopt, {}};
    setup.roundTrip = {777};
    const Session session = rig.record(setup, {folder.session().tracks.front()->id});
    INFO("block " << block);
    REQUIRE(session.tracks.front()->lanes.size() == 2);
    CHECK(laneSamples(folder, 1) == performances[0]);
    CHECK(laneSamples(folder, 2) == performances[1]);
    rig.setPlan(session);
    rig.engine.play({{}, std::nullopt, 0, std::nullopt, {}});
    rig.engine.settle();
    const Samples heard = rig.play(loop);
    const Samples expected = renderTrack(folder, session, "Viola").front();
    for (std::size_t i = 0; i < loop; ++i)
      REQUIRE(heard[i] == Approx(expected[i] * std::sqrt(0.5F)).margin(1e-6));  // panned to the middle
  }
}

TEST_CASE("Stopped by hand, the last pass is kept as far as it was played") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  const Samples performance = noise(60000, 7);
  SimulatedInterface interface;
  interface.roundTrip = {2000};
  interface.parts = {{0, {}, {played(performance)}, false, {}}};
  Rig rig(folder, 256, interface);
  RecordSetup setup;
  setup.timeline = {{}, Span{{0}, {48000}}, 0, std::nullopt, {}};
  setup.roundTrip = {2000};
  Recorder recorder(folder.disk(), folder.session(), setup, {folder.session().tracks.front()->id});
  rig.engine.record(setup, recorder.stream());
  rig.engine.settle();
  rig.play(12800);
  rig.engine.stop();
  rig.play(4096);
  REQUIRE(recorder.stream()->bodyWritten());
  folder.commit("Record", recorder.finished(folder.session()).session);
  CHECK(folder.session().tracks.front()->lane({1})->clips.front().window == Span{{0}, {12800}});
  CHECK(laneSamples(folder, 1) == Samples(performance.begin(), performance.begin() + 12800));
}

TEST_CASE("What cannot be recorded is refused before anything is made") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  const TrackId id = folder.session().tracks.front()->id;
  auto refuses = [&](RecordSetup setup, const std::string& why) {
    CHECK_THROWS_WITH(Recorder(folder.disk(), folder.session(), setup, {id}), Catch::Contains(why));
  };
  RecordSetup setup;
  setup.timeline = {{}, Span{{0}, {10}}, 1, std::nullopt, {}};
  refuses(setup, "at least 64 frames");
  setup.timeline = {{9000}, Span{{0}, {5000}}, 1, std::nullopt, {}};
  setup.recordFrom = {9000};
  refuses(setup, "behind the loop's end");
  setup.timeline = {{}, Span{{0}, {5000}}, 1, std::nullopt, {}};
  setup.recordFrom = {};
  setup.punches = {{{7000}, {8000}}};
  refuses(setup, "outside the loop");
  setup.punches = {{{100}, {300}}, {{200}, {400}}};
  refuses(setup, "overlap");
  setup.punches = {{{300}, {100}}};
  refuses(setup, "punch-out");
  setup.punches = {};
  CHECK_THROWS_WITH(Recorder(folder.disk(), folder.session(), setup, {}),
                    Catch::Contains("No track is armed"));
  CHECK(fs::is_empty(folder.path() / "audio"));
}
