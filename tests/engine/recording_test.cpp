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
