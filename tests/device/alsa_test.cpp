// SPDX-License-Identifier: GPL-3.0-or-later
//
// ALSA as far as a machine without cards goes: its null PCM, and what is said where there is no card.
#include "device/sound_server_rig.h"

using namespace yewdrift;
using namespace yewdrift::test;

TEST_CASE("ALSA's null PCM runs at the clock's pace, is silent, and is not offered as a card") {
  const TemporaryFolder temporary;
  const fs::path session = temporary / "s";
  tool("new " + session.string());
  CHECK_THAT(tool("devices"), !Catch::Contains("ALSA"));
  const auto began = std::chrono::steady_clock::now();
  tool("record " + session.string() + " --track Voice --driver ALSA --in null --out null --from 0s --to 3s");
  const std::chrono::duration<double> took = std::chrono::steady_clock::now() - began;
  CHECK(took.count() > 2.5);
  CHECK(took.count() < 8.0);
  const Samples lane = laneOf(session, "Voice", 0).front();
  REQUIRE(lane.size() == 144000);
  CHECK(std::all_of(lane.begin(), lane.end(), [](float sample) { return sample == 0.0F; }));
  const ToolResult none =
      shell("%T record " + session.string() + " --track Voice --driver ALSA --from 0s --to 1s");
  CHECK(none.status == 1);
  CHECK_THAT(none.err, Catch::Contains("no sound card"));
}
