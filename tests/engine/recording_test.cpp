// SPDX-License-Identifier: GPL-3.0-or-later
//
// What a player plays lies in the session where it was played, to the sample, whatever block and round trip.
#include <catch2/catch.hpp>

#include "bench_rig.h"
#include "core/error.h"
#include "recording_support.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

/// What passes over [0, loop) must hold when each performance rings on into the next time round.
Samples expectedPass(const std::vector<Samples>& performances, std::size_t pass, std::size_t loop) {
  Samples expected(loop, 0.0F);
  for (std::size_t k = 0; k <= pass; ++k) {
    const Samples& performance = performances[std::min(k, performances.size() - 1)];
    const std::size_t ago = (pass - k) * loop;
    for (std::size_t i = 0; i < loop && ago + i < performance.size(); ++i)
      expected[i] += performance[ago + i];
  }
  return expected;
}

}  // namespace

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

TEST_CASE("A loop shorter than a block, with performances longer than the loop") {
  constexpr std::size_t loop = 67;
  const std::vector<Samples> performances{noise(200, 1, 0.1F), noise(40, 2, 0.1F)};
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  SimulatedInterface interface;
  interface.roundTrip = {333};
  interface.parts = {{0, {}, {played(performances[0]), played(performances[1])}, false, {}}};
  Rig rig(folder, 512, interface);
  RecordSetup setup;
  setup.timeline = {{}, Span{{0}, {loop}}, 5, std::nullopt, {}};
  setup.roundTrip = {333};
  rig.record(setup, {folder.session().tracks.front()->id});
  for (int lane = 1; lane <= 5; ++lane) {
    const Samples expected = expectedPass(performances, static_cast<std::size_t>(lane - 1), loop);
    const Samples got = laneSamples(folder, lane);
    for (std::size_t i = 0; i < loop; ++i) REQUIRE(got[i] == Approx(expected[i]).margin(1e-6));
  }
}

TEST_CASE("Pre-roll, post-roll and ringing tails lie in the handles") {
  const Samples performance = noise(30000, 5);
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  SimulatedInterface interface;
  interface.roundTrip = {640};
  interface.parts = {{0, {4000}, {played(performance)}, false, {}}};
  Rig rig(folder, 256, interface);
  RecordSetup setup;
  setup.timeline = {{5000}, std::nullopt, 0, Frames{20000}, {3000}};
  setup.recordFrom = {10000};
  setup.roundTrip = {640};
  Session session = rig.record(setup, {folder.session().tracks.front()->id});
  const TrackId id = session.tracks.front()->id;
  REQUIRE(session.track(id)->lane({1})->clips.front().window == Span{{10000}, {20000}});
  CHECK(laneSamples(folder, 1) == Samples(performance.begin() + 6000, performance.begin() + 16000));
  // Both edges can be pulled out, and the material is there.
  session = pullWindow(session, id, {1}, {{5000}, {23000}});
  folder.commit("Pull", session);
  REQUIRE(session.track(id)->lane({1})->clips.front().window == Span{{5000}, {23000}});
  CHECK(laneSamples(folder, 1) == Samples(performance.begin() + 1000, performance.begin() + 19000));
}

TEST_CASE("Several punches in a loop give one clip a punch every time round") {
  constexpr std::size_t loop = 9600;
  const std::vector<Samples> performances{noise(loop, 1), noise(loop, 2)};
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  SimulatedInterface interface;
  interface.roundTrip = {100};
  interface.parts = {{0, {}, {played(performances[0]), played(performances[1])}, false, {}}};
  Rig rig(folder, 480, interface);
  RecordSetup setup;
  setup.timeline = {{}, Span{{0}, {loop}}, 2, std::nullopt, {}};
  setup.punches = {{{1001}, {2002}}, {{5000}, {9999}}};
  setup.roundTrip = {100};
  const Session session = rig.record(setup, {folder.session().tracks.front()->id});
  for (int lane = 1; lane <= 2; ++lane) {
    const auto& clips = session.tracks.front()->lane({lane})->clips;
    REQUIRE(clips.size() == 2);
    CHECK(clips[0].window == Span{{1001}, {2002}});
    CHECK(clips[1].window == Span{{5000}, {loop}});  // the loop's end comes first
    const Samples& performance = performances[static_cast<std::size_t>(lane - 1)];
    CHECK(laneSamples(folder, lane, 0) == Samples(performance.begin() + 1001, performance.begin() + 2002));
    CHECK(laneSamples(folder, lane, 1) == Samples(performance.begin() + 5000, performance.end()));
  }
}

TEST_CASE("Replace and overdub change the composite and no file") {
  for (const PassResult result : {PassResult::NewLane, PassResult::Replace, PassResult::Overdub}) {
    const TemporaryFolder temporary;
    const Samples old = noise(20000, 1, 0.2F);
    const Samples fresh = noise(5000, 2, 0.2F);
    SessionFolder folder = sessionWithLanes(temporary / "s", {old});
    const TrackId id = folder.session().tracks.front()->id;
    folder.commit("Pick", pick(folder.session(), id, {{0}, {20000}}, LaneNumber{1}));
    SimulatedInterface interface;
    interface.roundTrip = {10};
    interface.parts = {{0, {8000}, {played(fresh)}, false, {}}};
    Rig rig(folder, 128, interface);
    RecordSetup setup;
    setup.timeline = {{8000}, std::nullopt, 0, Frames{13000}, {}};
    setup.recordFrom = {8000};
    setup.roundTrip = {10};
    setup.result = result;
    const Session session = rig.record(setup, {id});
    const Samples out = renderTrack(folder, session, "Viola").front();
    const float middle = out[10000];
    if (result == PassResult::NewLane) CHECK(middle == old[10000]);
    if (result == PassResult::Replace) CHECK(middle == fresh[2000]);
    if (result == PassResult::Overdub) CHECK(middle == Approx(old[10000] + fresh[2000]).margin(1e-6));
    CHECK(readWave(audioPath(folder, session.pool->front())).front() == old);
  }
}

TEST_CASE("A mic set and a second track record on the same frame") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s", 3);
  folder.commit("Add", addTrack(folder.session(), "Voice", {{"Voice", 3, 1, {}, {}}}));
  SimulatedInterface interface;
  interface.settings.inputs = 4;
  interface.roundTrip = {512};
  const Performance drum{{noise(4000, 1), noise(4000, 2), noise(4000, 3)}};
  interface.parts = {{0, {}, {drum}, false, {}}, {3, {}, {played(noise(4000, 4))}, false, {}}};
  Rig rig(folder, 96, interface);
  RecordSetup setup;
  setup.timeline = {{}, std::nullopt, 0, Frames{4000}, {}};
  setup.roundTrip = {512};
  const Session session = rig.record(setup, {folder.session().tracks[0]->id, folder.session().tracks[1]->id});
  CHECK(session.pool->size() == 4);
  for (std::size_t channel = 0; channel < 3; ++channel)
    CHECK(laneSamples(folder, 1, 0, channel) == drum.channels[channel]);
  const Clip& voice = session.tracks[1]->lanes.front()->clips.front();
  CHECK(voice.origin == session.tracks[0]->lanes.front()->clips.front().origin);
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

TEST_CASE(
    "A block larger than announced, at a device of more outputs than are played to: the others are silent") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  Engine engine(folder.session().rate, 64, Engine::Service::ByHand);
  constexpr std::size_t outputs = 260;
  constexpr int frames = 300;
  std::vector<Samples> out(outputs, Samples(frames, 7.0F));
  std::vector<float*> places;
  for (Samples& each : out) places.push_back(each.data());
  AudioBlock block;
  block.outputs = places.data();
  block.outputCount = static_cast<int>(outputs);
  block.frames = frames;
  engine.process(block);
  CHECK(
      std::all_of(out.begin(), out.end(), [](const Samples& each) { return each == Samples(frames, 0.0F); }));
}

TEST_CASE("What is played back in the middle of a roll is as long as what was captured until then") {
  const TemporaryFolder temporary;
  const SessionFolder folder = SessionFolder::create(temporary / "s", session240());
  RecordSetup setup;
  setup.timeline.loop = Span{bar(1), bar(2)};
  setup.roundTrip = Frames{100};
  Recorder recorder(folder.disk(), folder.session(), setup, {onlyTrack(folder)});
  recorder.capturesFrom(Frames{1000});
  const Recorded until = recorder.until(folder.session(), Frames{96000});
  REQUIRE(until.lanes.size() == 2);
  CHECK(until.session.pool->back().length == Frames{96000 + 100 - 1000});
  CHECK_NOTHROW(checkInvariants(until.session));
}

TEST_CASE("What undo will name counts the times round, however often each is punched") {
  const TemporaryFolder temporary;
  const SessionFolder folder = SessionFolder::create(temporary / "s", session240());
  RecordSetup setup;
  setup.timeline.loop = Span{bar(1), bar(2)};
  setup.punches = {{{1000}, {9000}}, {{20000}, {29000}}};
  const Recorder recorder(folder.disk(), folder.session(), setup, {onlyTrack(folder)});
  const Samples second = noise(48000, 1);
  const std::array<const float*, 1> inputs{second.data()};
  for (const char* label : {"Record one pass", "Record 2 passes", "Record 3 passes"}) {
    recorder.stream()->push(inputs.data(), 1, 0, 48000);
    recorder.stream()->drain();
    CHECK(recorder.label().english() == label);
  }
}
