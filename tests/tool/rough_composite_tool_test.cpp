// SPDX-License-Identifier: GPL-3.0-or-later
//
// composite --rough: from the ratings, as scripts rely on it.
#include <nlohmann/json.hpp>
#include "tool/tool_tests.h"

using nlohmann::json;

namespace {

/// A track "Voice" with three takes of three phrases: tones of a second with rests of half a second between.
struct Phrased {
  Phrased() {
    tool("new " + s + " --rate 48000 --format float");
    std::string files;
    for (unsigned i = 0; i < 3; ++i) {
      Samples take = noise(264000, i + 1, 0.0005F);
      const Samples tone = sine(48000, 330.0 + i, 48000.0, 0.3F);
      for (std::size_t phrase = 0; phrase < 3; ++phrase)
        for (std::size_t k = 0; k < 48000; ++k) take[24000 + phrase * 84000 + k] += tone[k];
      const std::string file = (folder / ("take" + std::to_string(i + 1) + ".wav")).string();
      writeWave(file, {take}, 48000, SampleFormat::Float32);
      files += " " + file;
    }
    tool("add " + s + " --track Voice" + files);
  }
  std::string on(const std::string& command, const std::string& more) const {
    return tool(command + " " + s + " --track Voice " + more);
  }
  [[nodiscard]] json track() const { return json::parse(tool("show " + s + " --json"))["tracks"][0]; }
  void rate(int lane, int phrase, int rating) const {
    on("rate", "--lane " + std::to_string(lane) + " --at " + std::to_string(48000 + 84000 * phrase) +
                   "f --rating " + std::to_string(rating));
  }
  [[nodiscard]] json rough(const std::string& more) const {
    return json::parse(on("composite", "--rough --json " + more))["rough"];
  }
  [[nodiscard]] std::vector<int> lanes() const {
    std::vector<int> lanes;
    const json now = track();
    for (const json& piece : now["pieces"]) lanes.push_back(piece["lane"]);
    return lanes;
  }

  TemporaryFolder folder;
  std::string s = (folder / "s").string();
};

}  // namespace

TEST_CASE("tool: a rough composite plays what is rated best and says why; one step undoes it") {
  const Phrased p;
  p.rate(1, 0, 5);
  p.rate(2, 1, 4);
  p.rate(3, 1, 3);
  p.rate(1, 2, 2);
  p.rate(3, 2, 3);
  const json before = p.track();
  const json looked = p.rough("--dry-run");
  CHECK(p.track() == before);
  const json made = p.rough("");
  CHECK(made == looked);
  REQUIRE(made["phrases"].size() == 3);
  const auto& first = made["phrases"][0];
  CHECK(first["lane"] == 1);
  CHECK(first["rating"] == 5);
  CHECK(first["stays"] == false);
  CHECK(first["alike"] == json{1});
  CHECK(first["audibility"] == 0.0);
  CHECK(first["why"] == "take1 is rated 5, higher than any other.");
  CHECK(made["phrases"][1]["lane"] == 2);
  CHECK(made["phrases"][2]["lane"] == 3);
  CHECK(made["phrases"][1]["start"] == first["end"]);
  CHECK(made["audibility"].get<double>() == Approx(made["phrases"][1]["audibility"].get<double>() +
                                                   made["phrases"][2]["audibility"].get<double>()));
  CHECK(p.lanes() == std::vector{1, 2, 3});
  const json after = p.track();
  for (const json& piece : after["pieces"]) CHECK(piece["rough"] == true);
  // Joined in the rests.
  CHECK(after["pieces"][1]["start"].get<int>() == Approx(90000).margin(6000));
  CHECK(after["pieces"][2]["start"].get<int>() == Approx(174000).margin(6000));
  tool("undo " + p.s);
  CHECK(p.track() == before);
  tool("redo " + p.s);
  CHECK(p.track() == after);
}

TEST_CASE("tool: the history is listed, and gone back and forth in") {
  const Phrased p;
  p.on("pick", "--lane 1 --span 0f..1000f");
  p.on("pick", "--lane 2 --span 1000f..2000f");
  const json last = p.track();
  const auto history = [&] { return json::parse(tool("history " + p.s + " --json")); };
  CHECK(history() == json{{"done", 3}, {"steps", {"Add 3 files", "Pick lane 1", "Pick lane 2"}}});
  CHECK(tool("history " + p.s) == "  1  Add 3 files\n  2  Pick lane 1\n* 3  Pick lane 2\n");
  CHECK(tool("history " + p.s + " --to 1") ==
        "* 1  Add 3 files\n  2  Pick lane 1  (undone)\n  3  Pick lane 2  (undone)\n");
  CHECK(p.lanes() == std::vector{3});
  CHECK(history()["done"] == 1);
  tool("history " + p.s + " --to 3");
  CHECK(p.track() == last);
  for (const auto& [more, status] : {std::pair{" --to 4", 1}, {" --to -1", 2}, {" --to x", 2}}) {
    const ToolResult result = shell("%T history " + p.s + more);
    CHECK(result.status == status);
    CHECK(std::count(result.err.begin(), result.err.end(), '\n') == 1);
    CHECK(p.track() == last);
  }
  tool("history " + p.s + " --to 0");
  CHECK(json::parse(tool("show " + p.s + " --json"))["tracks"].empty());
}
