// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the player hears while recording: their input, the earlier takes, and when.
#include <catch2/catch.hpp>
#include <cmath>
#include <set>

#include "core/edit/plan_recording.h"
#include "recording_support.h"

using namespace yewdrift;
using namespace yewdrift::test;

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

TEST_CASE("Earlier takes are hushed where it is recorded, or heard") {
  const Hearing hushed(Monitoring::Off, true, 256);
  CHECK(hushed.at(in - 1) == Approx(0.25F));
  CHECK(hushed.at(in + gateFade) == Approx(0.0F).margin(1e-6));
  CHECK(hushed.at(out + gateFade) == Approx(0.25F));
  const Hearing heard(Monitoring::Off, false, 256);
  CHECK(heard.at(in + gateFade) == Approx(0.25F));
  const Hearing both(Monitoring::Automatic, false, 256);
  CHECK(both.at(in + gateFade) == Approx(0.75F));
}

TEST_CASE("Mute and solo reach what is monitored, without a click") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  Session session = addTrack(folder.session(), "Other", microphonesFor(1));
  const TrackId id = session.tracks.front()->id;
  const TrackId other = session.tracks.back()->id;
  session = setTrackMix(setTrackSwitch(session, id, TrackSwitch::Arm, true), id, {}, {-1.0});
  session = setMonitoring(session, id, Monitoring::Always);
  Rig rig(folder, 256);
  const Samples input(256, 0.5F);
  Samples left(256);
  Samples right(256);
  float last = 0.0F;
  float step = 0.0F;
  const auto heard = [&](const Session& now) {
    rig.setPlan(now);
    const std::array<const float*, 2> inputs{input.data(), input.data()};
    const std::array<float*, 2> outputs{left.data(), right.data()};
    for (int i = 0; i < 20; ++i) {
      rig.engine.process({inputs.data(), 2, outputs.data(), 2, 256, false});
      for (const float sample : left) {
        step = std::max(step, std::abs(sample - last));
        last = sample;
      }
    }
    return left[255];
  };
  CHECK(heard(session) == Approx(0.5F));
  CHECK(heard(setTrackSwitch(session, id, TrackSwitch::Mute, true)) == 0.0F);
  CHECK(heard(session) == Approx(0.5F));
  CHECK(heard(setTrackSwitch(session, other, TrackSwitch::Solo, true)) == 0.0F);
  CHECK(heard(setTrackSwitch(session, id, TrackSwitch::Solo, true)) == Approx(0.5F));
  CHECK(right[255] == Approx(0.0F).margin(1e-6));
  CHECK(step <= 0.5F / gateFade + 1e-6F);
  // The input goes away and monitoring is switched off meanwhile: when it is back it is silent.
  const std::array<float*, 2> outputs{left.data(), right.data()};
  rig.setPlan(setMonitoring(session, id, Monitoring::Off));
  for (int i = 0; i < 20; ++i) rig.engine.process({nullptr, 0, outputs.data(), 2, 256, false});
  const std::array<const float*, 2> inputs{input.data(), input.data()};
  rig.engine.process({inputs.data(), 2, outputs.data(), 2, 256, false});
  CHECK(std::all_of(left.begin(), left.end(), [](float sample) { return sample == 0.0F; }));
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

TEST_CASE("Edits in a count-in do not keep later ones from being heard") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  const TrackId id = folder.session().tracks.front()->id;
  Session session = setTrackMix(folder.session(), id, {}, {-1.0});
  session = setTrackSwitch(session, id, TrackSwitch::Arm, true);
  Rig rig(folder, 256);
  rig.setPlan(session);
  RecordSetup setup;
  setup.timeline.countIn = {48000};
  setup.timeline.stopAt = Frames{96000};
  Recorder recorder(folder.disk(), folder.session(), setup, {id});
  rig.engine.record(setup, recorder.stream());
  rig.engine.settle();
  rig.play(256 * 10);
  REQUIRE(rig.engine.state().countIn.count > 0);
  for (int edit = 0; edit < 3; ++edit) {
    rig.setPlan(setTrackMix(session, id, {-1.0 * edit}, {-1.0}));
    rig.play(256 * 10);
  }
  rig.engine.stop();
  rig.play(256 * 10);
  REQUIRE_FALSE(rig.engine.state().rolling);
  rig.setPlan(setMonitoring(session, id, Monitoring::Always));
  const Samples input(256, 0.5F);
  Samples left(256);
  Samples right(256);
  const std::array<const float*, 2> inputs{input.data(), input.data()};
  const std::array<float*, 2> outputs{left.data(), right.data()};
  for (int i = 0; i < 20; ++i) rig.engine.process({inputs.data(), 2, outputs.data(), 2, 256, false});
  CHECK(left[255] == Approx(0.5F));
}
