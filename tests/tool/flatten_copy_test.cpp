// SPDX-License-Identifier: GPL-3.0-or-later
//
// Flattening copies where a take plays as it is: on disks that cannot copy among themselves, that are full,
// and that copy wrongly.
#include <catch2/catch.hpp>

#include "kill_rig.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

/// The session's files, and the samples of the flattened one.
struct Flattened {
  std::vector<std::string> files;
  std::vector<Samples> samples;
};

Flattened filesOf(const std::string& session) {
  Flattened found;
  for (const auto& each : fs::directory_iterator(fs::path(session) / "audio")) {
    found.files.push_back(each.path().filename().string());
    if (found.files.back().find("flattened") != std::string::npos) found.samples = readWave(each.path());
  }
  std::sort(found.files.begin(), found.files.end());
  return found;
}

}  // namespace

TEST_CASE("tool: what is flattened is the same to the bit, whether the file system copies or not") {
  const Sessions sessions;
  const std::string session = sessions.copied();
  const std::string live = heard(session, sessions.folder / "live.wav");
  const std::vector<Samples> expected = readWave(sessions.folder / "live.wav");
  for (const char* how : {"", "YEWDRIFT_NO_COPY=1"}) {
    const std::string again = sessions.copied();
    const fs::path log = sessions.folder / "log";
    fs::remove(log);
    const ToolResult result =
        shell(sessions.environment(std::string(how) + " YEWDRIFT_KILL_LOG=" + log.string()) + "flatten " +
              again + " --track Drum");
    INFO(how << result.err);
    REQUIRE(result.status == 0);
    CHECK_THAT(result.out, Catch::Contains("bit for bit") || Catch::Contains("rounding"));
    CHECK(filesOf(again).samples == expected);
    CHECK(heard(again, sessions.folder / "flat.wav").size() == live.size());
  }
}

TEST_CASE("tool: a copy that came out wrong is found on reading it back, and nothing of it stays") {
  const Sessions sessions;
  const std::string session = sessions.copied();
  const std::string before = shown(session);
  const auto files = filesOf(session).files;
  const ToolResult result =
      shell(sessions.environment("YEWDRIFT_WRONG_COPY=1") + "flatten " + session + " --track Drum");
  INFO(result.out);
  CHECK(result.status == 1);
  CHECK_THAT(result.err, Catch::Contains("is not what plays live; it was not taken"));
  CHECK(std::count(result.err.begin(), result.err.end(), '\n') == 1);
  CHECK(shown(session) == before);
  CHECK(filesOf(session).files == files);
}
