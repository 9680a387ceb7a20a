// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the engine says of itself, and the mix while it listens for its own test signal.
#include "engine/engine_tests.h"

#include "core/engine/record_gate.h"

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
