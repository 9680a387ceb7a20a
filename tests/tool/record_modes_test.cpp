// SPDX-License-Identifier: GPL-3.0-or-later
//
// Every way to record, through the command line of the headless companion.
#include <nlohmann/json.hpp>
#include "tool/tool_tests.h"

using nlohmann::json;

namespace {

struct Recording {
  Recording() {
    writeWave(folder / "p.wav", {performance});
    writeWave(folder / "short.wav", {Samples(performance.begin(), performance.begin() + 48000)});
    writeWave(folder / "silent.wav", {Samples(100, 0.0F)});
    s = (folder / "s").string();
    tool("new " + s + " --tempo 240");  // a bar is a second
  }
  std::string record(const std::string& rest, const std::string& files = "p") {
    std::string named;
    for (std::size_t at = 0; at < files.size();) {
      const std::size_t end = std::min(files.find(' ', at), files.size());
      named += " " + (folder / (files.substr(at, end - at) + ".wav")).string();
      at = end + 1;
    }
    return tool("record " + s + " --track Viola --performance" + named + " --round-trip 777 " + rest);
  }
  json track() { return show(s)["tracks"][0]; }
  json lane(int number) {
    const json shown = track();
    for (const json& lane : shown["lanes"])
      if (lane["number"] == number) return lane;
    FAIL("no lane " << number);
    return {};
  }
  Samples heard(const std::string& span) {
    tool("render " + s + " --track Viola --span " + span + " --out " + (folder / "out.wav").string());
    return readWave(folder / "out.wav").front();
  }
  TemporaryFolder folder;
  Samples performance = noise(480000, 1);
  std::string s;
};

Samples part(const Samples& whole, std::int64_t from, std::int64_t to) {
  return {whole.begin() + from, whole.begin() + to};
}

}  // namespace

TEST_CASE("tool: punched by hand, by span with open ends, with a count-in") {
  Recording r;
  r.record("--from 0f --to 6s --block 480 --hand-punch 1s..2s --hand-punch 4s..5s");
  json lane = r.lane(1);
  REQUIRE(lane["clips"].size() == 2);
  CHECK(lane["clips"][0]["windowStart"] == 48000);  // 480 divides a second
  CHECK(lane["clips"][1]["windowEnd"] == 240000);
  CHECK((r.heard("48000f..96000f") == part(r.performance, 48000, 96000)));
  // A punched edge pulled out: it was all captured.
  tool("window " + r.s + " --track Viola --lane 1 --span 0.5s..2s");
  CHECK((r.heard("24000f..96000f") == part(r.performance, 24000, 96000)));

  r.record("--from 0f --to 5s --punch 3s..");
  CHECK(r.lane(2)["clips"][0]["windowStart"] == 144000);
  CHECK(r.lane(2)["clips"][0]["windowEnd"] == 240000);
  r.record("--from 1s --to 5s --punch ..2s --performance-at 0f");
  CHECK(r.lane(3)["clips"][0]["windowStart"] == 48000);
  CHECK(r.lane(3)["clips"][0]["windowEnd"] == 96000);
  r.record("--from '2|1' --to '4|1' --count-in 2 --pre-roll 1bar --post-roll 1bar --performance-at 0f");
  lane = r.lane(4);
  CHECK(lane["clips"][0]["windowStart"] == 48000);
  CHECK(lane["clips"][0]["start"].get<int>() <= -96000);  // two bars of count-in before the pre-roll
  CHECK(lane["clips"][0]["end"].get<int>() == 192000 + 4 * 48000);  // and what follows the post-roll
  // Between the crossfades to the takes on either side.
  CHECK((r.heard("49000f..143000f") == part(r.performance, 49000, 143000)));
}

TEST_CASE("tool: spans, tempo, tracks and options are set, and the plan says what they mean") {
  Recording r;
  tool("track " + r.s + " --track Drum --make --channels 3");
  tool("track " + r.s + " --track Drum --microphone 2 --input 7 --monitor automatic --arm");
  json track = show(r.s)["tracks"][0];
  CHECK(track["microphones"][1]["input"] == 6);
  CHECK(track["monitoring"] == "automatic");
  CHECK(track["armed"] == true);
  tool("loop " + r.s + " --span '5|1..7|1' --lead 1 --tail 2");
  CHECK(show(r.s)["loop"]["start"] == 3 * 48000);
  CHECK(show(r.s)["loop"]["end"] == 8 * 48000);
  tool("punch " + r.s + " --add '5|1..6|1' --add '7|1..8|1'");
  tool("options " + r.s + " --pre-roll 2bars --passes 3 --post-roll 1bar --count-in 1");
  CHECK(tool("plan " + r.s + " --playhead '9|1'") ==
        "Counts in 1 bar. Plays from 3 bars before. Records Drum in bar 5 and bar 7, going round bars 4 to "
        "8. Each "
        "time round makes a new lane. Earlier takes are hushed there. Goes round 3 times, and stops after 1 "
        "bar "
        "more.\n");
  tool("punch " + r.s + " --none --in '6|1'");
  CHECK(show(r.s)["punches"][0]["end"].is_null());
  tool("punch " + r.s + " --out '7|1'");
  CHECK(show(r.s)["punches"][0]["end"] == 6 * 48000);
  tool("tempo " + r.s + " --bar 3 --bpm 120 --meter 3/4");
  CHECK(show(r.s)["tempo"].size() == 2);
  tool("tempo " + r.s + " --bar 3 --remove");
  CHECK(show(r.s)["tempo"].size() == 1);
  tool("loop " + r.s + " --none");
  CHECK(show(r.s)["loop"].is_null());
  // Undo goes back over edits; options stay as they are.
  tool("undo " + r.s);
  CHECK(show(r.s)["loop"]["start"] == 3 * 48000);
  CHECK_THAT(tool("plan " + r.s), Catch::StartsWith("Counts in 1 bar"));
  CHECK_THAT(r.record("--from 1s --to 2s --pre-roll 1bar --dry-run"),
             Catch::StartsWith("Plays from 1 bar before. Records Viola over bar 2."));
  CHECK(show(r.s)["tracks"].size() == 1);
}
