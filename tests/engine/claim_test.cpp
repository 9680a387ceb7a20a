// SPDX-License-Identifier: GPL-3.0-or-later
//
// Claiming what was played, and what a crash leaves of a roll punched by hand.
#include "engine/engine_tests.h"

TEST_CASE("After a crash a roll punched by hand comes back with its punches, the last one open") {
  const TemporaryFolder temporary;
  const Samples performance = noise(60000, 3);
  {
    SessionFolder folder = emptySession(temporary / "s");
    SimulatedInterface interface;
    interface.roundTrip = {100};
    interface.parts = {{0, {}, {played(performance)}, false, {}}};
    Rig rig(folder, 480, interface);
    const RecordSetup setup = planStandby({}, folder.session(), {100});
    Recorder recorder(folder.disk(), folder.session(), setup, {folder.session().tracks.front()->id});
    CHECK_FALSE(fs::exists(folder.path() / "recording-001.json"));  // nothing of it counts yet
    rig.engine.record(setup, recorder.stream());
    rig.engine.settle();
    for (const int frames : {9600, 4800, 4800}) {
      rig.play(static_cast<std::size_t>(frames));
      rig.engine.punch();
      rig.play(480);
      for (const EngineEvent& event : rig.engine.takeEvents())
        recorder.punched(event.rollFrame, event.kind == EngineEvent::Kind::PunchIn);
    }
    rig.play(24000);
    // And here the power goes: nobody finishes anything.
  }
  const SessionFolder folder = SessionFolder::open(temporary / "s", SessionFolder::Access::Write);
  REQUIRE(folder.session().tracks.front()->lanes.size() == 1);
  const auto& clips = folder.session().tracks.front()->lane({1})->clips;
  REQUIRE(clips.size() == 2);
  CHECK(clips[0].window == Span{{9600}, {14880}});
  CHECK(clips[1].window.start == Frames{20160});
  CHECK(clips[1].window.end > Frames{20160 + 14000});
  for (std::size_t i = 0; i < 2; ++i)
    CHECK(laneSamples(folder, 1, i) ==
          part(performance, clips[i].window.start.count, clips[i].window.end.count));
  CHECK_FALSE(fs::exists(folder.path() / "recording-001.json"));
}

TEST_CASE("The gate opens and closes on the frame, whatever the blocks, and by hand ahead of the plan") {
  RecordSetup setup;
  setup.timeline.stopAt = Frames{5000};
  setup.punches = {{{1000}, {2001}}};
  Samples whole;
  for (const int block : {5000, 64, 7}) {
    RecordGate gate;
    gate.begin(setup);
    Samples gains(5000);
    for (Frames at{}; at < Frames{5000};) {
      const RollTimeline::Run run = setup.timeline.runAt(at);
      const int n = static_cast<int>(std::min<std::int64_t>({block, run.length.count, 5000 - at.count}));
      gate.follow(run, at, n, &gains[static_cast<std::size_t>(at.count)]);
      at += Frames{n};
    }
    if (whole.empty()) whole = gains;
    CHECK(gains == whole);
    CHECK(gate.opened());
    CHECK_FALSE(gate.open());
  }
  CHECK(whole[999] == 0.0F);
  CHECK(whole[1000] > 0.0F);
  CHECK(whole[1000 + RecordGate::fadeFrames] == 1.0F);
  CHECK(whole[2000] == 1.0F);
  CHECK(whole[2001] < 1.0F);
  CHECK(whole[2001 + RecordGate::fadeFrames] == 0.0F);

  RecordSetup hand;
  hand.byHand = true;
  hand.handPunches = {{{3000}, maximumPosition}};
  RecordGate gate;
  gate.begin(hand);
  Samples gains(6000);
  gate.follow(hand.timeline.runAt({}), {}, 1000, gains.data());
  CHECK(gate.toggle({1000}));  // in, before the plan would
  gate.follow(hand.timeline.runAt({1000}), {1000}, 1000, &gains[1000]);
  CHECK(gate.open());
  CHECK_FALSE(gate.toggle({2000}));
  gate.follow(hand.timeline.runAt({2000}), {2000}, 4000, &gains[2000]);
  CHECK_FALSE(gate.open());  // the planned in is off: the hand was first
  // Nobody's hand: it opens on the planned frame, within whatever block that is.
  gate.begin(hand);
  gate.follow(hand.timeline.runAt({}), {}, 2900, gains.data());
  gate.follow(hand.timeline.runAt({2900}), {2900}, 1000, &gains[2900]);
  for (std::size_t i = 0; i < 3900; ++i)
    REQUIRE(gains[i] ==
            Approx(i < 3000 ? 0.0F : std::min(1.0F, static_cast<float>(i - 2999) / RecordGate::fadeFrames)));
  CHECK_FALSE(gate.toggle({3900}));  // and it is in: the next punch is out
  // At rest it closes from where it is, frame by frame.
  gate.toggle({6000});
  gate.follow(hand.timeline.runAt({6000}), {6000}, 1000, gains.data());
  CHECK(gains[999] == 1.0F);
  gate.end();
  gains.assign(6000, 9.0F);
  gate.rest(1000, gains.data());
  for (std::size_t i = 0; i < 1000; ++i)
    REQUIRE(gains[i] == Approx(std::max(0.0F, 1.0F - static_cast<float>(i + 1) / RecordGate::fadeFrames)));
  gate.rest(0, nullptr);
  CHECK(gate.level() == 0.0F);
}
