// SPDX-License-Identifier: GPL-3.0-or-later
//
// What counts as broken off and as nothing played, at its limits: a take is never judged away.
#include "engine/engine_tests.h"

namespace {

constexpr SampleRate rate{48000};

RecordSetup looped(Frames from, Frames to) {
  RecordSetup setup;
  setup.timeline = {from, Span{from, to}, 0, std::nullopt, {}};
  setup.recordFrom = from;
  return setup;
}

bool brokenOff(const RecordSetup& setup, std::int64_t rolled) {
  const auto windows = passWindows(setup, {rolled});
  return isFalseStart(setup, windows, windows.empty() ? 0 : windows.back().round, rate);
}

bool cutShort(const RecordSetup& setup, std::int64_t rolled) {
  const auto windows = passWindows(setup, {rolled});
  return isCutShort(setup, windows, windows.empty() ? 0 : windows.back().round);
}

/// Records two microphones round a loop of a second until `frames` frames have rolled; the first time round
/// both play, in the second only what is given.
struct Judged {
  Judged(const Samples& close, const Samples& room, std::int64_t frames)
      : folder(emptySession(temporary / "s", 2)) {
    SimulatedInterface interface;
    interface.settings.inputs = 2;
    interface.roundTrip = {0};
    interface.parts = {{0, {}, {played(noise(48000, 1)), played(close)}, false, Frames{0}},
                       {1, {}, {played(noise(48000, 2)), played(room)}, false, Frames{0}}};
    Rig rig(folder, 100, interface);
    result = rig.roll(looped({0}, {48000}), {onlyTrack(folder)}, [&](EngineState state) {
      if (state.rollFrame.count >= frames) rig.engine.stop();
    });
  }
  [[nodiscard]] bool lastSetAside() const { return folder.session().tracks.front()->lanes.back()->setAside; }
  TemporaryFolder temporary;
  SessionFolder folder;
  Recorder::Result result;
};

}  // namespace

TEST_CASE("Broken off is within a quarter of the loop, of the last time round only") {
  const RecordSetup setup = looped({4800}, {4800 + 48000});
  CHECK(brokenOff(setup, 11999));
  CHECK_FALSE(brokenOff(setup, 12000));
  CHECK(brokenOff(setup, 48000 + 11999));
  CHECK_FALSE(brokenOff(setup, 48000 + 12000));
  CHECK_FALSE(brokenOff(setup, 48000));  // the last one is whole
  const auto windows = passWindows(setup, {48000 + 100});
  CHECK_FALSE(isFalseStart(setup, windows, 1, rate));
  CHECK(isFalseStart(setup, windows, 2, rate));
}

TEST_CASE("Without a loop broken off is within two seconds, unless it went to the end that was set") {
  RecordSetup open;
  CHECK(brokenOff(open, 95999));
  CHECK_FALSE(brokenOff(open, 96000));
  RecordSetup ends;
  ends.timeline.stopAt = Frames{50000};
  CHECK(brokenOff(ends, 49999));
  CHECK_FALSE(brokenOff(ends, 50000));
  CHECK_FALSE(cutShort(ends, 50000));
  CHECK(cutShort(ends, 49999));
  CHECK_FALSE(cutShort(open, 100));  // no end was set
}

TEST_CASE("A stop behind the last punch breaks nothing off; before its end it does cut it short") {
  RecordSetup setup = looped({0}, {96000});
  setup.punches = {{{10000}, {20000}}, {{30000}, {40000}}};
  CHECK_FALSE(brokenOff(setup, 40000));
  CHECK_FALSE(brokenOff(setup, 35000));
  CHECK_FALSE(cutShort(setup, 40000));
  CHECK(cutShort(setup, 39999));
  CHECK_FALSE(cutShort(setup, 90000));
}

TEST_CASE("What was punched by hand is never broken off; recording from standstill is no punch by hand") {
  RecordSetup setup;
  setup.byHand = true;
  setup.handPunches = {{{1000}, {2000}}};
  CHECK_FALSE(brokenOff(setup, 3000));
  setup.handPunches = {{{1000}, {2000}}, {{2500}, maximumPosition}};
  CHECK_FALSE(brokenOff(setup, 3000));
  setup.handPunches = {{{0}, maximumPosition}};
  CHECK(brokenOff(setup, 3000));
}

TEST_CASE(
    "Nothing played is quieter than -50 dB at every microphone, and then only a pass that was cut short") {
  const Samples nothing;
  const Samples below(48000, 0.0031F);
  const Samples above(48000, 0.0032F);  // -50 dB is 0.00316
  constexpr std::int64_t stopped = 48000 + 30000;
  CHECK(Judged(nothing, nothing, stopped).lastSetAside());
  CHECK(Judged(below, below, stopped).lastSetAside());
  CHECK_FALSE(Judged(above, nothing, stopped).lastSetAside());
  CHECK_FALSE(Judged(nothing, above, stopped).lastSetAside());
  // Heard in the last of it only, and the other way round for what is a whole pass.
  Samples late(48000, 0.0F);
  late[29000] = -0.5F;
  CHECK_FALSE(Judged(nothing, late, stopped).lastSetAside());
  CHECK_FALSE(Judged(nothing, nothing, 2 * 48000).lastSetAside());
}

TEST_CASE("Only the last time round is judged, and no lane that was there before") {
  const Judged judged(Samples{}, Samples{}, 48000 + 30000);
  const auto& lanes = judged.folder.session().tracks.front()->lanes;
  REQUIRE(lanes.size() == 2);
  CHECK_FALSE(lanes[0]->setAside);
  CHECK(lanes[1]->setAside);
  CHECK(judged.result.setAside == 1);
  CHECK(judged.result.lanes[0].setAside == false);
  CHECK(judged.result.lanes[1].setAside);
}
