// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the headless companion says and writes, word for word and sample for sample.
#include <nlohmann/json.hpp>
#include "tool/tool_tests.h"

#include "core/store/recording_note.h"

using nlohmann::json;

namespace {

/// A session at 48 kHz, 120 beats a minute in 4/4: a beat is 24,000 frames.
struct Desk {
  explicit Desk(const std::string& options = {}) {
    for (unsigned i = 0; i < takes.size(); ++i) {
      takes[i] = noise(96000, i + 1, 0.4F);
      writeWave(folder / ("t" + std::to_string(i + 1) + ".wav"), {takes[i]}, 48000, SampleFormat::Float32);
    }
    tool(at("new", options));
  }
  [[nodiscard]] std::string at(const std::string& command, const std::string& rest = {}) const {
    return command + " " + (folder / "s").string() + " " + rest;
  }
  [[nodiscard]] std::string file(const std::string& name) const { return (folder / name).string(); }
  TemporaryFolder folder;
  std::array<Samples, 3> takes;
};

}  // namespace

TEST_CASE("tool: show says in words what is in a session") {
  const Desk desk("--format float");
  tool(desk.at("add", "--track Viola " + desk.file("t1.wav") + " " + desk.file("t2.wav")));
  tool(desk.at("add", "--track River --backing --at 1s " + desk.file("t3.wav")));
  tool(desk.at("pick", "--track Viola --span 0.5s..1s --lane 1"));
  tool(desk.at("pick", "--track Viola --span 1.5s..1.75s --lane none"));
  tool(desk.at("join", "--track Viola --at 0.5s --length 20ms --curve s"));
  tool(desk.at("window", "--track Viola --lane 2 --span 100f..96000f"));
  tool(desk.at("loop", "--span '1|2..1|4'"));
  tool(desk.at("punch", "--in 0.5s"));
  tool(desk.at("marker", "--at '2|1.5' --name 'The ferry lands'"));
  const std::string text = tool(desk.at("show"));
  CHECK(text ==
        "s: 48000 Hz, float, 120 bpm in 4/4\n"
        "loop 1|2 .. 1|4\n"
        "punch 1|2 .. (until it stops)\n"
        "marker 1  The ferry lands  2|1.50\n"
        "\n"
        "Viola\n"
        "  lane 1  t1\n"
        "    1|1 (0f) .. 2|1 (96000f), handles 0f before, 0f after\n"
        "  lane 2  t2\n"
        "    1|1 (100f) .. 2|1 (96000f), handles 100f before, 0f after\n"
        "  plays lane 1  1|1 (0f) .. 1|1 (100f), newest take\n"
        "  plays lane 2  1|1 (100f) .. 1|2 (24000f), newest take\n"
        "  plays lane 1  1|2 (24000f) .. 1|3 (48000f)\n"
        "  plays lane 2  1|3 (48000f) .. 1|4 (72000f), newest take\n"
        "  plays silence  1|4 (72000f) .. 1|4.50 (84000f)\n"
        "  plays lane 2  1|4.50 (84000f) .. 2|1 (96000f), newest take\n"
        "  join  1|1 (100f), 100f before, 240f after, matched\n"
        "  join  1|2 (24000f), 480f before, 480f after, s, set\n"
        "  join  1|3 (48000f), 240f before, 240f after, matched\n"
        "  join  1|4 (72000f), 240f before, 240f after, matched\n"
        "  join  1|4.50 (84000f), 240f before, 240f after, matched\n"
        "\n"
        "River, backing\n"
        "  lane 1  t3\n"
        "    1|3 (48000f) .. 2|3 (144000f), handles 0f before, 0f after\n"
        "  plays lane 1  1|3 (48000f) .. 2|3 (144000f), newest take\n"
        "\n"
        "pool\n"
        "  audio/t1-001.wav  1 ch  96000f\n"
        "  audio/t2-001.wav  1 ch  96000f\n"
        "  audio/t3-001.wav  1 ch  96000f\n");
}

TEST_CASE("tool: in real time it takes as long as it lasts; else not") {
  const Desk desk;
  const auto seconds = [&](const std::string& how) {
    const auto began = std::chrono::steady_clock::now();
    tool(desk.at("record",
                 "--track Viola --performance " + desk.file("t1.wav") + " --from 0f --to 1s " + how));
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
  };
  const double live = seconds("--realtime");
  CHECK(live > 5.0);  // and the four seconds behind it
  CHECK(seconds({}) < live / 2.0);
  const json track = show(desk.folder / "s")["tracks"][0];
  CHECK(track["lanes"][0]["clips"] == track["lanes"][1]["clips"]);
}

TEST_CASE("tool: the commands of the help are those of the manual page, and each has a help of its own") {
  const std::string help = tool("--help");
  std::set<std::string> inHelp;
  const std::string list = help.substr(help.find("Subcommands:"));
  const std::regex command("\n  ([a-z-]+)  +(\\S[^\n]*)");
  for (std::sregex_iterator each(list.begin(), list.end(), command), end; each != end; ++each) {
    inHelp.insert((*each)[1]);
    const std::string own = tool((*each)[1].str() + " --help");
    CHECK_THAT(own, Catch::Contains((*each)[2].str()));
    CHECK_THAT(own, Catch::Contains("Usage: yewdrift-tool " + (*each)[1].str()));
  }
  const std::string manual = content(YEWDRIFT_MANUAL);
  std::set<std::string> inManual;
  const std::regex entry("\\.TP\n\\.B ([a-z\\\\-]+)\n");
  for (std::sregex_iterator each(manual.begin(), manual.end(), entry), end; each != end; ++each)
    inManual.insert(std::regex_replace((*each)[1].str(), std::regex("\\\\"), ""));
  CHECK(inHelp.size() >= 35);
  CHECK(inHelp == inManual);
}

TEST_CASE("tool: check says what was recovered, once") {
  const Desk desk;
  tool(desk.at("add", "--track Viola " + desk.file("t1.wav")));
  writeWave(desk.folder / "s" / "audio" / "cut.wav",
            {Samples(desk.takes[1].begin(), desk.takes[1].begin() + 72000)});
  {
    const SessionFolder folder = SessionFolder::open(desk.folder / "s", SessionFolder::Access::Read);
    RecordSetup setup;
    setup.timeline.stopAt = Frames{96000};
    RecordingNote(folder.disk())
        .write(folder.session(), setup,
               {{folder.session().tracks.front()->id, {{"audio/cut.wav", 1, {}}}, std::nullopt}});
  }
  const std::string first = tool(desk.at("check"));
  CHECK_THAT(first,
             Catch::Contains("A recording that was cut off was recovered: 0:01.500 of it are in new lanes."));
  const json track = show(desk.folder / "s")["tracks"][0];
  REQUIRE(track["lanes"].size() == 2);
  CHECK(track["lanes"][1]["clips"][0]["windowEnd"] == 72000);
  CHECK_THAT(tool(desk.at("check")), !Catch::Contains("recovered") && Catch::Contains("whole"));
  CHECK(tool(desk.at("undo")) == "Undone: Recover recording\n");
}
