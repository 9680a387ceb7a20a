// SPDX-License-Identifier: GPL-3.0-or-later
//
// The headless companion on composites and joins, as scripts rely on it.
#include <nlohmann/json.hpp>
#include "tool/tool_tests.h"

using nlohmann::json;

namespace {

/// A track "Voice" with three takes of a second: noises, so that every frame tells where it is from.
struct Composites {
  Composites() {
    tool("new " + s + " --rate 48000 --format float");
    std::string files;
    for (unsigned i = 0; i < 3; ++i) {
      takes.push_back(noise(48000, i + 1, 0.3F));
      const std::string file = (folder / ("take" + std::to_string(i + 1) + ".wav")).string();
      writeWave(file, {takes.back()}, 48000, SampleFormat::Float32);
      files += " " + file;
    }
    tool("add " + s + " --track Voice" + files);
    tool("pick " + s + " --track Voice --lane 1 --span 0f..24000f");
  }
  std::string on(const std::string& command, const std::string& more) const {
    return tool(command + " " + s + " --track Voice " + more);
  }
  [[nodiscard]] json track() const { return json::parse(tool("show " + s + " --json"))["tracks"][0]; }
  [[nodiscard]] Samples render() const {
    tool("render " + s + " --track Voice --span 0f..48000f --out " + (folder / "out.wav").string());
    return readWave(folder / "out.wav").front();
  }
  void refuses(const std::string& command, const std::string& more, int status = 1) const {
    const json before = track();
    const ToolResult result = shell("%T " + command + " " + s + " --track Voice " + more);
    INFO(command << " " << more << ": " << result.err);
    CHECK(result.status == status);
    CHECK(std::count(result.err.begin(), result.err.end(), '\n') == 1);
    CHECK(track() == before);
  }

  TemporaryFolder folder;
  std::string s = (folder / "s").string();
  std::vector<Samples> takes;
};

}  // namespace

TEST_CASE("tool: a pick takes what is audible, by span, piece, punch or phrase, and says what it left") {
  const Composites c;
  c.on("window", "--lane 2 --span 10000f..20000f");
  CHECK(c.on("pick", "--lane 2 --span 5000f..12000f") ==
        "Lane 2 has nothing from 1|1.20 to 1|1.41: there the composite keeps what it plays.\n"
        "Handles of lane 2 lie there; pull the take's edge to hear them.\n"
        "This takes the place of lane 1, which you had picked at 1|1 to 1|2.\n");
  CHECK(c.render()[8000] == c.takes[0][8000]);
  CHECK(c.render()[11000] == c.takes[1][11000]);
  CHECK(c.track()["lanes"][1]["clips"][0]["windowStart"] == 10000);
  c.on("pick", "--lane 2 --span 5000f..12000f --with-handles");
  CHECK(c.track()["lanes"][1]["clips"][0]["windowStart"] == 5000);
  CHECK(c.render()[8000] == c.takes[1][8000]);
  const std::string said = c.on("pick", "--lane 3 --span 40000f..60000f");
  CHECK(said == "Lane 3 has nothing from 1|3 to 1|3.50: there the composite keeps what it plays.\n");
  CHECK(c.track()["pieces"].back()["end"] == 48000);

  // The piece there, and nothing else: 12,000 to 24,000 plays lane 1.
  CHECK(c.on("pick", "--lane 3 --piece 13000f").empty());
  const json pieces = c.track()["pieces"];
  CHECK(pieces[1]["lane"] == 2);
  CHECK(pieces[2]["start"] == 12000);
  CHECK(pieces[2]["lane"] == 3);
  tool("punch " + c.s + " --add 2000f..4000f --add 30000f..31000f");
  c.on("pick", "--lane 1 --punch 2");
  CHECK(c.render()[30500] == c.takes[0][30500]);
  c.on("pick", "--lane 3 --phrase '#1'");
  CHECK(c.track()["pieces"].size() == 1);

  c.refuses("pick", "--lane 2 --span 50000f..60000f");
  c.refuses("pick", "--lane 7 --span 0f..100f");
  c.refuses("pick", "--lane 0 --span 0f..100f");
  c.refuses("pick", "--lane 1 --punch 3");
  c.refuses("pick", "--lane 1 --piece 90000f");
  c.refuses("pick", "--lane 1 --phrase '#2'");
  c.refuses("pick", "--lane 1 --phrase '#x'");
  c.refuses("pick", "--lane 1", 2);
  c.refuses("pick", "--lane 1 --piece 0f --punch 1", 2);
  CHECK(c.on("pick", "--lane none --span 50000f..60000f").empty());
}

TEST_CASE("tool: several composites are kept, used, compared and removed") {
  const Composites c;
  const auto list = [&](const std::string& more = {}) {
    return json::parse(c.on("composite", "--json " + more));
  };
  CHECK(list()["composites"].size() == 1);
  CHECK(list()["composites"][0]["name"] == "Composite 1");
  CHECK(list()["composites"][0]["used"] == true);
  c.on("composite", "--keep Calm");
  c.on("pick", "--lane none --span 1000f..2000f");
  const Samples wild = c.render();
  CHECK(list("--compare Calm")["differences"] == json::parse(R"([{"start": 1000, "end": 2000}])"));
  CHECK(c.on("composite", "--compare Calm").find("differs  1|1.04 .. 1|1.08  (1000f..2000f)") !=
        std::string::npos);
  c.on("composite", "--use Calm");
  CHECK(c.render()[1500] == c.takes[0][1500]);
  CHECK(list()["composites"][0]["name"] == "Calm");
  CHECK(c.track()["composites"] == json::parse(R"(["Calm", "Composite 1"])"));
  c.on("composite", "--use \"Composite 1\"");
  CHECK(c.render() == wild);
  c.refuses("composite", "--remove \"Composite 1\"");
  c.refuses("composite", "--use none");
  c.refuses("composite", "--keep Calm");
  c.refuses("composite", "--compare none");
  c.on("composite", "--remove Calm");
  CHECK(list()["composites"].size() == 1);
  tool("undo " + c.s);
  CHECK(list()["composites"].size() == 2);
  c.on("composite", "--fade-in 100f --fade-out 10ms --curve equal-gain");
  const Samples faded = c.render();
  CHECK(faded[49] == Approx(c.takes[0][49] * 0.495F).margin(1e-6));
  CHECK(faded[47999] == Approx(c.takes[2][47999] * (0.5F / 480.0F)).margin(1e-6));
  CHECK(c.track()["fadeIn"] == 100);
  c.on("composite", "--fade-in 0f --fade-out 0f");
  CHECK(c.render() == wild);
}

TEST_CASE("tool: joins --improve finds better places, says why, and leaves what a person set") {
  // Two takes of a tone that begins at 24,000, a quarter of a tone apart; before it a quiet room.
  const TemporaryFolder folder;
  const std::string s = (folder / "s").string();
  tool("new " + s + " --rate 48000 --format float");
  std::string files;
  for (unsigned i = 0; i < 2; ++i) {
    Samples take = noise(96000, i + 1, 0.0008F);
    const Samples tone = sine(60000, 330.0 * (1.0 + 0.03 * i), 48000.0, 0.4F, 0.7 * i);
    for (std::size_t k = 0; k < tone.size(); ++k) take[24000 + k] += tone[k];
    const std::string file = (folder / ("take" + std::to_string(i + 1) + ".wav")).string();
    writeWave(file, {take}, 48000, SampleFormat::Float32);
    files += " " + file;
  }
  tool("add " + s + " --track Voice" + files);
  const auto on = [&](const std::string& command, const std::string& more) {
    return tool(command + " " + s + " --track Voice " + more);
  };
  on("pick", "--lane 1 --span 0f..26000f");
  on("pick", "--lane 2 --span 26000f..60000f");
  on("pick", "--lane 1 --span 60000f..96000f");
  const auto show = [&] { return json::parse(tool("show " + s + " --json"))["tracks"][0]; };
  const json before = show();

  json joins = json::parse(on("joins", "--json"));
  REQUIRE(joins.size() == 2);
  for (const json& join : joins) {
    CHECK(join["risk"] > 0.1);
    CHECK(join["risk"] <= 1.0);
    CHECK(!join["reading"].get<std::string>().empty());
    CHECK(!join.contains("why"));
  }
  CHECK(joins[0]["risk"] >= joins[1]["risk"]);
  const json& early = joins[0]["at"] == 26000 ? joins[0] : joins[1];
  const json& late = joins[0]["at"] == 26000 ? joins[1] : joins[0];
  CHECK(std::abs(early["nearestOnset"].get<int>() + 2000) <= 240);
  CHECK(late["nearestOnset"].is_null());
  CHECK(std::abs(late["pitchDifference"].get<double>()) == Approx(51.2).margin(4.0));  // 1200 log2(1.03)

  // Said only.
  joins = json::parse(on("joins", "--improve --dry-run --json"));
  CHECK(show() == before);
  const auto improved = [](const json& list) {
    return std::find_if(list.begin(), list.end(),
                        [](const json& join) { return join.contains("was") && join["was"]["at"] == 26000; });
  };
  REQUIRE(improved(joins) != joins.end());
  const json promised = *improved(joins);
  CHECK(promised["at"] < 24000);
  CHECK(promised["at"] >= 26000 - 4800);
  CHECK(promised["found"] == true);
  CHECK(promised["slip"] == 0);
  CHECK(promised["risk"] < promised["was"]["risk"]);
  CHECK_THAT(promised["why"].get<std::string>(), Catch::Contains("In the rest before"));

  // No farther than is allowed.
  joins = json::parse(on("joins", "--improve --dry-run --within 20ms --json"));
  for (const json& join : joins)
    if (join.contains("was")) CHECK(std::abs(join["at"].get<int>() - join["was"]["at"].get<int>()) <= 960);

  // One of them, by name; then it is as was promised, and one undo away.
  on("joins", "--improve --at 25500f");
  joins = show()["joins"];
  CHECK(joins[0]["at"] == promised["at"]);
  CHECK(joins[0]["before"] == promised["before"]);
  CHECK(joins[0]["after"] == promised["after"]);
  CHECK(joins[0]["found"] == true);
  CHECK(joins[1] == before["joins"][1]);
  tool("undo " + s);
  CHECK(show() == before);

  // What a person set, or settled, stays, unless it is named.
  on("join", "--at 26000f --length 4ms");
  on("join", "--at 60000f --settled on");
  const json set = show();
  CHECK_THAT(on("joins", "--improve"), Catch::Contains("0 of 0 joins are better."));
  CHECK(show() == set);
  on("joins", "--improve --at 26000f");
  CHECK(show()["joins"][0]["at"] < 24000);

  // Wrong usage.
  CHECK(shell("%T joins " + s + " --track Voice --dry-run").status == 2);
  for (const char* nonsense : {"--within nonsense", "--within 6s", "--slip-within 60ms", "--within -5ms"})
    CHECK(shell("%T joins " + s + " --track Voice --improve " + nonsense).status == 1);
}
