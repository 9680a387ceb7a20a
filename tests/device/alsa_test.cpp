// SPDX-License-Identifier: GPL-3.0-or-later
//
// ALSA as far as a machine without cards goes: its null and file PCMs, and a plug-in that leads to a server.
#include "device/sound_server_rig.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

/// ALSA's configuration with PCMs of our own besides the system's.
std::string withPcms(const fs::path& folder, const std::string& pcms) {
  std::ofstream(folder / "asound.conf") << pcms;
  return "ALSA_CONFIG_PATH=/usr/share/alsa/alsa.conf:" + (folder / "asound.conf").string() + " ";
}

}  // namespace

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

TEST_CASE("Through a plug-in to a server a whole signal is recorded, without gaps") {
  const TemporaryFolder temporary;
  const std::string environment =
      withPcms(temporary.path(),
               "pcm.speaker { type pulse\n device speakers }\npcm.mic { type pulse\n device microphone }\n");
  const fs::path session = temporary / "s";
  tool("new " + session.string() + " --format float");
  tool("track " + session.string() + " --track Voice --make --channels 2");
  const std::vector<Samples> signal{noise(5 * 48000, 1, 0.4F), noise(5 * 48000, 2, 0.4F)};
  {
    const Player player(temporary.path(), signal, 1.0);
    const ToolResult result =
        shell(environment + "%T record " + session.string() +
              " --track Voice --driver ALSA --in mic --out speaker --block 1024 --from 0s --to 8s");
    INFO(result.err);
    REQUIRE(result.status == 0);
  }
  CHECK(differences(laneOf(session, "Voice", 0), signal) == std::string());
}
