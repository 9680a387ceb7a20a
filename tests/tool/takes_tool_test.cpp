// SPDX-License-Identifier: GPL-3.0-or-later
//
// The headless companion on lanes, listening and evidence, as scripts rely on it.
#include <nlohmann/json.hpp>
#include "tool/tool_tests.h"

using nlohmann::json;

namespace {

/// Three seconds of two phrases, 0.5 s to 1.2 s and 1.8 s to 2.5 s, later by so many frames; over a little
/// noise.
Samples twoPhrases(std::int64_t late, double hertz = 440.0, unsigned seed = 1) {
  Samples samples = noise(144000, seed, 0.0004F);
  std::mt19937 voice(9);
  std::uniform_real_distribution<float> breath(-0.05F, 0.05F);
  for (const double start : {0.5, 1.8})
    for (std::int64_t i = 0; i < 33600; ++i) {
      const double t = static_cast<double>(i) / 48000.0;
      const double edge = std::min({1.0, t / 0.01, (0.7 - t) / 0.01});
      const auto at = static_cast<std::size_t>(std::llround(start * 48000.0) + late + i);
      double tone = 0.0;
      for (int partial = 1; partial <= 4; ++partial)
        tone += std::sin(6.283185307 * hertz * partial * t) / partial;
      samples[at] += static_cast<float>(edge) * (0.2F * static_cast<float>(tone) + breath(voice));
    }
  return samples;
}

/// A session with a track "Voice" of takes.
struct Takes {
  explicit Takes(const std::vector<Samples>& takes) {
    tool("new " + s + " --rate 48000 --format float");
    std::string files;
    for (std::size_t i = 0; i < takes.size(); ++i) {
      const std::string file = (folder / ("take" + std::to_string(i + 1) + ".wav")).string();
      writeWave(file, {takes[i]}, 48000, SampleFormat::Float32);
      files += " " + file;
    }
    tool("add " + s + " --track Voice" + files);
  }
  [[nodiscard]] json lane(std::size_t index) const { return show()["tracks"][0]["lanes"][index]; }
  [[nodiscard]] json show() const { return json::parse(tool("show " + s + " --json")); }
  [[nodiscard]] json phrases(const std::string& more = {}) const {
    return json::parse(tool("phrases " + s + " --track Voice --json " + more))["phrases"];
  }
  [[nodiscard]] Samples render(const std::string& more) const {
    tool("render " + s + " --out " + (folder / "out.wav").string() + " " + more);
    return readWave(folder / "out.wav").front();
  }
  /// Fails with a sentence, and leaves the session as it was.
  void refuses(const std::string& command, int status = 1) const {
    const json before = show();
    const ToolResult result = shell("%T " + command);
    INFO(command << ": " << result.err);
    CHECK(result.status == status);
    CHECK(std::count(result.err.begin(), result.err.end(), '\n') == 1);
    CHECK(show() == before);
  }

  TemporaryFolder folder;
  std::string s = (folder / "s").string();
};

}  // namespace

TEST_CASE("tool: a lane is what it was set to, one step for all of it") {
  const Takes takes({twoPhrases(0), twoPhrases(0)});
  tool("lane " + takes.s +
       " --track Voice --lane 1 --name Warm --note 'far away' --rating 4 --palette 3 --gain -6 --pitch 12.5 "
       "--mute on "
       "--nudge 480f --place 2 --shows pitch");
  const json lane = takes.lane(1);
  CHECK(lane["number"] == 1);
  CHECK(lane["name"] == "Warm");
  CHECK(lane["note"] == "far away");
  CHECK(lane["rating"] == 4);
  CHECK(lane["palette"] == 3);
  CHECK(lane["gain"] == -6.0);
  CHECK(lane["pitch"] == 12.5);
  CHECK(lane["muted"] == true);
  CHECK(lane["shows"] == "pitch");
  CHECK(lane["clips"][0]["windowStart"] == 480);
  CHECK(takes.lane(0)["number"] == 2);
  tool("lane " + takes.s + " --track Voice --lane 1 --nudge -10ms --mute off");
  CHECK(takes.lane(1)["clips"][0]["windowStart"] == 0);
  CHECK(takes.lane(1)["muted"] == false);
  tool("undo " + takes.s);
  tool("undo " + takes.s);
  CHECK(takes.lane(0)["name"] == "take1");
  CHECK(takes.lane(0)["rating"] == 0);
  tool("lane " + takes.s + " --track Voice --lane 1 --aside");
  CHECK(takes.lane(0)["setAside"] == true);
  tool("lane " + takes.s + " --track Voice --lane 1 --bring-back");
  CHECK(takes.lane(0)["setAside"] == false);
  tool("lane " + takes.s + " --track Voice --lane 1 --discard");
  CHECK(takes.lane(0)["number"] == 2);
  for (const char* wrong : {"--lane 9 --rating 1", "--lane 2 --rating 6", "--lane 2 --gain 61",
                            "--lane 2 --gain nan", "--lane 2 --pitch 2401", "--lane 2 --place 0",
                            "--lane 2 --shows nothing", "--lane 2 --nudge soon", "--lane 2 --name ''"})
    takes.refuses("lane " + takes.s + " --track Voice " + wrong);
  takes.refuses("lane " + takes.s + " --track Voice", 2);
  takes.refuses("lane " + takes.s + " --track Voice --lane 2", 2);
  takes.refuses("level " + takes.s + " --track Voice --lane 2", 2);
  takes.refuses("piece " + takes.s + " --track Voice --at 1s", 2);
  takes.refuses("lane " + takes.s + " --track Voice --lane 2 --aside --discard", 2);
}

TEST_CASE("tool: phrases are found, cut, merged, moved, and found again") {
  const Takes takes({twoPhrases(0, 440.0, 1), twoPhrases(480, 440.0, 2)});
  json phrases = takes.phrases();
  REQUIRE(phrases.size() == 2);
  CHECK(std::abs(phrases[0]["start"].get<int>() - 24000) < 960);
  CHECK(std::abs(phrases[0]["end"].get<int>() - 58080) < 960);
  CHECK(std::abs(phrases[1]["start"].get<int>() - 86400) < 960);
  CHECK(phrases[0]["set"] == false);
  phrases = takes.phrases("--add 36000f");
  REQUIRE(phrases.size() == 3);
  CHECK(phrases[0]["end"] == 36000);
  CHECK(phrases[1]["start"] == 36000);
  CHECK(phrases[1]["set"] == true);
  CHECK(phrases[2]["set"] == false);
  CHECK(takes.phrases() == phrases);
  phrases = takes.phrases("--move 36000f --to 1s");
  CHECK(phrases[0]["end"] == 48000);
  phrases = takes.phrases("--remove 48000f");
  REQUIRE(phrases.size() == 2);
  CHECK(phrases[0]["set"] == true);
  phrases = takes.phrases("--found");
  CHECK(phrases[0]["set"] == false);
  CHECK(takes.phrases("--rest 2").size() == 1);
  tool("undo " + takes.s);
  CHECK(takes.phrases().size() == 2);
  takes.refuses("phrases " + takes.s + " --track Voice --add 1.5s");
  takes.refuses("phrases " + takes.s + " --track Voice --rest 61");
  takes.refuses("phrases " + takes.s + " --track Voice --move 1s", 2);
  const std::string text = tool("phrases " + takes.s + " --track Voice");
  CHECK(text.rfind("phrase 1  ", 0) == 0);
  CHECK(std::count(text.begin(), text.end(), '\n') == 2);
}

TEST_CASE("tool: evidence says of every take in every phrase what can be measured") {
  const Takes takes({twoPhrases(0, 440.0, 1), twoPhrases(960, 440.0 * std::exp2(25.0 / 1200.0), 2)});
  tool("rate " + takes.s + " --track Voice --lane 2 --at 0.8s --rating 5 --note 'that one'");
  tool("pick " + takes.s + " --track Voice --span 0s..1.5s --lane 1");
  const json all = json::parse(tool("evidence " + takes.s + " --track Voice --json"))["phrases"];
  REQUIRE(all.size() == 2);
  const json& cells = all[0]["takes"];
  REQUIRE(cells.size() == 2);
  CHECK(cells[0]["lane"] == 1);
  CHECK(cells[0]["chosen"] == true);
  CHECK(cells[1]["chosen"] == false);
  CHECK(cells[0]["rating"] == 0);
  CHECK(cells[1]["rating"] == 5);
  CHECK(cells[1]["note"] == "that one");
  CHECK(cells[1]["timing"].get<double>() == Approx(20.0).margin(2.0));
  CHECK(cells[0]["timing"].get<double>() == Approx(-20.0).margin(2.0));
  CHECK(cells[1]["pitch"].get<double>() == Approx(25.0).margin(3.0));
  CHECK(cells[0]["pitch"].get<double>() == Approx(-25.0).margin(3.0));
  CHECK(cells[0]["noise"].get<double>() == Approx(-72.7).margin(1.5));
  CHECK(cells[0]["loudness"].is_number());
  CHECK(cells[0]["peak"].is_number());
  CHECK(cells[0]["overs"] == 0);
  CHECK(cells[0]["pitchSpread"].is_number());
  CHECK(cells[0]["timingSpread"].is_number());
  CHECK(cells[0]["sounding"].get<int>() == Approx(33600).margin(1500));
  CHECK(all[0]["decided"] == true);
  CHECK(all[1]["decided"] == false);
  CHECK(all[1]["takes"][1]["chosen"] == true);
  const json one = json::parse(tool("evidence " + takes.s + " --track Voice --lane 2 --json"))["phrases"];
  CHECK(one[0]["takes"] == json::array({cells[1]}));
  CHECK(tool("evidence " + takes.s + " --track Voice").find("lane 1 *") != std::string::npos);
  takes.refuses("evidence " + takes.s + " --track Voice --lane 7");
  takes.refuses("rate " + takes.s + " --track Voice --lane 1 --at 1s --rating 7");
  takes.refuses("rate " + takes.s + " --track Voice --lane 1 --at 1s", 2);
}

TEST_CASE("tool: a take is lined up to another one, if that is sure enough") {
  const Takes takes({twoPhrases(0, 440.0, 1), twoPhrases(737, 440.0, 2), noise(144000, 3, 0.1F)});
  const json found = json::parse(tool("line-up " + takes.s + " --track Voice --lane 2 --to 1 --json"));
  CHECK(found["offset"] == -737);
  CHECK(found["sureness"].get<double>() > 0.4);
  CHECK(takes.lane(1)["clips"][0]["windowStart"] == 0);
  const json within = json::parse(
      tool("line-up " + takes.s + " --track Voice --lane 2 --to 1 --within 20ms --span 0.3s..1.4s --json"));
  CHECK(within["offset"] == -737);
  tool("line-up " + takes.s + " --track Voice --lane 2 --to 1 --apply");
  CHECK(takes.lane(1)["clips"][0]["windowStart"] == -737);
  CHECK(json::parse(tool("line-up " + takes.s + " --track Voice --lane 2 --to 1 --json"))["offset"] == 0);
  takes.refuses("line-up " + takes.s + " --track Voice --lane 3 --to 1 --apply");
  takes.refuses("line-up " + takes.s + " --track Voice --lane 1 --to 1");
  takes.refuses("line-up " + takes.s + " --track Voice --lane 2 --to 1 --within 2bars..3");
  tool("undo " + takes.s);
  CHECK(takes.lane(1)["clips"][0]["windowStart"] == 0);
}
