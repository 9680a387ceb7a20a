// SPDX-License-Identifier: GPL-3.0-or-later
//
// Every way to record, to the sample, through the simulated interface: punches by hand and by span, count-in,
// playing back between passes, into a chosen lane, what the player hears meanwhile.
#include <catch2/catch.hpp>
#include <cmath>

#include "core/edit/plan_recording.h"
#include "core/error.h"
#include "recording_support.h"

using namespace yewdrift;
using namespace yewdrift::test;

TEST_CASE("Punched by hand in and out many times in one roll, every window holds what was played there") {
  const Samples performance = noise(100000, 1);
  for (const int block : {64, 100, 441, 1024}) {
    for (const std::int64_t roundTrip : {0, 333, 5000}) {
      const TemporaryFolder temporary;
      SessionFolder folder = emptySession(temporary / "s");
      Rig rig(folder, block, playerOf(performance, 0, roundTrip));
      RollTimeline timeline;
      timeline.stopAt = Frames{90000};
      const RecordSetup setup = planStandby(timeline, folder.session(), {roundTrip});
      std::vector<std::int64_t> wanted{10000, 20000, 30000, 33000, 60000, 80000};
      std::size_t next = 0;
      const auto result = rig.roll(setup, {onlyTrack(folder)}, [&](EngineState state) {
        while (next < wanted.size() && state.rolling && state.position.count >= wanted[next]) {
          rig.engine.punch();
          ++next;
        }
      });
      INFO("block " << block << ", round trip " << roundTrip);
      REQUIRE(result.lanes.size() == 1);
      const auto& clips = folder.session().tracks.front()->lane({1})->clips;
      REQUIRE(clips.size() == 3);
      for (std::size_t i = 0; i < 3; ++i) {
        // A hand acts at the start of the next block.
        CHECK(clips[i].window.start.count - wanted[2 * i] >= 0);
        CHECK(clips[i].window.start.count - wanted[2 * i] < block);
        CHECK(clips[i].window.end.count - wanted[2 * i + 1] < block);
        CHECK(laneSamples(folder, 1, i) ==
              part(performance, clips[i].window.start.count, clips[i].window.end.count));
      }
      // The edges stay movable: what lay outside the punches was captured too.
      Session session = pullWindow(folder.session(), onlyTrack(folder), {1}, {{2000}, {25000}});
      folder.commit("Pull", session);
      CHECK(laneSamples(folder, 1, 0) == part(performance, 2000, 25000));
    }
  }
}

TEST_CASE("A roll in which nothing was punched gives way and leaves nothing behind") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  Rig rig(folder, 128, playerOf(noise(50000, 1), 0, 200));
  const RecordSetup setup = planStandby({}, folder.session(), {200});
  Recorder first(folder.disk(), folder.session(), setup, {onlyTrack(folder)});
  rig.engine.record(setup, first.stream());
  rig.engine.settle();
  rig.play(5000);
  CHECK(rig.engine.state().capturing);
  CHECK_FALSE(rig.engine.state().recording);
  // Another roll takes its place at once, without waiting for a round trip.
  Recorder second(folder.disk(), folder.session(), setup, {onlyTrack(folder)});
  rig.engine.record(setup, second.stream());
  rig.engine.settle();
  rig.play(256);
  CHECK(first.stream()->closed());
  first.abandon();
  rig.engine.punch();
  rig.play(1024);
  CHECK(rig.engine.state().recording);
  CHECK_THROWS_WITH(rig.engine.record(setup, second.stream()), Catch::Contains("under way"));
  rig.engine.stop();
  rig.play(2048);
  CHECK(second.stream()->bodyWritten());
  rig.engine.endTail();
  rig.play(256);
  CHECK(second.stream()->closed());
  second.abandon();
  CHECK(fs::is_empty(folder.path() / "audio"));
  CHECK_FALSE(fs::exists(folder.path() / "recording-001.json"));
}

TEST_CASE("A punch pressed while a new roll waits to begin belongs to that roll") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  Rig rig(folder, 128, playerOf(noise(50000, 1), 0, 200));
  const RecordSetup setup = planStandby({}, folder.session(), {200});
  Recorder old(folder.disk(), folder.session(), setup, {onlyTrack(folder)});
  rig.engine.record(setup, old.stream());
  rig.engine.settle();
  rig.play(5000);
  Recorder fresh(folder.disk(), folder.session(), setup, {onlyTrack(folder)});
  rig.engine.record(setup, fresh.stream());
  rig.engine.punch();
  rig.device.runBlock();  // nothing is read ahead yet: the new roll still waits
  CHECK(rig.engine.takeEvents().empty());
  rig.engine.settle();
  rig.play(1024);
  CHECK(rig.engine.state().recording);
  CHECK(old.stream()->closed());
  CHECK_FALSE(fresh.stream()->closed());
  const auto events = rig.engine.takeEvents();
  REQUIRE(events.size() == 1);
  CHECK(events.front().kind == EngineEvent::Kind::PunchIn);
  CHECK(events.front().rollFrame == Frames{});
  rig.engine.stop();
  rig.play(1024);
  CHECK(fresh.stream()->bodyWritten());
}

TEST_CASE("A punch pressed before the planned one wins, and out before in leaves no window") {
  RecordSetup setup;
  setup.byHand = true;
  setup.handPunches = {{{5000}, maximumPosition}};
  CHECK(withHandPunch(setup, {2000}, true).handPunches == std::vector<Span>{{{2000}, maximumPosition}});
  CHECK(withHandPunch(setup, {9000}, false).handPunches == std::vector<Span>{{{5000}, {9000}}});
  CHECK(withHandPunch(setup, {5000}, false).handPunches.empty());
  setup.handPunches = {{{5000}, {6000}}};
  CHECK(withHandPunch(setup, {8000}, true).handPunches ==
        std::vector<Span>{{{5000}, {6000}}, {{8000}, maximumPosition}});
}

TEST_CASE("Punched by hand across a loop's end, the window goes on in the next time round") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  const Samples performance = noise(40000, 3);
  Rig rig(folder, 100, playerOf(performance, 0, 50));
  RollTimeline timeline;
  timeline.loop = Span{{0}, {10000}};
  timeline.passes = 3;
  const RecordSetup setup = planStandby(timeline, folder.session(), {50});
  int punched = 0;
  rig.roll(setup, {onlyTrack(folder)}, [&](EngineState state) {
    if ((punched == 0 && state.rollFrame.count >= 6000) || (punched == 1 && state.rollFrame.count >= 13000)) {
      rig.engine.punch();
      ++punched;
    }
  });
  const Track& track = *folder.session().tracks.front();
  REQUIRE(track.lanes.size() == 2);
  CHECK(track.lane({1})->clips.front().window == Span{{6000}, {10000}});
  CHECK(track.lane({2})->clips.front().window == Span{{0}, {3000}});
}

TEST_CASE("The count-in comes before the start, is captured, and leaves the take where it was played") {
  for (const std::int64_t start : {0, 48000}) {
    const TemporaryFolder temporary;
    SessionFolder folder = emptySession(temporary / "s");
    Session session = folder.session();
    session.tempo = TempoMap({{1, 240.0, {3, 4}}});  // a bar is 36000 frames
    session.recording.countInBars = 1;
    session.recording.preRoll = {};
    folder.commit("Set", session);
    const Samples performance = noise(30000, 7);
    Rig rig(folder, 128, playerOf(performance, start, 640));
    session.recording.loop = false;
    RecordSetup setup = planRecording(session, {{start}, {640}});
    REQUIRE(setup.timeline.countIn == Frames{36000});
    setup.timeline.stopAt = Frames{start + 30000};
    rig.roll(setup, {onlyTrack(folder)});
    const Clip& clip = folder.session().tracks.front()->lane({1})->clips.front();
    CHECK(clip.window == Span{{start}, {start + 30000}});
    CHECK(clip.extent().start <= Frames{start - 36000});  // a breath before the first note is in the handle
    CHECK(laneSamples(folder, 1) == performance);
    // Three beats of 12000 frames were heard, and nothing between their knocks.
    for (const std::int64_t beat : {0, 12000, 24000}) {
      float loudest = 0.0F;
      for (std::int64_t i = beat; i < beat + 1000; ++i)
        loudest = std::max(loudest, std::abs(rig.heard.left[static_cast<std::size_t>(i)]));
      CHECK(loudest > 0.05F);
      for (std::int64_t i = beat + 2000; i < beat + 12000; ++i)
        REQUIRE(rig.heard.left[static_cast<std::size_t>(i)] == 0.0F);
    }
  }
}

TEST_CASE("The click follows the tempo map across a change, accented on the first beat") {
  const SampleRate rate{48000};
  const TempoMap tempo({{1, 120.0, {4, 4}}, {3, 90.0, {3, 4}}});
  ClickOptions options;
  const auto clicks = [&](std::int64_t length, std::int64_t block) {
    Click click(rate);
    Samples left(static_cast<std::size_t>(length));
    Samples right(left.size());
    for (std::int64_t at = 0; at < length; at += block) {
      const auto n = static_cast<int>(std::min(block, length - at));
      click.strikeBeats(tempo, options, {at}, n, 0);
      click.ring(n, &left[static_cast<std::size_t>(at)], &right[static_cast<std::size_t>(at)]);
    }
    CHECK(left == right);
    return left;
  };
  const Samples left = clicks(48000 * 8, 100);
  CHECK(left == clicks(48000 * 8, 48000 * 8));  // whatever the block
  auto loudestAt = [&](std::int64_t at) {
    float loudest = 0.0F;
    for (std::int64_t i = at; i < at + 400; ++i)
      loudest = std::max(loudest, std::abs(left[static_cast<std::size_t>(i)]));
    return loudest;
  };
  // 120 bpm: a beat is 24000 frames; bar 3 starts at 192000, and at 90 bpm a beat is 32000 (common practice).
  for (const std::int64_t beat : {24000, 48000, 72000, 120000, 144000, 168000, 224000, 256000})
    CHECK(loudestAt(beat) == Approx(loudestAt(24000)));
  for (const std::int64_t bar : {0, 96000, 192000, 288000}) CHECK(loudestAt(bar) > 1.2F * loudestAt(24000));
  CHECK(loudestAt(100000) == 0.0F);
  options.accent = false;
  const Samples flat = clicks(100000, 4096);
  CHECK(std::equal(flat.begin(), flat.begin() + 400, flat.begin() + 24000));
}

TEST_CASE("A count-in is the song's own pulse, also where it leads to no beat and across a tempo change") {
  const SampleRate rate{48000};
  // 120 bpm: a beat is 24000 frames. From bar 3 on it is another tempo, which the count-in does not know of.
  const TempoMap tempo({{1, 120.0, {4, 4}}, {3, 60.0, {3, 4}}});
  const auto knocks = [&](const RollTimeline& timeline, int block) {
    Click click(rate);
    ClickOptions options;
    Samples left(static_cast<std::size_t>(timeline.countIn.count + 4800));
    Samples right(left.size());
    for (std::int64_t at = 0; at < static_cast<std::int64_t>(left.size()); at += block) {
      const auto n =
          static_cast<int>(std::min<std::int64_t>(block, static_cast<std::int64_t>(left.size()) - at));
      // Behind its end it only rings.
      const auto counted = static_cast<int>(std::clamp<std::int64_t>(timeline.countIn.count - at, 0, n));
      if (counted > 0) click.strikeCountIn(tempo, options, timeline, {at}, counted, 0);
      click.ring(n, &left[static_cast<std::size_t>(at)], &right[static_cast<std::size_t>(at)]);
    }
    std::vector<std::pair<std::int64_t, bool>> found;  // where, and whether it is accented
    for (std::size_t i = 0; i < left.size(); ++i) {
      if (std::abs(left[i]) < 1e-4F) continue;
      float loudest = 0.0F;
      const std::size_t end = std::min(left.size(), i + 3000);
      for (std::size_t j = i; j < end; ++j) loudest = std::max(loudest, std::abs(left[j]));
      found.emplace_back(static_cast<std::int64_t>(i) - 1, loudest > 0.8F * 0.9F * factorOf(options.level));
      i = end;
    }
    return found;
  };
  const auto near = [](const std::vector<std::pair<std::int64_t, bool>>& found,
                       const std::vector<std::pair<std::int64_t, bool>>& wanted) {
    REQUIRE(found.size() == wanted.size());
    for (std::size_t i = 0; i < wanted.size(); ++i) {
      CHECK(std::abs(found[i].first - wanted[i].first) <= 2);
      CHECK(found[i].second == wanted[i].second);
    }
  };
  for (const int block : {64, 4096, 200000}) {
    RollTimeline timeline;
    timeline.start = {96000};
    timeline.countIn = {96000};
    near(knocks(timeline, block), {{0, true}, {24000, false}, {48000, false}, {72000, false}});
    // An eighth behind the bar line: the beats are the song's, the bar line's is the accented one.
    timeline.start = {96000 + 12000};
    near(knocks(timeline, block), {{12000, false}, {36000, false}, {60000, false}, {84000, true}});
    // Before the change counts the tempo that it starts in, two bars of it.
    timeline.start = {144000};
    timeline.countIn = {192000};
    near(knocks(timeline, block), {{0, false},
                                   {24000, false},
                                   {48000, true},
                                   {72000, false},
                                   {96000, false},
                                   {120000, false},
                                   {144000, true},
                                   {168000, false}});
  }
}

TEST_CASE("Every second time round plays the one before and records nothing") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  const std::vector<Samples> performances{noise(5000, 1), noise(5000, 2), noise(5000, 3), noise(5000, 4)};
  SimulatedInterface interface;
  interface.roundTrip = {77};
  interface.parts = {
      {0,
       {},
       {played(performances[0]), played(performances[1]), played(performances[2]), played(performances[3])},
       false,
       {}}};
  Rig rig(folder, 64, interface);
  RecordSetup setup;
  setup.timeline = {{}, Span{{0}, {5000}}, 4, std::nullopt, {}};
  setup.roundTrip = {77};
  setup.playBack = true;
  const auto result = rig.roll(setup, {onlyTrack(folder)});
  REQUIRE(result.lanes.size() == 2);
  CHECK(result.lanes[0].round == 1);
  CHECK(result.lanes[1].round == 3);
  CHECK(laneSamples(folder, 1) == performances[0]);
  CHECK(laneSamples(folder, 2) == performances[2]);
}

TEST_CASE("Into a chosen lane: the last pass takes the place of what it covers, nothing of that is gone") {
  const TemporaryFolder temporary;
  const Samples old = noise(20000, 1);
  SessionFolder folder = sessionWithLanes(temporary / "s", {old, noise(20000, 2)});
  const TrackId id = onlyTrack(folder);
  folder.commit("Into", setRecordInto(folder.session(), id, LaneNumber{1}));
  const Samples fresh = noise(4000, 3);
  Rig rig(folder, 100, playerOf(fresh, 8000, 123));
  RecordSetup setup;
  setup.timeline = {{8000}, std::nullopt, 0, Frames{12000}, {}};
  setup.recordFrom = {8000};
  setup.roundTrip = {123};
  const auto result = rig.roll(setup, {id});
  REQUIRE(result.lanes == std::vector<RecordedLane>{{id, {1}, 1}});
  const Lane& lane = *folder.session().track(id)->lane({1});
  REQUIRE(lane.clips.size() == 3);
  CHECK(folder.session().track(id)->lanes.size() == 2);
  CHECK(laneSamples(folder, 1, 0) == part(old, 0, 8000));
  CHECK(laneSamples(folder, 1, 1) == fresh);
  CHECK(laneSamples(folder, 1, 2) == part(old, 12000, 20000));
  CHECK(readWave(audioPath(folder, folder.session().pool->front())).front() == old);
  // Undone, the old material plays again whole.
  folder.editHistory().undo();
  CHECK(laneSamples(folder, 1) == old);
}

TEST_CASE(
    "Several tracks with several punches in a loop: every time round one take a track, a clip a punch") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s", 3);
  folder.commit("Add", addTrack(folder.session(), "Voice", {{"Voice", 3, 1, {}, {}}}));
  SimulatedInterface interface;
  interface.settings.inputs = 4;
  interface.roundTrip = {900};
  interface.parts = {{0, {}, {{{noise(12000, 1), noise(12000, 2), noise(12000, 3)}}}, true, {}},
                     {3, {}, {played(noise(12000, 4))}, true, {}}};
  Rig rig(folder, 256, interface);
  RecordSetup setup;
  setup.timeline = {{}, Span{{0}, {12000}}, 3, std::nullopt, {}};
  setup.punches = {{{1000}, {2000}}, {{5000}, {7777}}};
  setup.roundTrip = {900};
  rig.roll(setup, {folder.session().tracks[0]->id, folder.session().tracks[1]->id});
  for (const auto& track : folder.session().tracks) {
    REQUIRE(track->lanes.size() == 3);
    for (const auto& lane : track->lanes) {
      REQUIRE(lane->clips.size() == 2);
      CHECK(lane->clips[1].window == Span{{5000}, {7777}});
      CHECK(lane->clips[0].origin == folder.session().tracks[0]->lane(lane->number)->clips[0].origin);
    }
  }
}

TEST_CASE("A punch over bars lasts bars to the frame, across a tempo change too") {
  // 100 bpm in 3/4: a bar lasts 1.8 s = 86400 frames at 48 kHz (common practice); 50 bpm: twice that.
  Session session;
  session.tempo = TempoMap({{1, 100.0, {3, 4}}, {3, 50.0, {3, 4}}});
  const Ruler ruler = session.ruler();
  session.recording.postRoll = {1.0, LengthUnit::Bars};
  session.recording.preRoll = {2.0, LengthUnit::Bars};
  session = addPunch(session, parseSpan("2|1..4|1", ruler));
  const RecordSetup setup = planRecording(session, {parsePosition("5|1", ruler), {}});
  CHECK(setup.punches.front().length() == Frames{86400 + 172800});
  CHECK(setup.timeline.postRoll == Frames{172800});
  CHECK(setup.preRollCut);  // two bars before bar 2 lie before the session
  CHECK(setup.timeline.start == Frames{});
  session = setPunches(session, {});
  session = addPunch(session, parseSpan("4|1..5|1", ruler));
  const RecordSetup across = planRecording(session, {parsePosition("9|1", ruler), {}});
  CHECK(across.timeline.start == parsePosition("2|1", ruler));  // one bar at either tempo
}
