// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the player hears while recording: their input, the earlier takes, and when.
#include "engine/engine_tests.h"

namespace {

constexpr std::int64_t in = 5003;
constexpr std::int64_t out = 9001;
constexpr int gateFade = RecordGate::fadeFrames;

/// One track with an earlier take of constant 0.25, an input of constant 0.5; recorded in [in, out).
struct Hearing {
  explicit Hearing(Monitoring monitoring, bool hush, int block) : folder(make(monitoring)) {
    SimulatedInterface interface;
    interface.roundTrip = {0};
    interface.parts = {{0, {}, {played(Samples(20000, 0.5F))}, false, {}}};
    Rig rig(folder, block, interface);
    const TrackId id = folder.session().tracks.front()->id;
    rig.setPlan(folder.session(), {{}, hush ? std::vector{id} : std::vector<TrackId>{}});
    RecordSetup setup;
    setup.timeline = {{}, std::nullopt, 0, Frames{15000}, {}};
    setup.punches = {{{in}, {out}}};
    setup.timeline.stopAt = Frames{15000};
    rig.roll(setup, {id});
    heard = rig.heard.left;
  }

  SessionFolder make(Monitoring monitoring) {
    SessionFolder made = sessionWithLanes(temporary / "s", {Samples(20000, 0.25F)});
    Session session = made.session();
    session.recording.click.recording = false;
    const TrackId id = session.tracks.front()->id;
    session = setTrackMix(session, id, {}, {-1.0});  // unity on the left
    session = setTrackSwitch(session, id, TrackSwitch::Arm, true);
    made.commit("Set", setMonitoring(session, id, monitoring));
    return made;
  }

  [[nodiscard]] float at(std::int64_t frame) const { return heard[static_cast<std::size_t>(frame)]; }
  [[nodiscard]] float greatestStep() const {
    float greatest = 0.0F;
    for (std::size_t i = 2; i < 14000; ++i) greatest = std::max(greatest, std::abs(heard[i] - heard[i - 1]));
    return greatest;
  }

  TemporaryFolder temporary;
  SessionFolder folder;
  Samples heard;
};

}  // namespace

TEST_CASE("Automatic monitoring follows the punch to the frame, with a short fade in place of a click") {
  for (const int block : {32, 100, 4096}) {
    INFO("block " << block);
    const Hearing hearing(Monitoring::Automatic, true, block);
    CHECK(hearing.at(in - 1) == Approx(0.25F));                 // the track
    CHECK(hearing.at(in) == Approx(0.25F + 0.25F / gateFade));  // the first step of the fade
    CHECK(hearing.at(in + gateFade) == Approx(0.5F));           // the input
    CHECK(hearing.at(out - 1) == Approx(0.5F));
    CHECK(hearing.at(out) == Approx(0.5F - 0.25F / gateFade));
    CHECK(hearing.at(out + gateFade) == Approx(0.25F));
    CHECK(hearing.greatestStep() < 0.01F);
  }
}

TEST_CASE(
    "While the round trip is measured nothing but the test signal sounds, also where an input is monitored") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  const TrackId id = folder.session().tracks.front()->id;
  Session session = setTrackSwitch(folder.session(), id, TrackSwitch::Arm, true);
  session = setMonitoring(session, id, Monitoring::Always);
  Rig rig(folder, 256);
  rig.setPlan(session);
  const Samples input(256, 0.5F);
  Samples left(256);
  Samples right(256);
  const std::array<const float*, 2> inputs{input.data(), input.data()};
  const std::array<float*, 2> outputs{left.data(), right.data()};
  const auto block = [&] {
    rig.engine.service();
    rig.engine.process({inputs.data(), 2, outputs.data(), 2, 256, false});
  };
  for (int i = 0; i < 20; ++i) block();
  REQUIRE(left[255] > 0.3F);
  const auto probe = std::make_shared<LoopBackProbe>();
  probe->signal = Samples(256 * 40, 0.125F);
  probe->heard.resize(probe->signal.size());
  rig.engine.startProbe(probe);
  for (int i = 0; i < 40; ++i) {
    block();
    if (i < 2) continue;
    CHECK(std::all_of(left.begin(), left.end(), [](float sample) { return sample == 0.125F; }));
    CHECK(std::all_of(right.begin(), right.end(), [](float sample) { return sample == 0.125F; }));
  }
  CHECK(probe->finished);
  CHECK(probe->heard == Samples(256 * 40, 0.5F));
  for (int i = 0; i < 4; ++i) block();
  CHECK(left[255] > 0.3F);  // and then it is heard again
  // When the device was closed, and is back, it comes up without a click.
  rig.engine.deviceClosed();
  float before = 0.0F;
  for (int i = 0; i < 4; ++i) {
    block();
    for (const float sample : left) {
      REQUIRE(std::abs(sample - before) <= 0.5F / RecordGate::fadeFrames * 1.001F);
      before = sample;
    }
  }
  CHECK(before > 0.3F);
}
