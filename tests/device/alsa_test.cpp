// SPDX-License-Identifier: GPL-3.0-or-later
//
// ALSA as far as a machine without cards goes: its null PCM, and what is said where there is no card.
#include "device/sound_server_rig.h"

using namespace yewdrift;
using namespace yewdrift::test;

TEST_CASE("Through a plug-in to a server, as with two cards, a whole stereo signal is recorded") {
  const TemporaryFolder temporary;
  std::ofstream(temporary / "asound.conf")
      << "pcm.speaker { type pulse\n device speakers }\npcm.mic { type pulse\n device microphone }\n";
  const std::string environment =
      "ALSA_CONFIG_PATH=/usr/share/alsa/alsa.conf:" + (temporary / "asound.conf").string() + " ";
  const std::vector<Samples> signal{noise(5 * 48000, 1, 0.4F), noise(5 * 48000, 2, 0.4F)};
  int attempt = 0;
  requireOnce([&] {
    const fs::path session = temporary / ("s" + std::to_string(++attempt));
    tool("new " + session.string() + " --format float");
    tool("track " + session.string() + " --track Voice --make --channels 2");
    {
      // Until both have been watched for a second nothing is recorded: the player waits for that.
      const Player player(temporary.path(), signal, 4.0);
      const ToolResult result =
          shell(environment + "%T record " + session.string() +
                " --track Voice --driver ALSA --in mic --out speaker --block 1024 --from 0s --to 12s");
      INFO(result.err);
      REQUIRE(result.status == 0);
    }
    const std::vector<Samples> lane = laneOf(session, "Voice", 0);
    REQUIRE(lane.size() == 2);
    REQUIRE(lane[0].size() == 12 * 48000);
    return differences(lane, signal);
  });
}

TEST_CASE("Held up for longer than its buffers, ALSA has lost something, and it is marked where") {
  const TemporaryFolder temporary;
  std::ofstream(temporary / "asound.conf")
      << "pcm.speaker { type pulse\n device speakers }\npcm.mic { type pulse\n device microphone }\n";
  int attempt = 0;
  requireOnce([&] {
    const fs::path folder = temporary / std::to_string(++attempt);
    fs::create_directory(folder);
    const auto command = [&](const fs::path& session) {
      return "ALSA_CONFIG_PATH=/usr/share/alsa/alsa.conf:" + (temporary / "asound.conf").string() +
             " %T record " + session.string() +
             " --track Voice --driver ALSA --in mic --out speaker --block 1024 --from 0s --to 10s";
    };
    return heldUp(folder, command, 4);
  });
}

TEST_CASE("ALSA's null PCM runs at the clock's pace, is silent, and is not offered as a card") {
  const TemporaryFolder temporary;
  const fs::path session = temporary / "s";
  tool("new " + session.string());
  CHECK_THAT(tool("devices"), !Catch::Contains("ALSA"));
  const auto began = std::chrono::steady_clock::now();
  tool("record " + session.string() + " --track Voice --driver ALSA --in null --out null --from 0s --to 3s");
  const std::chrono::duration<double> took = std::chrono::steady_clock::now() - began;
  // Three seconds and the four that are captured behind them, for the handle; then a second to begin and end.
  CHECK(took.count() > 6.5);
  CHECK(took.count() < 10.0);
  const Samples lane = laneOf(session, "Voice", 0).front();
  REQUIRE(lane.size() == 144000);
  CHECK(std::all_of(lane.begin(), lane.end(), [](float sample) { return sample == 0.0F; }));
  const ToolResult none =
      shell("%T record " + session.string() + " --track Voice --driver ALSA --from 0s --to 1s");
  CHECK(none.status == 1);
  CHECK_THAT(none.err, Catch::Contains("no sound card"));
}
