// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the engine says of itself, and the mix while it listens for its own test signal.
#include "engine/engine_tests.h"

#include "core/engine/record_gate.h"

namespace {

void play(Rig& rig, std::int64_t from = 0) {
  rig.engine.play({{from}, std::nullopt, 0, std::nullopt, {}});
  rig.engine.settle();
}

}  // namespace

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
