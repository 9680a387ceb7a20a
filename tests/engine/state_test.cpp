// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the engine says of itself, and the mix while it listens for its own test signal.
#include "engine/engine_tests.h"

#include "core/engine/record_gate.h"

namespace {

/// A constant on the left, panned hard, as long as anything here lasts.
SessionFolder steady(const fs::path& path, float level) {
  SessionFolder folder = sessionWithLanes(path, {Samples(480000, level)});
  folder.commit("Mix", setTrackMix(folder.session(), onlyTrack(folder), {}, {-1.0}));
  return folder;
}

void play(Rig& rig, std::int64_t from = 0) {
  rig.engine.play({{from}, std::nullopt, 0, std::nullopt, {}});
  rig.engine.settle();
}

}  // namespace

TEST_CASE("While it listens for the test signal the mix is silent; it goes and comes back without a click") {
  const TemporaryFolder temporary;
  SessionFolder folder = steady(temporary / "s", 0.5F);
  Rig rig(folder, 100);
  play(rig, 4800);
  rig.play(2000);
  const auto probe = std::make_shared<LoopBackProbe>();
  prepareProbe(*probe, 7, {48000});  // of an input that is not there
  std::fill(probe->signal.begin(), probe->signal.end(), 0.0F);
  rig.engine.startProbe(probe);
  constexpr float step = 0.5F / RecordGate::fadeFrames * 1.001F;
  Samples heard = rig.play(2000);
  for (std::size_t i = 1; i < heard.size(); ++i) {
    REQUIRE(heard[i] <= heard[i - 1]);
    REQUIRE(heard[i - 1] - heard[i] <= step);
  }
  CHECK(heard.front() == Approx(0.5F - 0.5F / RecordGate::fadeFrames));
  CHECK(heard[RecordGate::fadeFrames] == Approx(0.0F).margin(1e-5));
  CHECK(heard.back() == 0.0F);
  while (!probe->finished) CHECK(rig.play(100).back() == 0.0F);
  CHECK(std::all_of(probe->heard.begin(), probe->heard.end(), [](float s) { return s == 0.0F; }));
  heard = rig.play(2000);
  for (std::size_t i = 1; i < heard.size(); ++i) {
    REQUIRE(heard[i] >= heard[i - 1]);
    REQUIRE(heard[i] - heard[i - 1] <= step);
  }
  CHECK(heard[RecordGate::fadeFrames] == Approx(0.5F).margin(1e-4));
  CHECK(heard.back() == 0.5F);
  CHECK(rig.engine.state().rolling);
  // And a second one does the same.
  const auto again = std::make_shared<LoopBackProbe>();
  prepareProbe(*again, 0, {48000});
  std::fill(again->signal.begin(), again->signal.end(), 0.0F);
  rig.engine.startProbe(again);
  CHECK(rig.play(2000).back() == 0.0F);
}

TEST_CASE(
    "Going elsewhere: at once while it stands, from there on while it plays, not at all while it records") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  Rig rig(folder, 100);
  rig.engine.locate({12345});
  CHECK(rig.engine.state().position == Frames{12345});
  CHECK_FALSE(rig.engine.state().rolling);
  rig.play(1000);
  CHECK(rig.engine.state().position == Frames{12345});
  play(rig, 500);
  rig.play(1000);
  CHECK(rig.engine.state().position == Frames{1500});
  rig.engine.locate({90000});
  rig.engine.settle();
  rig.play(1000);
  CHECK(rig.engine.state().position == Frames{91000});
  rig.engine.stop();
  rig.play(100);
  CHECK(rig.engine.state().position == Frames{91000});
  RecordSetup setup;
  setup.timeline.start = {2000};
  setup.recordFrom = {2000};
  Recorder recorder(folder.disk(), folder.session(), setup, {onlyTrack(folder)});
  rig.engine.record(setup, recorder.stream());
  rig.engine.settle();
  rig.play(1000);
  rig.engine.locate({90000});
  rig.engine.settle();
  rig.play(1000);
  CHECK(rig.engine.state().position == Frames{4000});
  CHECK(rig.engine.state().rollFrame == Frames{2000});
  CHECK(rig.engine.state().capturing);
  CHECK_THROWS_WITH(rig.engine.record(setup, recorder.stream()), Catch::Contains("under way"));
  rig.engine.stop();
  rig.play(600);
}

TEST_CASE("Orders that nobody takes are refused with a sentence, before one is lost") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  Rig rig(folder, 100);
  std::size_t taken = 0;
  CHECK_THROWS_WITH(
      [&] {
        for (; taken < 1'000'000; ++taken) rig.engine.stop();
      }(),
      Catch::Contains("does not answer"));
  CHECK(taken >= 500);
  CHECK(taken < 100'000);
  rig.play(100);
  CHECK_NOTHROW(rig.engine.stop());
}
