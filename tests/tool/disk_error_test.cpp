// SPDX-License-Identifier: GPL-3.0-or-later
//
// Whatever call the disk refuses, once or from there on, a command that says it could not has changed
// nothing, and one that says it could is saved.
#include <cerrno>
#include "tool/tool_tests.h"

#include "kill_rig.h"

namespace {

std::string refusedAt(const Sessions& sessions, int call, int error, bool fromThereOn) {
  return sessions.environment("YEWDRIFT_FAIL_AT=" + std::to_string(call) + " YEWDRIFT_FAIL_WITH=" +
                              std::to_string(error) + (fromThereOn ? " YEWDRIFT_FAIL_ON=1" : ""));
}

}  // namespace

TEST_CASE("Refused any call, a command fails with a sentence and changes nothing, or does what it says") {
  const Sessions sessions;
  for (const bool fromThereOn : {false, true})
    for (const std::string& command : sessions.commands()) {
      const Change change(sessions, command);
      const std::string s = sessions.work.string();
      int refused = 0;
      for (int at = 1; at <= change.calls; at += stride) {
        (void)sessions.copied();
        const int error = at % 2 == 0 ? EIO : ENOSPC;
        const ToolResult result = shell(refusedAt(sessions, at, error, fromThereOn) + change.arguments);
        INFO(command << ", refused " << (fromThereOn ? "from call " : "call ") << at << " of " << change.calls
                     << " on\n"
                     << result.err);
        REQUIRE((result.status == 0 || result.status == 1));
        if (result.status == 1) {
          ++refused;
          REQUIRE(result.err.rfind("yewdrift-tool: ", 0) == 0);
          REQUIRE((result.err.ends_with(".\n") || result.err.ends_with("?\n")));
        }
        // What a disk that takes nothing any more has of the last change cannot be taken back either.
        const std::string now = shown(s);
        REQUIRE((now == (result.status == 0 ? change.after : change.before) ||
                 (fromThereOn && now == change.after)));
        // A disk that refuses everything cannot be tidied up either.
        if (!fromThereOn) CHECK(strays(s).empty());
        // And the next one goes well.
        if (result.status == 1 && now == change.before) {
          tool(change.arguments);
          // Files that could not be removed either keep their names.
          REQUIRE(withoutPool(shown(s)) == withoutPool(change.after));
        }
      }
      CHECK(refused >= 4 / stride);
    }
}

TEST_CASE("What there is no room for is not begun: the samples as they are kept, and 64 MiB left free") {
  const Sessions sessions;
  const std::string wave = (sessions.folder / "two.wav").string();
  writeWave(wave, {noise(100000, 1), noise(100000, 2)});
  const std::string s = (sessions.folder / "double").string();
  tool("new " + s + " --rate 96000");
  const std::int64_t needed = std::int64_t{100000} * 2 * 4 * 2;  // both sides, 32 bit, at twice the rate
  const auto added = [&](std::int64_t room) {
    return shell(sessions.environment("YEWDRIFT_ROOM=" + std::to_string(room)) + "add " + s +
                 " --track Two " + wave);
  };
  const ToolResult refused = added((64 << 20) + needed - 1);
  CHECK(refused.status == 1);
  CHECK_THAT(refused.err, Catch::Contains("two.wav\": it needs 1 MB, and 68 MB are free"));
  CHECK(fs::is_empty(s + "/audio"));
  CHECK(added((64 << 20) + needed).status == 0);
}

TEST_CASE("A recording that the disk refuses keeps what it took, and says so") {
  const Sessions sessions;
  const Samples played = noise(48000, 5);
  const std::string wave = (sessions.folder / "p.wav").string();
  writeWave(wave, {played});
  tool("new " + (sessions.folder / "empty").string());
  const auto fresh = [&] {
    fs::remove_all(sessions.work);
    fs::copy(sessions.folder / "empty", sessions.work, fs::copy_options::recursive);
    return sessions.work.string();
  };
  const std::string s = fresh();
  const std::string record = "record " + s + " --track Viola --performance " + wave + " --from 0f --to 1s";
  const auto calls = sessions.calls(record);
  int kept = 0;
  const std::size_t early = sanitized() ? 5 : 1;
  const std::size_t late = sanitized() ? 61 : 23;
  for (std::size_t at = 1; at <= calls.size(); at += at < 40 ? early : late) {
    (void)fresh();
    const ToolResult result = shell(refusedAt(sessions, static_cast<int>(at), ENOSPC, true) + record);
    INFO("refused from call " << at << " of " << calls.size() << " on, " << calls[at - 1] << "\n"
                              << result.err);
    REQUIRE((result.status == 0 || result.status == 1));
    const std::string report = tool("check " + s);
    const auto session = show(s);
    CHECK(strays(s).size() <= 1);
    if (session["tracks"].empty() || session["tracks"][0]["lanes"].empty()) continue;
    REQUIRE(session["tracks"][0]["lanes"].size() == 1);
    const Samples file = readWave(fs::path(s) / session["pool"][0]["path"].get<std::string>()).front();
    const auto n = static_cast<std::ptrdiff_t>(std::min(file.size(), played.size()));
    CHECK(std::equal(played.begin(), played.begin() + n, file.begin()));
    ++kept;
  }
  CHECK(kept >= 1);
}
