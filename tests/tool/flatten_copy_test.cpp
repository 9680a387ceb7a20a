// SPDX-License-Identifier: GPL-3.0-or-later
//
// Flattening copies where a take plays as it is: on disks that cannot copy among themselves, that are full,
// and that copy wrongly.
#include "tool/tool_tests.h"

#include "kill_rig.h"

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
  for (const char* how : {"", "YEWDRIFT_NO_COPY=1", "YEWDRIFT_SHORT_COPY=1"}) {
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

TEST_CASE(
    "tool: where the disk cannot rename without replacing, files are made all the same, and none is lost") {
  const Sessions sessions;
  const auto on = [&](const std::string& plain, const std::string& command) {
    return shell(sessions.environment("YEWDRIFT_PLAIN_RENAME=" + plain) + command);
  };
  const std::string session = sessions.copied();
  heard(session, sessions.folder / "live.wav");
  const std::vector<Samples> expected = readWave(sessions.folder / "live.wav");
  // By a second name: a new file of the session, and one outside it.
  REQUIRE(on("1", "flatten " + session + " --track Drum").status == 0);
  CHECK(filesOf(session).samples == expected);
  for (const std::string plain : {"1", "2"}) {
    const fs::path sheet = sessions.folder / ("sheet" + plain + ".html");
    ToolResult result = on(plain, "sheet " + session + " --out " + sheet.string());
    INFO(result.err);
    REQUIRE(result.status == 0);
    CHECK_THAT(content(sheet), Catch::Contains("</html>"));
    result = on(plain, "sheet " + session + " --out " + sheet.string());
    CHECK(result.status == 1);
    CHECK_THAT(result.err, Catch::Contains("is there already"));
  }
  // Where there are no second names either, the session says so, and is as it was.
  const std::string again = sessions.copied();
  const std::string before = shown(again);
  const auto files = filesOf(again).files;
  const ToolResult refused = on("2", "flatten " + again + " --track Drum");
  CHECK(refused.status == 1);
  CHECK_THAT(refused.err, Catch::Contains("cannot be made in the session's folder"));
  CHECK(shown(again) == before);
  CHECK(filesOf(again).files == files);
  for (const auto& each : fs::directory_iterator(sessions.folder.path()))
    CHECK(each.path().extension() != ".new");
}
