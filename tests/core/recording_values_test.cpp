// SPDX-License-Identifier: GPL-3.0-or-later
//
// The values behind recording: lengths in bars, the timeline with its count-in, spans, lanes, phrases.
#include <nlohmann/json.hpp>
#include "core/core_tests.h"

namespace {

class Random {
 public:
  explicit Random(unsigned seed) : engine_(seed) {}
  int operator()(int low, int high) { return std::uniform_int_distribution(low, high)(engine_); }

 private:
  std::mt19937 engine_;
};

}  // namespace

TEST_CASE("Lengths are read and said as people write them") {
  CHECK(parseMusicalLength("2bars") == MusicalLength{2.0, LengthUnit::Bars});
  CHECK(parseMusicalLength("1bar") == MusicalLength{1.0, LengthUnit::Bars});
  CHECK(parseMusicalLength("1.5s") == MusicalLength{1.5, LengthUnit::Seconds});
  CHECK(parseMusicalLength("250ms") == MusicalLength{0.25, LengthUnit::Seconds});
  CHECK(lengthText({1.0, LengthUnit::Bars}).english() == "1 bar");
  CHECK(lengthText({0.5, LengthUnit::Seconds}).english() == "0.5 seconds");
  CHECK(parseMusicalLength("0s") == MusicalLength{0.0, LengthUnit::Seconds});
  CHECK(parseMusicalLength("1000bars") == MusicalLength{1000.0, LengthUnit::Bars});
  for (const char* bad : {"1001bars", "", "bars", "-1s", "two bars", "1e9s", "nan", "3 f"})
    CHECK_THROWS_AS(parseMusicalLength(bad), Error);
}

TEST_CASE("Going on from a place keeps what is left of the loop, and goes round from its end on") {
  RollTimeline timeline;
  timeline.start = {100};
  CHECK(goingOnFrom(timeline, {9000}).start == Frames{9000});
  timeline.loop = Span{{300}, {700}};
  CHECK(goingOnFrom(timeline, {50}).start == Frames{50});
  CHECK(goingOnFrom(timeline, {699}).start == Frames{699});
  CHECK(goingOnFrom(timeline, {700}).start == Frames{300});
  CHECK(goingOnFrom(timeline, {9000}).start == Frames{300});
}

TEST_CASE("What a recording may be asked for is checked to the frame") {
  const auto refused = [](auto change) {
    RecordSetup setup;
    setup.timeline.start = {100};
    setup.recordFrom = {200};
    change(setup);
    try {
      setup.check();
      return false;
    } catch (const Error&) {
      return true;
    }
  };
  using Setup = RecordSetup;
  CHECK_FALSE(refused([](Setup&) {}));
  for (const auto& [start, no] : {std::pair{-1, true}, {0, false}, {200, false}, {201, true}})
    CHECK(refused([start = start](Setup& s) { s.timeline.start = {start}; }) == no);
  for (const auto& [trip, no] : {std::pair{-1, true}, {0, false}})
    CHECK(refused([trip = trip](Setup& s) { s.roundTrip = {trip}; }) == no);
  for (const auto& [stop, no] : {std::pair{199, true}, {200, true}, {201, false}})
    CHECK(refused([stop = stop](Setup& s) { s.timeline.stopAt = Frames{stop}; }) == no);
  for (const auto& [length, no] : {std::pair{shortestLoop.count - 1, true}, {shortestLoop.count, false}})
    CHECK(refused([length = length](Setup& s) { s.timeline.loop = Span{{200}, {200 + length}}; }) == no);
  for (const auto& [end, no] : {std::pair{200, true}, {201, false}})
    CHECK(refused([end = end](Setup& s) { s.timeline.loop = Span{{100}, {end}}; }) == no);
  const auto punched = [&](std::vector<Span> punches, bool loop) {
    return refused([&](Setup& s) {
      s.punches = punches;
      if (loop)
        s.timeline.loop = Span{{150}, {500}};
      else
        s.timeline.stopAt = Frames{500};
    });
  };
  for (const bool loop : {false, true}) {
    INFO("loop " << loop);
    CHECK_FALSE(punched({{{300}, {301}}}, loop));
    CHECK(punched({{{300}, {300}}}, loop));
    CHECK_FALSE(punched({{{300}, {400}}, {{400}, {450}}}, loop));
    CHECK(punched({{{300}, {400}}, {{399}, {450}}}, loop));
    CHECK_FALSE(punched({{{499}, {600}}}, loop));
    CHECK(punched({{{500}, {600}}}, loop));
  }
  // What lies before the first record is only reached by going round.
  CHECK(punched({{{160}, {200}}}, false));
  CHECK_FALSE(punched({{{160}, {201}}}, false));
  CHECK_FALSE(punched({{{160}, {200}}}, true));
  CHECK(punched({{{100}, {150}}}, true));
}

TEST_CASE("What is audible frame by frame is what the windows of the passes say") {
  Random number(6);
  for (int trial = 0; trial < 120; ++trial) {
    RecordSetup setup;
    setup.timeline.start = {number(0, 200)};
    setup.timeline.countIn = {number(0, 1) * number(1, 150)};
    setup.timeline.postRoll = {number(0, 1) * number(1, 90)};
    setup.recordFrom = {number(200, 400)};
    if (number(0, 1) == 1) {
      setup.timeline.loop = Span{{300}, {300 + number(150, 400)}};
      setup.timeline.passes = number(1, 4);
      setup.playBack = number(0, 1) == 1;
      setup.recordFrom = {300};
    } else {
      setup.timeline.stopAt = Frames{number(500, 900)};
    }
    const Frames end = setup.timeline.loop ? setup.timeline.loop->end : *setup.timeline.stopAt;
    if (number(0, 1) == 1) setup.punches = {{{410}, {430}}, {{435}, {end.count + number(-20, 50)}}};
    setup.roundTrip = {number(0, 500)};
    REQUIRE_NOTHROW(setup.check());
    const Frames total = *setup.timeline.totalLength();
    std::vector<std::pair<int, std::int64_t>> heard;  // round and position of every audible frame
    for (Frames at{}; at < total;) {
      RollTimeline::Run run = setup.timeline.runAt(at);
      const Audible audible = audibleAt(setup, run);
      const Frames n = std::min(audible.length, total - at);
      REQUIRE(n.count > 0);
      for (std::int64_t i = 0; audible.audible && i < n.count; ++i)
        heard.emplace_back(run.round, run.position.count + i);
      at += n;
    }
    std::vector<std::pair<int, std::int64_t>> windows;
    for (const PassWindow& pass : passWindows(setup, total + setup.roundTrip))
      for (Frames at = pass.window.start; at < pass.window.end; at += Frames{1})
        windows.emplace_back(pass.round, at.count);
    REQUIRE(heard == windows);
    // And what the ruler draws of the first time round covers the roll without a gap.
    Frames reached = setup.timeline.start;
    for (const PlannedStretch& stretch : firstTimeRound(setup)) {
      REQUIRE(stretch.span.start == reached);
      reached = stretch.span.end;
    }
    CHECK(reached == end + setup.timeline.postRoll);
  }
}

TEST_CASE("Punch spans added at random never overlap and cover what was drawn") {
  Random number(8);
  for (int trial = 0; trial < 200; ++trial) {
    Session session;
    std::vector<bool> drawn(500, false);
    for (int step = 0; step < 10; ++step) {
      const int from = number(0, 480);
      const Span span{{from}, {number(from + 1, 499)}};
      session = addPunch(session, span);
      std::fill(drawn.begin() + span.start.count, drawn.begin() + span.end.count, true);
      checkInvariants(session);
      for (int frame = 0; frame < 500; ++frame) {
        const bool covered = std::any_of(session.punches.begin(), session.punches.end(),
                                         [frame](const Punch& p) { return p.span().contains({frame}); });
        REQUIRE(covered == drawn[static_cast<std::size_t>(frame)]);
      }
    }
  }
}
