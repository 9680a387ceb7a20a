// SPDX-License-Identifier: GPL-3.0-or-later
//
// Jobs as people of the trade do them (common practice), sample by sample: at 80 bpm in 3/4, where a bar is
// 2.25 s, 108,000 frames at 48 kHz.
#include <nlohmann/json.hpp>
#include "tool/tool_tests.h"

using nlohmann::json;

namespace {

constexpr std::int64_t tradeBar = 108000;

struct TradeJob {
  TradeJob() { tool("new " + s + " --tempo 80 --meter 3/4 --format float"); }
  /// Noise of that many bars, in a file.
  std::string played(unsigned seed, int bars) {
    performances.push_back(noise(static_cast<std::size_t>(tradeBar * bars), seed, 0.2F));
    const std::string file = (folder / ("p" + std::to_string(seed) + ".wav")).string();
    writeWave(file, {performances.back()}, 48000, SampleFormat::Float32);
    return file;
  }
  std::string on(const std::string& command, const std::string& more) const {
    return tool(command + " " + s + " --track Voice " + more);
  }
  [[nodiscard]] Samples heard(const std::string& span) const {
    on("render", "--span '" + span + "' --out " + (folder / "out.wav").string());
    return readWave(folder / "out.wav").front();
  }
  TemporaryFolder folder;
  std::string s = (folder / "s").string();
  std::vector<Samples> performances;
};

/// Bit for bit but for these bars, counted from 1, and half a crossfade around them.
bool sameButFor(const Samples& a, const Samples& b, const std::vector<std::pair<int, int>>& bars) {
  for (std::int64_t i = 0; i < std::ssize(a); ++i) {
    const bool renewed = std::any_of(bars.begin(), bars.end(), [i](const auto& span) {
      return i >= tradeBar * (span.first - 1) - 240 && i < tradeBar * (span.second - 1) + 240;
    });
    if (!renewed && a[static_cast<std::size_t>(i)] != b[static_cast<std::size_t>(i)]) return false;
  }
  return a.size() == b.size();
}

}  // namespace

TEST_CASE("tool: four rounds over two punches, one pass for each, and the rest bit for bit as before") {
  TradeJob job;
  job.on("record", "--performance " + job.played(1, 5) + " --from '1|1' --to '6|1'");
  const Samples before = job.heard("1|1..6|1");
  std::string rounds;
  for (unsigned round = 2; round < 6; ++round) rounds += " " + job.played(round, 4);
  tool("punch " + job.s + " --add '2|1..3|1' --add '4|1..5|1'");
  job.on("record", "--performance" + rounds +
                       " --from '1|1' --loop '1|1..5|1' --passes 4 --punch '2|1..3|1' --punch '4|1..5|1'");
  job.on("pick", "--punch 1 --lane 3");
  job.on("pick", "--punch 2 --lane 5");
  const Samples after = job.heard("1|1..6|1");
  CHECK(sameButFor(before, after, {{2, 3}, {4, 5}}));
  for (const auto& [bar, round] : {std::pair{2, 2U}, {4, 4U}}) {
    const auto from = static_cast<std::ptrdiff_t>(tradeBar * (bar - 1));
    CHECK(std::equal(after.begin() + from + 240, after.begin() + from + tradeBar - 240,
                     job.performances[round].begin() + from + 240));
  }
  // The whole take, of a punched pass: both punches and nothing between.
  const json lane = json::parse(tool("show " + job.s + " --json"))["tracks"][0]["lanes"][2];
  CHECK(lane["clips"].size() == 2);
  for (const json& clip : lane["clips"]) CHECK(clip["end"] == 4 * tradeBar + 2 * tradeBar);
}

TEST_CASE("tool: a preferred take of six microphones ends before the song; the other's stroke stays whole") {
  // Strokes of the longer take from half a beat before the shorter one ends to half a beat after.
  for (const std::int64_t from : {-48, 24, 96, 240, 900}) {
    TemporaryFolder folder;
    const std::string s = (folder / "s").string();
    const std::int64_t end = 5 * tradeBar;
    std::vector<std::vector<Samples>> takes;
    for (const unsigned take : {0U, 1U}) {
      std::vector<Samples>& microphones = takes.emplace_back();
      for (std::size_t microphone = 0; microphone < 6; ++microphone) {
        Samples played =
            noise(static_cast<std::size_t>(take ? end : 8 * tradeBar), take * 6 + microphone, 1e-4F);
        for (std::int64_t stroke = end + from - 12 * 18000; stroke < std::ssize(played); stroke += 18000)
          addStroke(played, static_cast<std::size_t>(stroke + (take ? 300 : 0)) + 40 * microphone,
                    120.0 + 30.0 * static_cast<double>(microphone));
        microphones.push_back(std::move(played));
      }
      writeWave(folder / ("t" + std::to_string(take) + ".wav"), microphones, 48000, SampleFormat::Float32);
    }
    tool("new " + s + " --tempo 80 --meter 3/4 --format float");
    tool("add " + s + " --track Drums " + (folder / "t0.wav").string() + " " + (folder / "t1.wav").string());
    tool("pick " + s + " --track Drums --lane 2 --span '1|1..9|1'");
    tool("joins " + s + " --track Drums --improve");
    tool("render " + s + " --track Drums --span '1|1..9|1' --out " + (folder / "out.wav").string());
    const std::vector<Samples> heard = readWave(folder / "out.wav");
    INFO(from << ": " << tool("joins " + s + " --track Drums"));
    REQUIRE(heard.size() == 6);
    for (std::size_t microphone = 0; microphone < 6; ++microphone) {
      const Samples& longer = takes[0][microphone];
      std::int64_t same = std::ssize(longer);
      while (same > 0 && heard[microphone][static_cast<std::size_t>(same - 1)] ==
                             longer[static_cast<std::size_t>(same - 1)])
        --same;
      CHECK(same > end - 24000);
      CHECK(same <= end);
      // A stroke of the longer take is heard from its first frame on, or is over before that take is heard.
      const std::int64_t into =
          (same - (end + from + 40 * static_cast<std::int64_t>(microphone)) + 12 * 18000) % 18000;
      INFO("microphone " << microphone << ", alone from " << same << ", " << into << " frames into a stroke");
      CHECK((into == 0 || into > 2400));
    }
  }
}

TEST_CASE("tool: a line of four bars goes on playing, and is extended to eight bars past its end") {
  TradeJob job;
  job.on("record", "--performance " + job.played(1, 104) +
                       " --from '5|1' --to '9|1' --post-roll 100bars --round-trip 333");
  CHECK(job.heard("5|1..9|1").size() == static_cast<std::size_t>(4 * tradeBar));
  job.on("window", "--lane 1 --span '5|1..13|1'");
  CHECK(job.heard("5|1..13|1").size() == static_cast<std::size_t>(8 * tradeBar));
  job.on("window", "--lane 1 --span '5|1..109|1'");
  const Samples line = job.heard("5|1..109|1");
  CHECK(std::equal(line.begin(), line.end(), job.performances[0].begin()));
}

TEST_CASE("tool: fifteen seconds are renewed, and the rest of three minutes is identical") {
  TradeJob job;
  job.on("record", "--performance " + job.played(1, 80) + " --from '1|1' --to '81|1'");
  const Samples before = job.heard("1|1..81|1");
  job.on("record", "--performance " + job.played(2, 80) +
                       " --from '30|1' --performance-at '1|1' --to '37|1' --result replace");
  const Samples after = job.heard("1|1..81|1");
  CHECK(sameButFor(before, after, {{30, 37}}));
  CHECK(after[static_cast<std::size_t>(tradeBar * 33)] ==
        job.performances[1][static_cast<std::size_t>(tradeBar * 33)]);
}

TEST_CASE("tool: of seventy passes round a line each is its own round, whatever is asked for") {
  TradeJob job;
  job.on("record", "--performance " + job.played(1, 1) + " --from 0s --loop 0s..0.25s --passes 70");
  job.on("pick", "--lane 9 --span 0s..60s");
  const json track = json::parse(tool("show " + job.s + " --json"))["tracks"][0];
  CHECK(track["lanes"].size() == 70);
  REQUIRE(track["pieces"].size() == 1);
  CHECK(track["pieces"][0]["lane"] == 9);
  CHECK(track["pieces"][0]["end"] == 12000);
  for (const json& lane : track["lanes"]) {
    CHECK(lane["clips"][0]["start"] >= -6000);
    CHECK(lane["clips"][0]["end"] <= 18000);
  }
}
