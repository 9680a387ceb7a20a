// SPDX-License-Identifier: GPL-3.0-or-later
//
// The promises of the headless companion, through its command line.
#include <nlohmann/json.hpp>
#include "tool/tool_tests.h"

#include "core/store/session_folder.h"

using nlohmann::json;

namespace {

json trackOf(const fs::path& session, const std::string& name = "Viola") {
  const json shown = show(session);
  for (const json& track : shown["tracks"])
    if (track["name"] == name) return track;
  FAIL("no track " << name);
  return {};
}

struct Files {
  explicit Files(std::size_t frames = 96000)
      : performances{noise(frames, 1), noise(frames, 2), noise(frames, 3)} {
    for (std::size_t i = 0; i < performances.size(); ++i)
      writeWave(folder / ("p" + std::to_string(i + 1) + ".wav"), {performances[i]});
    s = folder / "session";
  }
  [[nodiscard]] std::string p(int n) const { return (folder / ("p" + std::to_string(n) + ".wav")).string(); }
  [[nodiscard]] std::string operator()(const std::string& command, const std::string& rest = {}) const {
    return command + " " + s.string() + " " + rest;
  }
  TemporaryFolder folder;
  std::vector<Samples> performances;
  fs::path s;
};

}  // namespace

TEST_CASE("tool: passes recorded in a loop become lanes that play what was played") {
  const Files f;
  tool(f("new", "--rate 48000 --tempo 120 --meter 4/4 --format pcm24"));
  tool(f("record", "--track Viola --performance " + f.p(1) + " " + f.p(2) + " " + f.p(3) +
                       " --from 0f --loop '1|1..2|1' --passes 3 --round-trip 1234 --block 100"));
  const json track = trackOf(f.s);
  REQUIRE(track["lanes"].size() == 3);
  CHECK(track["kind"] == "audio");
  for (const json& lane : track["lanes"]) {
    CHECK(lane["clips"][0]["windowStart"] == 0);
    CHECK(lane["clips"][0]["windowEnd"] == 96000);
    CHECK(lane["clips"][0]["start"].get<int>() <= 0);
  }
  CHECK(track["pieces"] == json::array({{{"start", 0},
                                         {"end", 96000},
                                         {"lane", 3},
                                         {"slip", 0},
                                         {"gain", 0.0},
                                         {"pitch", 0.0},
                                         {"picked", false},
                                         {"pickedParts", json::array()},
                                         {"rough", false},
                                         {"split", false},
                                         {"level", json::array()},
                                         {"overdubs", json::array()}}}));
  tool(f("render", "--track Viola --out " + (f.folder / "out.wav").string()));
  CHECK(readWave(f.folder / "out.wav").front() == f.performances[2]);
}

TEST_CASE("tool: check says that a session is whole, and what is missing where it is not") {
  const Files f;
  tool(f("new"));
  tool(f("add", "--track Viola " + f.p(1)));
  CHECK_THAT(tool(f("check")), Catch::Contains("whole"));
  // While another program has it open the end of a take may still be written: that is waited for.
  const std::string whole = content(f.s / "audio/p1-001.wav");
  const auto write = [&](const std::string& what) {
    std::ofstream(f.s / "audio/p1-001.wav", std::ios::binary) << what;
  };
  {
    const SessionFolder open = SessionFolder::open(f.s, SessionFolder::Access::WriteOrRead);
    REQUIRE(open.writable());
    write(whole.substr(0, whole.size() / 2));
    std::thread disk([&] {
      std::this_thread::sleep_for(std::chrono::milliseconds(700));
      write(whole);
    });
    CHECK_THAT(tool(f("check")), Catch::Contains("whole"));
    disk.join();
  }
  fs::remove(f.s / "audio/p1-001.wav");
  const auto result = shell("%T " + f("check"));
  CHECK(result.status == 1);
  CHECK_THAT(result.out, Catch::Contains("p1-001.wav"));
  CHECK(shell("%T " + f("show")).status == 0);
}
