// SPDX-License-Identifier: GPL-3.0-or-later
//
// What belongs to a pass of a loop, which pass broke off, and what is told beforehand of a recording.
#include "core/core_tests.h"

#include "core/edit/record_cue.h"

namespace {

std::int64_t anyUpTo(std::mt19937& random, std::int64_t most) {
  return std::uniform_int_distribution<std::int64_t>(0, most)(random);
}

constexpr TrackId loopTrack{1};

Session oneLoopTrack() {
  return addTrack(Session{}, "Viola", microphonesFor(1));
}

Session withLoopTake(Session session, Span window) {
  session = addPoolFile(std::move(session), {"audio/t.wav", 1, window.length()});
  const int file = static_cast<int>(session.pool->size()) - 1;
  return addLane(std::move(session), loopTrack, {Clip{window.start, window.length(), window, {{file, 0}}}});
}

/// 80 bpm in 3/4: a bar is 2.25 s (common practice), 108,000 frames at 48 kHz.
constexpr Frames loopBar{108000};

}  // namespace

TEST_CASE("The handles of a loop pass reach half a round beyond it, and never into another pass") {
  for (unsigned seed = 0; seed < 100; ++seed) {
    std::mt19937 random(seed);
    RecordSetup setup;
    const Frames length{1000 + anyUpTo(random, 5000)};
    setup.timeline.start = {anyUpTo(random, 9000)};
    const Frames loopStart = setup.timeline.start + Frames{anyUpTo(random, 4000)};
    setup.timeline.loop = {loopStart, loopStart + length};
    setup.recordFrom = loopStart;
    setup.roundTrip = {anyUpTo(random, 700)};
    setup.timeline.postRoll = {anyUpTo(random, 9000)};
    setup.timeline.passes = static_cast<int>(2 + anyUpTo(random, 4));
    if (seed % 2) setup.punches = {{loopStart + Frames{200}, loopStart + Frames{400}}};
    const Frames captured = *setup.timeline.totalLength() + setup.roundTrip;
    const Session session =
        addRecording(oneLoopTrack(), setup, {{loopTrack, {{"audio/a.wav", 1, captured}}, {}}}).session;
    checkInvariants(session);
    INFO("seed " << seed);
    REQUIRE(session.tracks.front()->lanes.size() == static_cast<std::size_t>(setup.timeline.passes));
    const Span reach{loopStart - Frames{length.count / 2}, loopStart + length + Frames{length.count / 2}};
    for (const auto& lane : session.tracks.front()->lanes)
      for (const Clip& clip : lane->clips) {
        const Span there{clip.origin, clip.origin + captured};
        CHECK(clip.extent() == reach.intersect(there));
      }
  }
}

TEST_CASE("A pass that broke off leaves its place to the newest whole take; a mend and a first take do not") {
  const Span song{{0}, {480000}};
  const auto lastSoundAt = [](std::int64_t at) {
    return [at](const Lane&, Span within) {
      return at >= within.start.count ? std::optional(Frames{std::min(at, within.end.count - 1)})
                                      : std::nullopt;
    };
  };
  const auto broke = [&](const Session& session, RecordSetup setup, std::int64_t rolled,
                         std::int64_t sounds) {
    const auto windows = passWindows(setup, Frames{rolled});
    return brokeOff(setup, windows, windows.back().round, *session.track(loopTrack), lastSoundAt(sounds));
  };
  const Session whole = withLoopTake(oneLoopTrack(), song);
  RecordSetup loop;
  loop.timeline.loop = song;
  CHECK(broke(whole, loop, 480000 + 455000, 470000));
  CHECK_FALSE(broke(whole, loop, 480000 + 456000, 470000));  // 95 % of the round
  CHECK_FALSE(broke(whole, loop, 480000 + 455000, 454000));  // after the last sound
  CHECK_FALSE(broke(oneLoopTrack(), loop, 480000 + 100000, 470000));
  RecordSetup punches = loop;
  punches.punches = {{{100000}, {200000}}, {{300000}, {400000}}};
  CHECK(broke(whole, punches, 480000 + 350000, 470000));
  CHECK_FALSE(broke(whole, punches, 480000 + 450000, 470000));
  // Without a set end it was to go as far as the take before, where it began with it.
  RecordSetup free;
  free.byHand = true;
  free.handPunches = {{{0}, maximumPosition}};
  CHECK(broke(whole, free, 200000, 470000));
  CHECK_FALSE(broke(whole, free, 470000, 470000));
  free.timeline.start = free.recordFrom = {100000};
  CHECK_FALSE(broke(whole, free, 200000, 470000));  // it mends a place
  free.timeline.start = free.recordFrom = {};
  for (const std::vector<Span>& byHand :
       {std::vector<Span>{{{0}, {1000}}, {{5000}, maximumPosition}}, {{{0}, {200000}}}}) {
    free.handPunches = byHand;
    CHECK_FALSE(broke(whole, free, 200000, 470000));  // a hand wanted it so
  }

  // Where nobody picked the whole one plays; where it has nothing, and where it is picked, the other does.
  Session session = withLoopTake(withLoopTake(oneLoopTrack(), {{0}, {1000}}), {{500}, {2000}});
  const auto playsAt = [&](std::int64_t at) {
    return newestLaneAt(*session.track(loopTrack), {at})->number.value;
  };
  CHECK(playsAt(700) == 2);
  session = setLaneBrokenOff(session, loopTrack, {2}, true);
  CHECK(playsAt(700) == 1);
  CHECK(playsAt(1500) == 2);
  const auto pieces = resolve(*session.track(loopTrack), session.rate).pieces;
  REQUIRE(pieces.size() == 2);
  CHECK(pieces[0].span == Span{{0}, {1000}});
  CHECK(pieces[1].lane == LaneNumber{2});
}

TEST_CASE("A phrase is looped as whole bars, whose edges near a bar line lie on it") {
  Session session;
  session.tempo = TempoMap({{1, 80.0, {3, 4}}});
  const Frames near{9000};  // a quarter of a beat of 36,000 frames
  const auto loopOf = [&](Frames start, Frames end) { return wholeBars(session, {start, end}); };
  CHECK(loopOf(loopBar * 2, loopBar * 4) == Span{loopBar * 2, loopBar * 4});
  CHECK(loopOf(loopBar * 2 - near, loopBar * 4 + near) == Span{loopBar * 2, loopBar * 4});
  CHECK(loopOf(loopBar * 2 - near - Frames{1}, loopBar * 4 + near + Frames{1}) == Span{loopBar, loopBar * 5});
  CHECK(loopOf(loopBar * 2 + Frames{30000}, loopBar * 3 - Frames{30000}) == Span{loopBar * 2, loopBar * 3});
  CHECK(loopOf(loopBar * 2, loopBar * 2 + Frames{100}) == Span{loopBar * 2, loopBar * 3});
}

TEST_CASE("What comes next in a recording is the first change that can be found frame by frame") {
  for (unsigned seed = 0; seed < 60; ++seed) {
    std::mt19937 random(seed);
    RecordSetup setup;
    setup.timeline.start = setup.recordFrom = {anyUpTo(random, 40)};
    setup.timeline.countIn = {anyUpTo(random, 30)};
    Frames at = setup.timeline.start + Frames{anyUpTo(random, 30)};
    for (std::int64_t i = anyUpTo(random, 2); i > 0; --i) {
      const Frames in = at + Frames{anyUpTo(random, 20)};
      at = in + Frames{1 + anyUpTo(random, 20)};
      setup.punches.push_back({in, at});
    }
    if (seed % 2) {
      const Frames from = setup.timeline.start + Frames{anyUpTo(random, 20)};
      setup.timeline.loop = {from, from + Frames{64 + anyUpTo(random, 40)}};
      setup.recordFrom = from;
      setup.timeline.passes = static_cast<int>(anyUpTo(random, 3));
      setup.playBack = seed % 3 == 0;
    } else {
      setup.timeline.stopAt = at + Frames{5};
    }
    const auto total = setup.timeline.totalLength();
    const Frames end = total.value_or(Frames{400});
    const auto records = [&](Frames frame) { return audibleAt(setup, setup.timeline.runAt(frame)).audible; };
    for (Frames from{}; from < end; from += Frames{7}) {
      std::optional<ComingEvent> expected;
      for (Frames frame = from + Frames{1};
           (!total || frame < end) && frame - from <= Frames{90} && !expected; frame += Frames{1}) {
        if (records(frame) != records(frame - Frames{1}))
          expected = {records(frame) ? ComingEvent::Kind::PunchIn : ComingEvent::Kind::PunchOut,
                      frame - from};
        else if (setup.timeline.runAt(frame).jumped)
          expected = {ComingEvent::Kind::Wrap, frame - from};
      }
      INFO("seed " << seed << ", frame " << from.count);
      CHECK(comingEvent(setup, from, {90}) == expected);
    }
  }
}

TEST_CASE("Beats to go are counted from a bar before, in whole beats; without a grid in seconds") {
  RecordSetup setup;
  setup.recordFrom = loopBar * 2;
  setup.timeline.start = {};
  setup.punches = {{loopBar * 2, loopBar * 3}};
  Ruler ruler{{48000}, TempoMap({{1, 80.0, {3, 4}}})};
  const Frames beat{36000};
  const auto shown = [&](Frames frame) { return cueAt(setup, ruler, frame); };
  CHECK_FALSE(shown(loopBar - Frames{1}));
  CHECK(shown(loopBar) == ShownCue{ComingEvent::Kind::PunchIn, 3});
  CHECK(shown(loopBar + beat - Frames{1})->toGo == 3);
  CHECK(shown(loopBar + beat)->toGo == 2);
  CHECK(shown(loopBar * 2 - Frames{1})->toGo == 1);
  CHECK(shown(loopBar * 2) == ShownCue{ComingEvent::Kind::PunchOut, 3});
  ruler.grid = false;
  CHECK_FALSE(shown(loopBar * 2 - Frames{144001}));
  CHECK(shown(loopBar * 2 - Frames{144000})->toGo == 3);
  CHECK(shown(loopBar * 2 - Frames{48000})->toGo == 1);
}

TEST_CASE("A player's session fills a cut pre-roll with a count-in, and plays on after the punch-out") {
  Session session = setTrackSwitch(oneLoopTrack(), loopTrack, TrackSwitch::Arm, true);
  session.tempo = TempoMap({{1, 80.0, {3, 4}}});
  session = setPunches(session, {{loopBar * 4, loopBar * 18}});  // out at bar 19
  const auto plan = [&](Frames playhead) { return planRecording(session, {playhead, {}}); };
  const auto said = [&](Frames playhead) {
    return english(describeRecording(plan(playhead), armedTracks(session), session.ruler()));
  };
  // A session that has its options keeps them.
  CHECK(plan(loopBar * 9).timeline.postRoll == Frames{});
  session.recording = optionsForPlayers();
  session.recording.preRoll = {2.0, LengthUnit::Bars};
  CHECK(plan(loopBar * 9).timeline.postRoll == loopBar * 2);
  CHECK_THAT(said(loopBar * 9), Catch::Contains("After that it plays on for 2 bars, then stops."));
  session.recording.playOn = true;
  CHECK_THAT(said(loopBar * 9), Catch::Contains("After that it plays on until you stop."));
  CHECK(plan(loopBar * 9).timeline.totalLength() > loopBar * 1000);
  session = setPunches(session, {});
  for (const auto& [start, cut] : {std::pair{Frames{}, loopBar * 2},
                                   {loopBar, loopBar},
                                   {loopBar * 2, Frames{}},
                                   {loopBar * 5, Frames{}}}) {
    const RecordSetup setup = plan(start);
    CHECK(setup.timeline.countIn == cut);
    CHECK(start - setup.timeline.start + setup.timeline.countIn == loopBar * 2);
    CHECK((said(start).find("leaves no room") != std::string::npos) == (cut.count > 0));
  }
  session.recording.countInBars = 1;
  CHECK(plan({}).timeline.countIn == loopBar * 3);
  session.recording.preRoll.amount = 0.0;  // none is none
  CHECK(plan({}).timeline.countIn == loopBar);
}
