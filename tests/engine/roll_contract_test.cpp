// SPDX-License-Identifier: GPL-3.0-or-later
//
// What a roll owns from its first frame on, whatever is done to the session meanwhile.
#include "engine/engine_tests.h"

#include "core/edit/edit_gather.h"

TEST_CASE("A short punch by hand in a later time round is no empty pass") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  Rig rig(folder, 64, playerOf(Samples(480000, 0.5F), 0, 100));
  RollTimeline timeline;
  timeline.loop = Span{{0}, {96000}};
  std::vector<std::int64_t> wanted{96000 + 48000, 96000 + 68000};
  std::size_t next = 0;
  const auto result =
      rig.roll(planStandby(timeline, folder.session(), {100}), {onlyTrack(folder)}, [&](EngineState state) {
        if (next < wanted.size() && state.rollFrame.count >= wanted[next]) {
          rig.engine.punch();
          ++next;
        }
        if (state.rollFrame.count >= 96000 + 90000) rig.engine.stop();
      });
  REQUIRE(result.lanes.size() == 1);
  CHECK(result.setAside == 0);
  CHECK_FALSE(folder.session().tracks.front()->lane({1})->setAside);
  CHECK(folder.session().tracks.front()->lane({1})->clips.front().window.start.count >= 48000);
}

TEST_CASE("A pass that is set aside replaces nothing and is not laid over anything") {
  for (const PassResult outcome : {PassResult::Replace, PassResult::Overdub}) {
    const TemporaryFolder temporary;
    SessionFolder folder = emptySession(temporary / "s");
    SimulatedInterface interface;
    interface.roundTrip = {100};
    interface.parts = {
        {0, {}, {played(noise(48000, 1)), played(noise(48000, 2)), played(Samples(1, 0.0F))}, false, {}}};
    Rig rig(folder, 64, interface);
    RecordSetup setup;
    setup.timeline = {{}, Span{{0}, {48000}}, 3, std::nullopt, {}};
    setup.roundTrip = {100};
    setup.result = outcome;
    // Stopped half way through the third time round, in which nothing was played.
    const auto result = rig.roll(setup, {onlyTrack(folder)}, [&](EngineState state) {
      if (state.rollFrame.count >= 96000 + 30000) rig.engine.stop();
    });
    REQUIRE(result.lanes.size() == 3);
    CHECK(result.setAside == 1);
    CHECK(result.lanes[2].setAside);
    const Track& track = *folder.session().tracks.front();
    CHECK(track.lane({3})->setAside);
    CHECK_FALSE(track.lane({2})->setAside);
    for (const Piece& piece : track.composite.picks) {
      CHECK(piece.lane != LaneNumber{3});
      CHECK(std::find(piece.overdubs.begin(), piece.overdubs.end(), LaneNumber{3}) == piece.overdubs.end());
    }
    if (outcome == PassResult::Replace)
      CHECK(renderTrack(folder, folder.session(), "Viola", Span{{1000}, {47000}}).front() ==
            part(noise(48000, 2), 1000, 47000));
  }
}

TEST_CASE("A roll hears its tracks as long as each has the inputs that it had") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  const TrackId id = onlyTrack(folder);
  std::vector<Microphone> pair(2, folder.session().tracks.front()->microphones.front());
  pair[0].input = 3;
  pair[1].input = 5;
  pair[1].channels = 2;
  Session session = addTrack(setMicrophones(folder.session(), id, pair), "Other", microphonesFor(1));
  folder.commit("Set", session);
  Recorder recorder(folder.disk(), session, RecordSetup{}, {id});
  const auto heard = [&](const std::function<void(std::vector<Microphone>&)>& change) {
    std::vector<Microphone> changed = pair;
    change(changed);
    return recorder.hears(setMicrophones(session, id, changed));
  };
  CHECK(recorder.hears(session));
  CHECK(heard([](auto& m) { m[0].pan = Pan{0.5}; }));
  CHECK_FALSE(heard([](auto& m) { m[0].channels = 2; }));
  CHECK_FALSE(heard([](auto& m) { m[0].input = 4; }));
  CHECK_FALSE(heard([](auto& m) { m[1].input = 6; }));
  CHECK_FALSE(heard([](auto& m) { std::swap(m[0].input, m[1].input); }));
  CHECK_FALSE(heard([](auto& m) { m[1].channels = 1; }));
  CHECK_FALSE(heard([](auto& m) { m.pop_back(); }));
  CHECK_FALSE(heard([](auto& m) { m.push_back(m.back()); }));
  CHECK_FALSE(recorder.hears(removeTrack(session, id)));
  // What is done to others is none of its business.
  CHECK(recorder.hears(removeTrack(session, session.tracks.back()->id)));
  recorder.stream()->markComplete();
  recorder.abandon();
}

TEST_CASE("A lane that is removed while passes go into it gives way to a lane of their own") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  const TrackId id = onlyTrack(folder);
  Session session = addLane(folder.session(), id, {});
  session = setRecordInto(session, id, LaneNumber{1});
  folder.commit("Prepare", session);
  const Samples performance = noise(20000, 1);
  Rig rig(folder, 64, playerOf(performance, 0, 100));
  RecordSetup setup;
  setup.timeline.stopAt = Frames{20000};
  setup.roundTrip = {100};
  rig.roll(setup, {id}, [&, removed = false](EngineState state) mutable {
    if (removed || state.rollFrame.count < 5000) return;
    removed = true;
    folder.commit("Remove", removeLane(folder.session(), id, {1}));
  });
  const Track& track = *folder.session().tracks.front();
  REQUIRE(track.lanes.size() == 1);
  CHECK(track.lanes.front()->number == LaneNumber{2});
  CHECK(laneSamples(folder, 2) == performance);
}
