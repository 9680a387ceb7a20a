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

}  // namespace

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
