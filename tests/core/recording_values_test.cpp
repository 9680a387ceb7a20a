// SPDX-License-Identifier: GPL-3.0-or-later
//
// The values behind recording: lengths in bars, the timeline with its count-in, spans, lanes, phrases.
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>
#include <random>

#include "core/edit/describe_recording.h"
#include "core/edit/edit.h"
#include "core/edit/history.h"
#include "core/edit/plan_recording.h"
#include "core/error.h"
#include "core/session/resolved_composite.h"
#include "core/store/session_json.h"
#include "support.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

class Random {
 public:
  explicit Random(unsigned seed) : engine_(seed) {}
  int operator()(int low, int high) { return std::uniform_int_distribution(low, high)(engine_); }

 private:
  std::mt19937 engine_;
};

TempoMap randomTempo(Random& number) {
  std::vector<TempoChange> changes{{1, static_cast<double>(number(40, 220)), {number(2, 7), 4}}};
  for (int i = 0; i < number(0, 4); ++i)
    changes.push_back({changes.back().bar + number(1, 6), number(400, 2200) / 10.0, {number(2, 7), 8}});
  return TempoMap(changes);
}

}  // namespace

TEST_CASE("At 100 beats a minute in 3/4 a bar lasts 1.8 s, at any rate, forwards and backwards") {
  // Common practice: 3 beats of 0.6 s.
  for (const int rate : {44100, 48000, 96000, 192000}) {
    const Ruler ruler{{rate}, TempoMap({{1, 100.0, {3, 4}}})};
    const Frames bar = framesFromSeconds(1.8, ruler.rate);
    CHECK(positionBehind({}, {1.0, LengthUnit::Bars}, ruler) == bar);
    CHECK(positionBefore(bar, {1.0, LengthUnit::Bars}, ruler) == Frames{});
    CHECK(positionBefore({}, {2.0, LengthUnit::Bars}, ruler) == -(bar * 2));
    CHECK(positionBehind({}, {1.5, LengthUnit::Seconds}, ruler) == framesFromSeconds(1.5, ruler.rate));
  }
}

TEST_CASE("Bars added and taken away meet again, across any tempo changes") {
  Random number(3);
  for (int trial = 0; trial < 300; ++trial) {
    const TempoMap tempo = randomTempo(number);
    const SampleRate rate{number(0, 1) == 0 ? 44100 : 48000};
    const int bar = number(1, 30);
    const int by = number(1, 12);
    const Frames from = tempo.frameOf({bar, 1.0}, rate);
    const Frames to = tempo.shiftedByBars(from, by, rate);
    CHECK(to == tempo.frameOf({bar + by, 1.0}, rate));
    CHECK(tempo.shiftedByBars(to, -by, rate) == from);
    // One by one is the same as all at once.
    Frames step = from;
    for (int i = 0; i < by; ++i) step = tempo.shiftedByBars(step, 1.0, rate);
    CHECK(step == to);
  }
}

TEST_CASE("The next beat is the line at or behind a frame, whatever the tempo map") {
  Random number(4);
  for (int trial = 0; trial < 60; ++trial) {
    const TempoMap tempo = randomTempo(number);
    const SampleRate rate{48000};
    // All lines, by the book.
    std::vector<TempoMap::Beat> lines;
    for (int bar = 1; bar <= 20; ++bar)
      for (int beat = 1; beat <= tempo.changeAt(bar).meter.beats; ++beat)
        lines.push_back({tempo.frameOf({bar, static_cast<double>(beat)}, rate), beat == 1});
    std::size_t next = 0;
    for (Frames at{}; next + 1 < lines.size(); at += Frames{number(1, 900)}) {
      while (next + 1 < lines.size() && lines[next].at < at) ++next;
      if (next + 1 == lines.size()) break;
      REQUIRE(tempo.beatFrom(at, rate) == lines[next]);
    }
    for (std::size_t i = 0; i + 1 < lines.size(); ++i) {
      REQUIRE(tempo.beatFrom(lines[i].at, rate) == lines[i]);
      REQUIRE(tempo.beatFrom(lines[i].at + Frames{1}, rate) == lines[i + 1]);
      REQUIRE(tempo.nearestBeat(lines[i].at + Frames{3}, rate) == lines[i].at);
    }
  }
}

TEST_CASE("Snapping to bars and to parts of a beat") {
  const TempoMap tempo({{1, 120.0, {4, 4}}});  // a beat is 24000 frames at 48 kHz
  CHECK(tempo.nearestBar({47000}, {48000}) == Frames{0});
  CHECK(tempo.nearestBar({49000}, {48000}) == Frames{96000});
  CHECK(tempo.nearestDivision({13000}, 2, {48000}) == Frames{12000});
  CHECK(tempo.nearestDivision({13000}, 3, {48000}) == Frames{16000});
  CHECK(tempo.nearestDivision({95000}, 4, {48000}) == Frames{96000});
}

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

TEST_CASE("A timeline with a count-in is the same timeline, so much later") {
  Random number(5);
  for (int trial = 0; trial < 200; ++trial) {
    RollTimeline plain;
    plain.start = {number(0, 500)};
    if (number(0, 1) == 1) {
      plain.loop = Span{{600}, {600 + number(64, 300)}};
      plain.passes = number(0, 3);
    } else if (number(0, 1) == 1) {
      plain.stopAt = Frames{number(501, 2000)};
    }
    plain.postRoll = {number(0, 1) * number(1, 99)};
    RollTimeline counted = plain;
    counted.countIn = {number(1, 400)};
    if (plain.totalLength()) CHECK(*counted.totalLength() == *plain.totalLength() + counted.countIn);
    for (Frames at{}; at < Frames{1500}; at += Frames{number(1, 37)}) {
      const RollTimeline::Run a = plain.runAt(at);
      const RollTimeline::Run b = counted.runAt(at + counted.countIn);
      if (a.length.count <= 0) break;
      REQUIRE(a.position == b.position);
      REQUIRE(a.round == b.round);
      REQUIRE(a.length == b.length);
      REQUIRE_FALSE(b.counting);
    }
    const RollTimeline::Run first = counted.runAt({});
    CHECK(first.counting);
    CHECK(first.jumped);
    CHECK_FALSE(counted.runAt(Frames{1}).jumped);
    CHECK(first.position == plain.start - counted.countIn);
    CHECK(first.length == counted.countIn);
    const auto passes = counted.passesWithin({1500});
    const auto same = plain.passesWithin(Frames{1500} - counted.countIn);
    REQUIRE(passes.size() == same.size());
    for (std::size_t i = 0; i < passes.size(); ++i) {
      CHECK(passes[i].session == same[i].session);
      CHECK(passes[i].rollStart == same[i].rollStart + counted.countIn);
      CHECK(passes[i].rollStart == counted.roundStart(passes[i].round));
    }
    // Without a loop there is one round only.
    if (!plain.loop) CHECK(counted.roundStart(3) == counted.countIn);
  }
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

TEST_CASE("A take that is recorded into is said, by its track's name where there are several") {
  RecordSetup setup;
  setup.timeline.stopAt = Frames{96000};
  const Session session;
  const auto said = [&](const std::vector<DescribedTrack>& tracks) {
    return english(describeRecording(setup, tracks, session.ruler()));
  };
  const DescribedTrack viola{"Viola", LaneNumber{3}};
  const DescribedTrack drum{"Drum", {}};
  CHECK_THAT(said({viola}), Catch::Contains("It goes into lane 3."));
  CHECK_THAT(said({drum, viola}), Catch::Contains("It goes into lane 3 of Viola."));
  CHECK_THAT(said({drum}), !Catch::Contains("goes into"));
  setup.timeline.loop = Span{{0}, {96000}};
  CHECK_THAT(said({viola}), Catch::Contains("The last time round goes into lane 3."));
  CHECK_THAT(said({drum, viola}), Catch::Contains("The last time round goes into lane 3 of Viola."));
}

TEST_CASE("What is recorded is said in bars where it begins and ends with one, else from place to place") {
  const auto said = [](std::int64_t from, std::int64_t to) {
    RecordSetup setup;
    setup.recordFrom = {from};
    setup.timeline.start = {from};
    setup.timeline.stopAt = Frames{to};
    return english(describeRecording(setup, {{"Viola", {}}}, Session{}.ruler()));
  };
  CHECK_THAT(said(96000, 288000), Catch::Contains("Records Viola over bars 2 to 3."));
  CHECK_THAT(said(96000, 192000), Catch::Contains("Records Viola over bar 2."));
  CHECK_THAT(said(96000, 240000), Catch::Contains("Records Viola over 2|1 to 3|3."));
  CHECK_THAT(said(120000, 288000), Catch::Contains("Records Viola over 2|2 to 4|1."));
}

TEST_CASE("The way to what is recorded is said where there is one, as a position where it is long") {
  RecordSetup setup;
  setup.recordFrom = {960000};
  const auto said = [&](std::int64_t start) {
    setup.timeline.start = {start};
    return english(describeRecording(setup, {{"Viola", {}}}, Session{}.ruler()));
  };
  CHECK_THAT(said(960000), !Catch::Contains("Plays from"));
  CHECK_THAT(said(959999), Catch::Contains("Plays from") && Catch::Contains("before."));
  CHECK_THAT(said(0), Catch::Contains("Plays from 10 bars before."));  // 20 seconds
  setup.recordFrom = {960001};
  CHECK_THAT(said(0), Catch::Contains("Plays from 1|1."));
  CHECK_THAT(said(960001), Catch::Contains("Goes on until you stop."));
  setup.timeline.loop = Span{{960000}, {1056000}};
  CHECK_THAT(said(960001), Catch::Contains("Goes on until you stop."));
  setup.timeline.passes = 1;
  CHECK_THAT(said(960001), Catch::Contains("Goes round once, then stops."));
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

TEST_CASE("Clips placed in a lane cover what was there and nothing else") {
  Random number(7);
  for (int trial = 0; trial < 80; ++trial) {
    Session session = addTrack(Session{}, "Voice", microphonesFor(1));
    const TrackId id = session.tracks.front()->id;
    session = addPoolFile(session, {"audio/x.wav", 1, {1000}});
    session = addLane(session, id, {{{0}, {1000}, {{0}, {1000}}, {{0, 0}}}});
    std::vector<int> model(1000, 0);  // which file sounds at every frame
    for (int step = 1; step <= 12; ++step) {
      const int from = number(0, 990);
      const Span window{{from}, {number(from + 1, 1000)}};
      session = addPoolFile(session, {"audio/x.wav", 1, {1000}});
      session = placeInLane(session, id, {1}, {{{0}, {1000}, window, {{step, 0}}}});
      std::fill(model.begin() + window.start.count, model.begin() + window.end.count, step);
      checkInvariants(session);
      const Lane& lane = *session.track(id)->lane({1});
      for (int frame = 0; frame < 1000; ++frame) {
        const Clip* clip = clipAt(lane, {frame});
        REQUIRE(clip);
        REQUIRE(clip->channels.front().file == model[static_cast<std::size_t>(frame)]);
      }
    }
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

TEST_CASE("Recording options survive the document, undo leaves them alone, and bad ones are refused") {
  Session session = addTrack(Session{}, "Viola", microphonesFor(2));
  RecordingOptions options;
  options.preRoll = {1.25, LengthUnit::Seconds};
  options.countInBars = 3;
  options.result = PassResult::Overdub;
  options.click = {true, true, false, {-7.5}};
  options.snap = Snap::PhraseEdge;
  options.grid = false;
  options.airBars = 2.5;
  session = setRecordingOptions(session, options);
  session = setMonitoring(session, session.tracks.front()->id, Monitoring::Automatic);
  session = addMarker(session, {500}, "breath");
  session = addMarker(session, {100}, {}, MarkerKind::Dropout);
  CHECK(session.markers.front().name == "Dropout 1");  // in order of time
  const Session back = sessionFromJson(toJson(session));
  CHECK(back == session);

  History history(session);
  history.commit("Loop", setLoop(session, Span{{0}, {1000}}));
  options.passes = 9;
  history.replacePresent(setRecordingOptions(history.now(), options));
  history.undo();
  CHECK_FALSE(history.now().loop);
  CHECK(history.now().recording.passes == 9);
  history.redo();
  CHECK(history.now().recording.passes == 9);

  // A session from before an option existed opens with its default.
  nlohmann::json older = toJson(session);
  older["recording"].erase("airBars");
  older["recording"]["click"].erase("level");
  CHECK(sessionFromJson(older).recording.airBars == 1.0);
  older.erase("recording");
  CHECK(sessionFromJson(older).recording == RecordingOptions{});

  auto refuses = [&](const char* key, const nlohmann::json& value) {
    nlohmann::json document = toJson(session);
    document["recording"][key] = value;
    INFO(key);
    CHECK_THROWS_AS(sessionFromJson(document), Error);
  };
  refuses("countInBars", 99);
  refuses("passes", -1);
  refuses("result", "erase");
  refuses("snap", "magnet");
  refuses("preRoll", {1.0, "miles"});
  refuses("backUpSeconds", 1e9);
  refuses("click", 7);
}

TEST_CASE("A sum of fractions of bars that should meet a bar line meets it") {
  const SampleRate rate{48000};
  for (const double beatsPerMinute : {60.0, 96.0, 100.0, 137.0})
    for (const int beats : {3, 4, 5, 7}) {
      const TempoMap tempo({{1, beatsPerMinute, {beats, 4}}, {5, beatsPerMinute * 1.3, {beats, 4}}});
      // From a third, a seventh of a bar on, so many of them.
      for (const int parts : {3, 7, 10, 49}) {
        Frames at;
        for (int i = 0; i < parts; ++i) at = tempo.shiftedByBars(at, 1.0 / parts, rate);
        INFO(beatsPerMinute << " in " << beats << ", " << parts << " parts");
        CHECK(std::abs((at - tempo.frameOf({2, 1.0}, rate)).count) <= parts);
      }
      // Across the change of tempo too, to the frame that rounding leaves open.
      const Frames third = tempo.frameOf({4, 1.0 + beats * (1.0 - 0.1)}, rate);
      CHECK(std::abs((tempo.shiftedByBars(third, 0.1, rate) - tempo.frameOf({5, 1.0}, rate)).count) <= 1);
    }
}
