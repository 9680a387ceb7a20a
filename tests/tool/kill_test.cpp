// SPDX-License-Identifier: GPL-3.0-or-later
//
// Killed at any moment, a session is as it was before or as it is after, and a recording is there but for
// half a second at most. Every change that a command makes to the session's folder is the last one in turn.
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include <csignal>
#include <nlohmann/json.hpp>
#include "tool/tool_tests.h"

#include "core/store/audio_file.h"
#include "kill_rig.h"

namespace {

std::size_t placeOf(const std::vector<std::string>& calls, const std::string& what, std::size_t from = 0) {
  for (std::size_t i = from; i < calls.size(); ++i)
    if (calls[i] == what) return i;
  std::string all;
  for (const std::string& call : calls) all += call + "\n";
  FAIL("\"" << what << "\" is not among what was done from " << from << " on:\n" << all);
  return 0;
}

}  // namespace

TEST_CASE("Killed at any call of a step, the session is as before it or as after it, and can be worked on") {
  const Sessions sessions;
  for (const std::string& command : sessions.commands()) {
    const Change change(sessions, command);
    const std::string s = sessions.work.string();
    bool done = false;
    for (int at = 1; at <= change.calls; at += stride) {
      (void)sessions.copied();
      const ToolResult result = shell(sessions.killedAt(at) + change.arguments + "; exit $?");
      INFO(command << ", killed at call " << at << " of " << change.calls);
      REQUIRE(result.status == 137);
      CHECK(strays(s).empty());
      const bool isAfter = change.doneIn(s, sessions.folder / "heard.wav");
      // What was done once is not undone by dying later.
      REQUIRE((isAfter || !done));
      done = isAfter;
      // And it can be done now, or taken back.
      if (isAfter && change.isStep()) {
        tool((command.rfind("undo", 0) == 0 ? "redo " : "undo ") + s);
        REQUIRE(withoutPool(shown(s)) == withoutPool(change.before));
      } else {
        tool(change.arguments);
        REQUIRE((heard(s, sessions.folder / "heard.wav") == change.heardAfter));
      }
    }
  }
}

TEST_CASE("Killed at any call while a session is made, its folder is a session or can be made one") {
  const Sessions sessions;
  const std::string s = sessions.work.string();
  int sessionsLeft = 0;
  int madeAgain = 0;
  for (int at = 1;; ++at) {
    fs::remove_all(s);
    const ToolResult result = shell(sessions.killedAt(at) + "new " + s + "; exit $?");
    if (result.status == 0) break;
    INFO("killed at call " << at);
    REQUIRE(result.status == 137);
    if (shell("%T check " + s).status == 0) {
      ++sessionsLeft;
      continue;
    }
    ++madeAgain;
    CHECK(shell("%T new " + s).status == 0);
    CHECK(shell("%T check " + s).status == 0);
  }
  CHECK(sessionsLeft > 0);
  CHECK(madeAgain > 0);
  // Where anything else lies in it, nothing is made of it.
  fs::remove_all(s);
  fs::create_directories(fs::path(s) / "audio");
  std::ofstream(fs::path(s) / "audio" / "mine.wav") << "x";
  CHECK(shell("%T new " + s).status == 1);
}

TEST_CASE(
    "Killed at random moments of whatever it does, nothing that was done is lost, and nothing is twice") {
  // Forty tries where nothing is said, more where a machine changes its pace and most of them came too late.
  // YEWDRIFT_KILLS asks for a campaign, YEWDRIFT_KILLS_SEED for other moments.
  const char* const asked = std::getenv("YEWDRIFT_KILLS");
  const int kills = asked ? std::atoi(asked) : 40;
  const char* const seedAsked = std::getenv("YEWDRIFT_KILLS_SEED");
  const unsigned seed = seedAsked ? static_cast<unsigned>(std::atoi(seedAsked)) : 20261126U;
  INFO("seed " << seed);
  std::mt19937 random(seed);
  const Sessions sessions;
  const std::string s = sessions.work.string();
  const fs::path out = sessions.folder / "heard.wav";
  struct Work {
    Change change;
    double seconds;
    bool records;
  };
  std::vector<Work> works;
  std::vector<std::string> commands = sessions.commands();
  const std::size_t steps = commands.size();
  commands.push_back("record WORK --track Drum --performance " + sessions.files[2] +
                     " --from 0f --loop 0f..9600f --passes 3 --round-trip 77");
  commands.push_back("record WORK --track Drum --performance " + sessions.files[2] +
                     " --from 0f --to 1s --punch 2000f..4000f --punch 6000f..9000f");
  for (std::size_t i = 0; i < commands.size(); ++i) {
    Change change(sessions, commands[i]);
    (void)sessions.copied();
    const auto began = std::chrono::steady_clock::now();
    REQUIRE(shell("%T " + change.arguments).status == 0);
    const std::chrono::duration<double> took = std::chrono::steady_clock::now() - began;
    works.push_back({std::move(change), took.count(), i >= steps});
  }
  int died = 0;
  int tries = 0;
  for (; tries < kills || (died <= kills / 2 && tries < 10 * kills); ++tries) {
    Work& work = works[random() % works.size()];
    const double moment = std::uniform_real_distribution(0.001, 1.1 * work.seconds)(random);
    (void)sessions.copied();
    const ToolResult result = shell("timeout --foreground -s KILL " + std::to_string(moment) + " %T " +
                                    work.change.arguments + "; exit $?");
    // 124: its time was up in the moment in which it ended by itself.
    const bool ended = result.status == 0 || result.status == 124;
    // What was done by now takes less time than was thought.
    if (ended) work.seconds = std::min(work.seconds, moment);
    INFO("try " << tries << ": " << work.change.arguments << " after " << moment << " s");
    REQUIRE((result.status == 137 || ended));
    died += result.status == 137 ? 1 : 0;
    CHECK(strays(s).empty());
    if (!work.records) {
      const bool done = work.change.doneIn(s, out);
      REQUIRE((done || result.status == 137));
      continue;
    }
    const nlohmann::json was = nlohmann::json::parse(work.change.before)["tracks"][0];
    const nlohmann::json whole = nlohmann::json::parse(work.change.after)["tracks"][0];
    const nlohmann::json now = show(s)["tracks"][0];
    REQUIRE(now["channels"] == was["channels"]);
    REQUIRE(now["lanes"].size() >= was["lanes"].size());
    REQUIRE(now["lanes"].size() <= whole["lanes"].size());
    for (std::size_t lane = 0; lane < now["lanes"].size(); ++lane) {
      if (lane < was["lanes"].size()) REQUIRE(now["lanes"][lane] == was["lanes"][lane]);
      REQUIRE(now["lanes"][lane]["clips"].size() <= whole["lanes"][lane]["clips"].size());
    }
    if (ended) REQUIRE(now["lanes"].size() == whole["lanes"].size());
    const std::string found = shown(s);
    tool("check " + s);
    REQUIRE(shown(s) == found);
  }
  WARN(died << " of " << tries << " died before they were done");
  CHECK(died > kills / 2);
}

TEST_CASE(
    "A recording is noted on the disk before its first frame, until the disk has its last and its name") {
  const Sessions sessions;
  const std::string s = sessions.copied();
  const std::vector<std::string> calls = sessions.calls("record " + s + " --track Drum --performance " +
                                                        sessions.files[0] + " --from 0f --to 9600f");
  std::size_t at = placeOf(calls, "write /file.new");
  at = placeOf(calls, "sync /file.new", at);
  const std::size_t noted = placeOf(calls, "rename /recording-001.json", at);
  placeOf(calls, "sync ", noted);
  std::string recorded;
  for (const std::string& call : calls)
    if (call.rfind("make /audio/", 0) == 0) recorded = call.substr(5);
  const std::size_t forgotten = placeOf(calls, "remove /recording-001.json", noted);
  const std::size_t saved = placeOf(calls, "exchange /session.json", noted);
  std::size_t synced = 0;
  for (std::size_t i = 0; i < calls.size(); ++i) {
    if (calls[i] == "write " + recorded && i > noted) CHECK(i < forgotten);
    if (calls[i] == "sync " + recorded && i < saved) synced = i;
  }
  CHECK(synced > noted);
  CHECK(saved < forgotten);
  CHECK(placeOf(calls, "sync /audio", noted) < saved);
}

TEST_CASE("Killed at any moment of a loop with a mic set, all microphones come back to the frame, once") {
  const Sessions sessions;
  const std::vector<Samples> played{noise(30000, 21), noise(30000, 22), noise(30000, 23)};
  const std::string wave = (sessions.folder / "set.wav").string();
  writeWave(wave, played);
  tool("new " + (sessions.folder / "empty").string());
  const auto fresh = [&] {
    fs::remove_all(sessions.work);
    fs::copy(sessions.folder / "empty", sessions.work, fs::copy_options::recursive);
    return sessions.work.string();
  };
  const std::string s = fresh();
  const std::string record = "record " + s + " --track Set --performance " + wave +
                             " --from 0f --loop 0f..30000f --passes 3 --round-trip 123";
  const std::vector<std::string> calls = sessions.calls(record);
  std::vector<std::string> whole;  // the files of a recording that nothing happened to
  std::vector<std::vector<Samples>> wholeSamples;
  const nlohmann::json unharmed = show(s);
  for (const auto& entry : unharmed["pool"]) {
    whole.push_back(entry["path"]);
    wholeSamples.push_back(readWave(fs::path(s) / whole.back()));
  }
  REQUIRE(whole.size() == 3);
  const auto lanesOf = [](const nlohmann::json& session) {
    return session["tracks"].empty() ? std::size_t{0} : session["tracks"][0]["lanes"].size();
  };
  REQUIRE(lanesOf(unharmed) == 3);
  std::map<std::size_t, int> lanesSeen;
  int killed = 0;
  for (int at = 1; at <= static_cast<int>(calls.size()); at += stride * (at < 50 ? 3 : 71), ++killed) {
    (void)fresh();
    INFO("killed at call " << at << " of " << calls.size() << ", "
                           << calls[static_cast<std::size_t>(at) - 1]);
    REQUIRE(shell(sessions.killedAt(at) + record + "; exit $?").status == 137);
    std::int64_t onDisk = fs::exists(s + "/recording-001.json") ? 1'000'000'000 : 0;
    for (const std::string& file : whole) {
      std::error_code none;
      const auto bytes = static_cast<std::int64_t>(fs::file_size(fs::path(s) / file, none));
      onDisk = none ? 0 : std::min(onDisk, (bytes - 1024) / 3);  // 24 bit, behind a header of less than that
    }
    tool("check " + s);
    const nlohmann::json session = show(s);
    CHECK_FALSE(fs::exists(s + "/recording-001.json"));
    ++lanesSeen[lanesOf(session)];
    std::int64_t captured = 0;
    if (!session["pool"].empty()) {
      REQUIRE(session["pool"].size() == 3);
      REQUIRE(session["tracks"][0]["channels"] == 3);
      for (std::size_t i = 0; i < 3; ++i) {
        const Samples file = readWave(fs::path(s) / session["pool"][i]["path"].get<std::string>()).front();
        const Samples& expected = wholeSamples[i].front();
        captured = static_cast<std::int64_t>(file.size());
        REQUIRE(file.size() <= expected.size());
        // What follows the roll may be silence: that it was still to come.
        const std::size_t body = std::min<std::size_t>(file.size(), 90000 + 123);
        REQUIRE(std::equal(file.begin(), file.begin() + static_cast<std::ptrdiff_t>(body), expected.begin()));
      }
      for (const auto& lane : session["tracks"][0]["lanes"]) {
        REQUIRE(lane["clips"].size() == 1);
        const auto& clip = lane["clips"][0];
        REQUIRE(clip["windowStart"] == 0);
        REQUIRE(clip["windowEnd"] <= 30000);
      }
    }
    CHECK(captured >= onDisk - 24000);  // half a second
    // A second look finds nothing more to bring in.
    tool("check " + s);
    CHECK(show(s) == session);
  }
  CHECK(killed >= (stride == 1 ? 30 : 4));
  if (stride == 1)
    for (const std::size_t lanes : {0U, 1U, 2U, 3U}) CHECK(lanesSeen[lanes] > 0);
}
