// SPDX-License-Identifier: GPL-3.0-or-later
//
// Killed at a random moment while recording, a session loses at most half a second.
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>
#include <nlohmann/json.hpp>

#include <catch2/catch.hpp>
#include <chrono>
#include <csignal>
#include <random>
#include <thread>

#include "support.h"

using namespace yewdrift;
using namespace yewdrift::test;

TEST_CASE("A recording that is killed is there on the next start, but for half a second at most") {
  std::mt19937 random(std::random_device{}());
  const TemporaryFolder folder;
  const Samples performance = noise(48000 * 8, 1);
  writeWave(folder / "p.wav", {performance});
  for (int trial = 0; trial < 24; ++trial) {
    const std::string s = (folder / ("s" + std::to_string(trial))).string();
    const std::string file = (folder / "p.wav").string();
    tool("new " + s);
    const int milliseconds = std::uniform_int_distribution(100, 1900)(random);
    const char* arguments[] = {YEWDRIFT_TOOL, "record",     s.c_str(), "--track", "Viola", "--performance",
                               file.c_str(),  "--from",     "0f",      "--to",    "8s",    "--round-trip",
                               "100",         "--realtime", nullptr};
    pid_t process = 0;
    REQUIRE(posix_spawn(&process, YEWDRIFT_TOOL, nullptr, nullptr, const_cast<char**>(arguments), environ) ==
            0);
    // The clock runs from the moment the recording's note is on disk.
    while (!fs::exists(fs::path(s) / "recording.json"))
      std::this_thread::sleep_for(std::chrono::milliseconds(1));
    std::this_thread::sleep_for(std::chrono::milliseconds(milliseconds));
    kill(process, SIGKILL);
    waitpid(process, nullptr, 0);

    const std::string report = tool("check " + s);
    INFO("killed after " << milliseconds << " ms\n" << report);
    if (show(s)["tracks"].empty()) {
      // The track was new as well: it comes back with its recording.
      FAIL("the recording's track is gone");
    }
    tool("render " + s + " --track Viola --out " + (folder / "out.wav").string());
    const Samples kept = readWave(folder / "out.wav").front();
    CHECK(static_cast<double>(kept.size()) / 48000.0 >= milliseconds / 1000.0 - 0.5);
    CHECK(std::equal(kept.begin(), kept.end(), performance.begin()));
    CHECK_FALSE(fs::exists(fs::path(s) / "recording.json"));
  }
}
