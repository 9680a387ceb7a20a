// SPDX-License-Identifier: GPL-3.0-or-later
#include <array>
#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "core/edit/plan_recording.h"
#include "core/error.h"
#include "core/time/position_text.h"
#include "core/time/roll_timeline.h"

using namespace yewdrift;

namespace {
Ruler rulerOf(double bpm, Meter meter, int rate = 48000) {
  return {{rate}, TempoMap({{1, bpm, meter}})};
}
}  // namespace

TEST_CASE("At 100 bpm in 3/4 a bar lasts 1.8 s") {
  // Common practice: 3 beats of 0.6 s; 86,400 frames at 48 kHz.
  const Ruler ruler = rulerOf(100, {3, 4});
  CHECK(ruler.tempo.frameOf({2, 1.0}, ruler.rate) == Frames{86400});
  CHECK(parseDuration("1bar", ruler, {}) == Frames{86400});
  CHECK(parsePosition("3|1", ruler) == Frames{172800});
  CHECK(parsePosition("1|2", ruler) == Frames{28800});
}

TEST_CASE("A tempo change takes effect at its bar and not before") {
  // 120 bpm 4/4: bars of 2 s; from bar 3 on 60 bpm 3/4: bars of 3 s (common practice).
  const Ruler ruler{{48000}, TempoMap({{1, 120, {4, 4}}, {3, 60, {3, 4}}})};
  CHECK(parsePosition("3|1", ruler) == Frames{4 * 48000});
  CHECK(parsePosition("4|1", ruler) == Frames{7 * 48000});
  CHECK(ruler.tempo.positionOf(Frames{5 * 48000}, ruler.rate) == MusicalPosition{3, 2.0});
  CHECK(parseDuration("1bar", ruler, {}) == Frames{2 * 48000});
  CHECK(parseDuration("2bars", ruler, Frames{5 * 48000}) == Frames{6 * 48000});
}

TEST_CASE("Every bar and beat is found again from its frame, at any tempo and rate") {
  std::mt19937 random(3);
  for (int trial = 0; trial < 200; ++trial) {
    const int beats = std::uniform_int_distribution(1, 12)(random);
    const int rate = std::uniform_int_distribution(44100, 192000)(random);
    const int changeBar = std::uniform_int_distribution(2, 60)(random);
    const TempoMap map({{1, std::uniform_real_distribution(20.0, 400.0)(random), {beats, 4}},
                        {changeBar, std::uniform_real_distribution(20.0, 400.0)(random), {5, 8}}});
    for (int bar = 1; bar < 120; bar += 7)
      for (int beat = 1; beat <= map.changeAt(bar).meter.beats; ++beat) {
        const MusicalPosition at{bar, static_cast<double>(beat)};
        const MusicalPosition found = map.positionOf(map.frameOf(at, {rate}), {rate});
        REQUIRE(found == at);
      }
  }
}

TEST_CASE("Positions are read as headless.md writes them, and nothing else is") {
  const Ruler ruler = rulerOf(120, {4, 4});
  CHECK(parsePosition("123456f", ruler) == Frames{123456});
  CHECK(parsePosition("2.5s", ruler) == Frames{120000});
  CHECK(parsePosition("5|1", ruler) == Frames{4 * 96000});
  CHECK(parsePosition("1|1.5", ruler) == Frames{12000});
  CHECK(parsePosition("4398046511104f", ruler) == maximumPosition);
  CHECK_THROWS_WITH(parsePosition("2147483647|1", ruler), Catch::Contains("beyond the longest session"));
  for (const char* bad : {"",
                          "f",
                          "s",
                          "-5f",
                          "-1s",
                          "1.5f",
                          "12",
                          "abc",
                          "1e400s",
                          "nans",
                          "infs",
                          "5|",
                          "|1",
                          "0|1",
                          "1|0",
                          "1|5",
                          "1|-1",
                          "5 f",
                          "9007199254740993f",
                          "99999999999999999999999f",
                          "1e99s",
                          "999999999|1"})
    CHECK_THROWS_AS(parsePosition(bad, ruler), Error);
  CHECK(parseSpan("1|1..3|1", ruler) == Span{{}, {192000}});
  for (const char* bad : {"5f", "5f..5f", "9f..5f", "..", "1f..", "..5f", "1f...5f"})
    CHECK_THROWS_AS(parseSpan(bad, ruler), Error);
  CHECK(parseDuration("10ms", ruler, {}) == Frames{480});
}

TEST_CASE("Positions are shown in tabular text that reads back") {
  const Ruler ruler = rulerOf(96, {3, 4});
  CHECK(barBeatText(Frames{0}, ruler) == "1|1");
  CHECK(barBeatText(parsePosition("12|3", ruler), ruler) == "12|3");
  CHECK(barBeatText(parsePosition("2|1.5", ruler), ruler) == "2|1.50");
  CHECK(clockText(Frames{48000 * 62 + 16560}, {48000}) == "1:02.345");
}

TEST_CASE("In x/8 a beat is an eighth: six of them make a bar of 6/8") {
  // The tempo counts beats, whatever note they are: at 180 eighths a minute a bar of 6/8 lasts 2 s (common
  // practice).
  const Ruler ruler = rulerOf(180, {6, 8});
  CHECK(parsePosition("2|1", ruler) == Frames{96000});
  CHECK(parsePosition("1|6", ruler) == Frames{80000});
  CHECK_THROWS_WITH(parsePosition("1|7", ruler), Catch::Contains("has 6 beats"));
  CHECK(parseDuration("2bars", ruler, {}) == Frames{192000});
  CHECK_NOTHROW(TempoMap({{1, 1000.0, {4, 4}}}));
  CHECK_NOTHROW(TempoMap({{1, 10.0, {64, 32}}}));
  CHECK_THROWS_AS(TempoMap({{1, 1000.1, {4, 4}}}), Error);
  CHECK_THROWS_AS(TempoMap({{1, 9.9, {4, 4}}}), Error);
  CHECK_THROWS_AS(TempoMap({{1, 120.0, {65, 4}}}), Error);
  CHECK_THROWS_AS(TempoMap({{1, 120.0, {0, 4}}}), Error);
  CHECK(parseDuration("1000000bars", ruler, {}) == Frames{96000} * 1'000'000);
  CHECK_THROWS_AS(parseDuration("1000001bars", ruler, {}), Error);
  CHECK(barBeatText({80000}, ruler) == "1|6");
  CHECK(barBeatText({88000}, ruler) == "1|6.50");
  CHECK(barBeatText({96000}, ruler) == "2|1");
  CHECK(parseMeter("6/8") == Meter{6, 8});
  CHECK(parseMeter("64/32") == Meter{64, 32});
  for (const char* bad : {"65/4", "0/4", "4/64", "4/0", "4", "/4", "4/", "4/4/4", "x/4", "-3/4", "3.5/4"})
    CHECK_THROWS_AS(parseMeter(bad), Error);
}

TEST_CASE("Behind a bar's last beat the next line is the next bar's first, in its own tempo") {
  // 120 bpm in 4/4, then from bar 2 on 60 bpm in 3/8: beats of 24,000 and 48,000 frames.
  const TempoMap map({{1, 120.0, {4, 4}}, {2, 60.0, {3, 8}}});
  const SampleRate rate{48000};
  for (const auto& [at, beat, bar, half] : std::vector<std::array<std::int64_t, 4>>{
           {0, 0, 0, 0},
           {11999, 0, 0, 12000},
           {12000, 24000, 0, 12000},
           {47999, 48000, 0, 48000},
           {48000, 48000, 96000, 48000},
           {83999, 72000, 96000, 84000},
           {84001, 96000, 96000, 84000},
           {95000, 96000, 96000, 96000},
           {96000, 96000, 96000, 96000},
           {119999, 96000, 96000, 120000},
           {120001, 144000, 96000, 120000},
           {215999, 192000, 240000, 216000},
           {216001, 240000, 240000, 216000},
           {239000, 240000, 240000, 240000},
       }) {
    INFO("at " << at);
    CHECK(map.nearestBeat({at}, rate) == Frames{beat});
    CHECK(map.nearestBar({at}, rate) == Frames{bar});
    CHECK(map.nearestDivision({at}, 2, rate) == Frames{half});
  }
}

TEST_CASE("Times are said in minutes, seconds and thousandths, before the start too") {
  const SampleRate rate{48000};
  CHECK(clockText({0}, rate) == "0:00.000");
  CHECK(clockText({47}, rate) == "0:00.000");
  CHECK(clockText({48}, rate) == "0:00.001");
  CHECK(clockText({48000 * 59 + 47999}, rate) == "0:59.999");
  CHECK(clockText({48000 * 60}, rate) == "1:00.000");
  CHECK(clockText({std::int64_t{48000} * 60 * 75}, rate) == "75:00.000");
  CHECK(clockText({-24000}, rate) == "-0:00.500");
  CHECK(clockText({-48000 * 61}, rate) == "-1:01.000");
  const Ruler ruler = rulerOf(96, {3, 4});  // a beat lasts 30,000 frames
  CHECK(barBeatText({29999}, ruler) == "1|1.99");
  CHECK(barBeatText({30000}, ruler) == "1|2");
  CHECK(barBeatText({30300}, ruler) == "1|2.01");
  CHECK(barBeatText({89999}, ruler) == "1|3.99");
  CHECK(barBeatText({90000}, ruler) == "2|1");
  CHECK(barBeatText({-30000}, ruler) == "0|3");
}

TEST_CASE("Impossible tempos and meters are refused") {
  CHECK_THROWS_AS(TempoMap({{1, 0, {4, 4}}}), Error);
  CHECK_THROWS_AS(TempoMap({{1, 120, {0, 4}}}), Error);
  CHECK_THROWS_AS(TempoMap({{1, 120, {4, 3}}}), Error);
  CHECK_THROWS_AS(TempoMap({{2, 120, {4, 4}}}), Error);
  CHECK_THROWS_AS(TempoMap({{1, 120, {4, 4}}, {1, 100, {4, 4}}}), Error);
}

TEST_CASE("A map of a thousand tempo changes finds every bar, and its beats, as summing them up does") {
  const SampleRate rate{48000};
  std::vector<TempoChange> changes;
  for (int i = 0; i < 1000; ++i)
    changes.push_back({1 + 2 * i, 90.0 + 0.7 * (i % 50), {2 + i % 6, i % 2 == 0 ? 4 : 8}});
  const TempoMap map(changes);
  double seconds = 0.0;
  for (int i = 0; i < 1000; ++i) {
    const TempoChange& change = changes[static_cast<std::size_t>(i)];
    const double beat = 60.0 / change.beatsPerMinute;
    for (int bar = change.bar; bar < change.bar + 2; ++bar) {
      const Frames line = framesFromSeconds(seconds, rate);
      REQUIRE(std::abs((map.frameOf({bar, 1.0}, rate) - line).count) <= 1);
      REQUIRE(map.positionOf(map.frameOf({bar, 1.0}, rate), rate) == MusicalPosition{bar, 1.0});
      REQUIRE(map.changeAt(bar) == change);
      const Frames second = framesFromSeconds(seconds + beat, rate);
      REQUIRE(std::abs((map.beatFrom(line + Frames{2}, rate).at - second).count) <= 1);
      seconds += change.meter.beats * beat;
    }
  }
  CHECK(map.changeAt(-5) == changes.front());
  CHECK(map.frameOf({0, 1.0}, rate) == -framesFromSeconds(2.0 * 60.0 / 90.0, rate));
}

TEST_CASE("A count-in lasts as many bars of the tempo it leads into, whatever follows") {
  const SampleRate rate{48000};
  // 120 bpm, and from bar 3 on 60: two bars before bar 2 are 4 s (common practice).
  const TempoMap map({{1, 120.0, {4, 4}}, {3, 60.0, {4, 4}}});
  CHECK(map.lengthOfBars(2, map.frameOf({2, 1.0}, rate), rate) == Frames{192000});
  CHECK(map.lengthOfBars(2, map.frameOf({2, 4.9}, rate), rate) == Frames{192000});
  CHECK(map.lengthOfBars(2, map.frameOf({3, 1.0}, rate), rate) == Frames{384000});
  CHECK(map.lengthOfBars(0, {}, rate) == Frames{});
  Session session;
  session.tempo = map;
  session.recording.loop = false;
  session.recording.preRoll = {};
  session.recording.countInBars = 2;
  CHECK(planRecording(session, {map.frameOf({2, 1.0}, rate), {}}).timeline.countIn == Frames{192000});
}

TEST_CASE("A roll goes where its description says, frame by frame") {
  // The plain way to go round a loop, one frame at a time, against the arithmetic.
  for (const auto& [start, loopStart, loopEnd, passes, postRoll] :
       {std::tuple{0, 100, 164, 3, 10}, {130, 100, 164, 1, 0}, {0, 0, 77, 4, 90}, {50, 10, 74, 0, 0}}) {
    const RollTimeline timeline{{start}, Span{{loopStart}, {loopEnd}}, passes, std::nullopt, {postRoll}};
    std::int64_t position = start;
    int round = 1;
    const std::int64_t total = timeline.totalLength() ? timeline.totalLength()->count : 1000;
    for (std::int64_t frame = 0; frame < total; ++frame) {
      const auto run = timeline.runAt({frame});
      REQUIRE(run.position.count == position);
      REQUIRE(run.round == round);
      REQUIRE(run.length.count > 0);
      REQUIRE(static_cast<int>(timeline.passesWithin({frame + 1}).size()) == round);
      ++position;
      if (position == loopEnd && (passes == 0 || round < passes)) {
        position = loopStart;
        ++round;
      }
    }
    if (passes > 0) {
      CHECK(timeline.runAt({total}).length.count == 0);
      CHECK(static_cast<int>(timeline.passesWithin({total}).size()) == passes);
    }
  }
}
