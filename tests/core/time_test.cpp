// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/core_tests.h"

#include "core/time/position_text.h"
#include "core/time/roll_timeline.h"

namespace {
Ruler rulerOf(double bpm, Meter meter, int rate = 48000) {
  return {{rate}, TempoMap({{1, bpm, meter}})};
}

/// Every beat of the first bars, and of some before the song, summed up one after the other.
struct Line {
  MusicalPosition is;
  double seconds = 0.0;
  double length = 0.0;  // to the next one
};
std::vector<Line> linesOf(const TempoMap& map, int lastBar) {
  const auto changeAt = [&](int bar) {
    TempoChange holds = map.changes().front();
    for (const TempoChange& change : map.changes())
      if (change.bar <= bar) holds = change;
    return holds;
  };
  constexpr int barsBefore = 8;
  const TempoChange& first = map.changes().front();
  std::vector<Line> lines;
  double seconds = -barsBefore * first.meter.beats * 60.0 / first.beatsPerMinute;
  for (int bar = 1 - barsBefore; bar <= lastBar; ++bar)
    for (int beat = 1; beat <= changeAt(bar).meter.beats; ++beat) {
      lines.push_back({{bar, static_cast<double>(beat)}, seconds, 60.0 / changeAt(bar).beatsPerMinute});
      seconds += lines.back().length;
    }
  return lines;
}

struct Draw {
  std::mt19937 random;
  int below(int most) { return std::uniform_int_distribution(0, most - 1)(random); }
};

TempoMap mapOf(Draw& draw, int mostChanges) {
  std::vector<TempoChange> changes;
  int bar = 1;
  for (int i = 1 + draw.below(mostChanges); i > 0; --i) {
    changes.push_back({bar, 0.1 * (300 + draw.below(3000)), {1 + draw.below(12), 1 << draw.below(5)}});
    bar += 1 + draw.below(5);
  }
  return TempoMap(changes);
}

/// Frames that one can expect to be the same may have been rounded from sums that differ by a hair.
bool same(Frames a, Frames b) {
  return std::abs((a - b).count) <= 1;
}

}  // namespace

TEST_CASE("Bars, beats and what is nearest to a place are those of a plain list of beats") {
  Draw draw{std::mt19937(3)};
  for (int trial = 0; trial < 300; ++trial) {
    const SampleRate rate{std::uniform_int_distribution(44100, 192000)(draw.random)};
    const TempoMap map = mapOf(draw, trial % 10 == 0 ? 300 : 4);
    const std::vector<Line> lines = linesOf(map, map.changes().back().bar + 12);
    const auto frameOf = [&](const Line& line) { return framesFromSeconds(line.seconds, rate); };
    const auto barLine = [&](int bar) {
      return *std::ranges::find(lines, MusicalPosition{bar, 1.0}, &Line::is);
    };
    const auto beatsOf = [&](int bar) { return map.changeAt(bar).meter.beats; };
    for (int i = 0; i < 40; ++i) {
      // A line with bars on either side of it, and a place after it, or right there, or a frame before.
      const std::size_t from =
          lines.size() / 4 + static_cast<std::size_t>(draw.below(static_cast<int>(lines.size() / 4)));
      const Line& line = lines[from];
      const Frames here = frameOf(line);
      const Frames next = frameOf(lines[from + 1]);
      const Frames at =
          here + Frames{draw.below(3) == 0 ? 0 : draw.below(static_cast<int>((next - here).count))};
      INFO("bar " << line.is.bar << ", beat " << line.is.beat << ", frame " << at.count << " of "
                  << here.count << " to " << next.count << " at " << rate.hertz);
      const MusicalPosition position = map.positionOf(at, rate);
      const double beat = line.is.beat + secondsFromFrames(at - here, rate) / line.length;
      REQUIRE(same(map.frameOf(line.is, rate), here));
      REQUIRE(map.positionOf(map.frameOf(line.is, rate), rate) == line.is);
      REQUIRE(same(map.frameOf(position, rate), at));
      REQUIRE(position.bar == line.is.bar);
      REQUIRE(std::abs(position.beat - beat) <= 1.1 / rate.hertz / line.length);
      const auto nearer = [&](Frames one, Frames other) { return at - one < other - at ? one : other; };
      const bool between = std::abs((at - here).count - (next - at).count) > 2;  // not half-way
      if (between) REQUIRE(same(map.nearestBeat(at, rate), nearer(here, next)));
      const int offset = draw.below(5) - 2;
      REQUIRE(same(map.barStart(at, rate, offset), frameOf(barLine(line.is.bar + offset))));
      const Frames bar = frameOf(barLine(line.is.bar));
      const Frames nextBar = frameOf(barLine(line.is.bar + 1));
      if (std::abs((at - bar).count - (nextBar - at).count) > 2)
        REQUIRE(same(map.nearestBar(at, rate), nearer(bar, nextBar)));
      const int parts = 2 + draw.below(6);
      const double part = std::round((beat - line.is.beat) * parts) / parts;
      if (std::abs(std::fmod((beat - line.is.beat) * parts, 1.0) - 0.5) > 0.01)
        REQUIRE(same(map.nearestDivision(at, parts, rate),
                     framesFromSeconds(line.seconds + part * line.length, rate)));
      const TempoMap::Beat found = map.beatFrom(at, rate);
      const Line& begins = at == here ? line : lines[from + 1];
      if (at == map.frameOf(line.is, rate) || at > here) {
        REQUIRE(same(found.at, frameOf(begins)));
        REQUIRE(found.first == (begins.is.beat == 1.0));
      }
      const double bars = 0.25 * (draw.below(17) - 8);
      const double there = line.is.bar + (beat - 1.0) / beatsOf(line.is.bar) + bars;
      const int thereBar = static_cast<int>(std::floor(there + 1e-9));
      const Line& start = barLine(thereBar);
      const double intoBar = std::max(0.0, there - thereBar) * beatsOf(thereBar) * start.length;
      REQUIRE(std::abs((map.shiftedByBars(at, bars, rate) - framesFromSeconds(start.seconds + intoBar, rate))
                           .count) <= 2 + 2 * beatsOf(thereBar));
      REQUIRE(same(map.lengthOfBars(std::abs(bars), at, rate),
                   framesFromSeconds(std::abs(bars) * beatsOf(line.is.bar) * line.length, rate)));
    }
  }
}

TEST_CASE("A roll goes where its description says, frame by frame") {
  Draw draw{std::mt19937(5)};
  for (int trial = 0; trial < 300; ++trial) {
    const auto some = [&](int least, int most) { return Frames{least + draw.below(most - least)}; };
    RollTimeline roll;
    roll.start = some(0, 300);
    const int kind = draw.below(3);
    if (kind == 0) {
      const Frames end = roll.start + some(64, 200);
      roll.loop = Span{end - some(64, 200), end};
      roll.passes = draw.below(4);
    } else if (kind == 1) {
      roll.stopAt = roll.start + some(0, 200);
    }
    roll.postRoll = some(0, 50);
    roll.countIn = some(0, 50);
    // The plain way: one frame after the other.
    Frames position = roll.start - roll.countIn;
    Frames left = roll.postRoll;
    int round = 1;
    bool jumped = true;
    std::vector<RollTimeline::Run> runs;
    std::vector<std::int64_t> rounds{roll.countIn.count};
    for (std::int64_t frame = 0; frame < 1000; ++frame) {
      const bool counting = frame < roll.countIn.count;
      if (!counting && roll.loop && position == roll.loop->end && (roll.passes == 0 || round < roll.passes)) {
        position = roll.loop->start;
        ++round;
        jumped = true;
        rounds.push_back(frame);
      }
      const bool over = roll.loop ? position >= roll.loop->end : roll.stopAt && position >= *roll.stopAt;
      if (!counting && over && (left -= Frames{1}) < Frames{}) break;
      runs.push_back({position, {}, round, std::exchange(jumped, false), counting});
      position += Frames{1};
    }
    const bool ends = (roll.loop && roll.passes > 0) || roll.stopAt;
    CHECK(roll.totalLength() == (ends ? std::optional(Frames{std::ssize(runs)}) : std::nullopt));
    for (std::int64_t frame = 0; frame < std::ssize(runs); ++frame) {
      const RollTimeline::Run& plain = runs[static_cast<std::size_t>(frame)];
      const RollTimeline::Run run = roll.runAt({frame});
      INFO("frame " << frame << " of " << runs.size());
      REQUIRE(run.position == plain.position);
      REQUIRE(run.round == plain.round);
      REQUIRE(run.counting == plain.counting);
      REQUIRE(run.length > Frames{});
      // Up to there it runs without a jump.
      const std::int64_t last = std::min(frame + run.length.count, std::ssize(runs)) - 1;
      REQUIRE(runs[static_cast<std::size_t>(last)].position - plain.position == Frames{last - frame});
      // Where it stops right at its start there is only post-roll.
      if (frame >= roll.countIn.count && roll.stopAt != roll.start) {
        const auto passes = roll.passesWithin({frame + 1});
        REQUIRE(static_cast<int>(passes.size()) == plain.round);
        REQUIRE(passes.back().rollStart.count == rounds[static_cast<std::size_t>(plain.round - 1)]);
      }
    }
    if (ends) CHECK(roll.runAt({std::ssize(runs)}).length == Frames{});
    if (roll.loop)
      for (std::size_t i = 0; i < rounds.size(); ++i)
        CHECK(roll.roundStart(static_cast<int>(i) + 1) == Frames{rounds[i]});
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

TEST_CASE("Positions are shown in tabular text that reads back") {
  const Ruler ruler = rulerOf(96, {3, 4});
  CHECK(barBeatText(Frames{0}, ruler) == "1|1");
  CHECK(barBeatText(parsePosition("12|3", ruler), ruler) == "12|3");
  CHECK(barBeatText(parsePosition("2|1.5", ruler), ruler) == "2|1.50");
  CHECK(clockText(Frames{48000 * 62 + 16560}, {48000}) == "1:02.345");
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
