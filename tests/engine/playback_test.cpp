// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/engine_tests.h"

TEST_CASE("Dropouts are counted and meters show the loudest sample") {
  const TemporaryFolder temporary;
  SessionFolder folder = sessionWithLanes(temporary / "s", {Samples(100000, 0.5F)});
  SimulatedInterface interface;
  interface.dropoutEveryBlocks = 4;
  interface.parts = {{0, {}, {{{Samples(50000, 0.25F)}}}, false, {}}};
  Rig rig(folder, 128, interface);
  rig.engine.play({{}, std::nullopt, 0, std::nullopt, {}});
  rig.engine.settle();
  rig.play(128 * 16);
  CHECK(rig.engine.state().dropouts == 4);
  CHECK(rig.engine.takeOutputPeak(0) == Approx(0.5 * std::sqrt(0.5)));
  CHECK(rig.engine.takeOutputPeak(0) == 0.0F);
  CHECK(rig.engine.takeInputPeak(0) == Approx(0.25));
}
