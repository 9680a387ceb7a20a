// SPDX-License-Identifier: GPL-3.0-or-later
//
// Edits of lanes, spans, markers and tempo, each with what it changes and what it leaves alone.
#include "core/core_tests.h"

namespace {

constexpr TrackId laneTrack{1};

Piece pieceOf(std::int64_t from, std::int64_t to, std::optional<int> lane, std::vector<int> overdubs = {}) {
  Piece piece;
  piece.span = {{from}, {to}};
  if (lane) piece.lane = LaneNumber{*lane};
  for (const int each : overdubs) piece.overdubs.push_back({each});
  return piece;
}

/// Three lanes of 1,000 frames, each in two clips that meet in the middle.
Session threeLanes() {
  Session session = addTrack(Session{}, "Viola", microphonesFor(1));
  for (int lane = 0; lane < 3; ++lane) {
    session = addPoolFile(session, {"audio/x" + std::to_string(lane) + ".wav", 1, {1000}});
    session =
        addLane(session, laneTrack,
                {{{0}, {1000}, {{0}, {500}}, {{lane, 0}}}, {{0}, {1000}, {{500}, {1000}}, {{lane, 0}}}});
  }
  return session;
}

Session withPicks(Session session, const std::vector<Piece>& picks) {
  session.tracks.front().edit().composite.picks = SharedSequence<Piece>(picks);
  checkInvariants(session);
  return session;
}

std::vector<Piece> picksOf(const Session& session) {
  const auto& picks = session.track(laneTrack)->composite.picks;
  return {picks.begin(), picks.end()};
}

std::vector<Frames> joinsSetIn(const Session& session) {
  std::vector<Frames> places;
  for (const JoinSetting& join : session.track(laneTrack)->composite.joins) places.push_back(join.at);
  return places;
}

}  // namespace

TEST_CASE("A lane that goes takes its own picks with it and leaves all others as they are") {
  Session session =
      withPicks(threeLanes(), {pieceOf(0, 100, 1), pieceOf(100, 200, 2), pieceOf(200, 300, 3, {2}),
                               pieceOf(300, 400, 2, {1}), pieceOf(400, 500, 2, {3, 1}),
                               pieceOf(500, 600, std::nullopt), pieceOf(600, 700, 1, {3})});
  for (const std::int64_t at : {100, 500, 600})
    session = setJoin(session, laneTrack, {at}, {{10}, {10}, Curve::S});
  session = setRecordInto(session, laneTrack, LaneNumber{2});
  const Session gone = removeLane(session, laneTrack, {2});
  checkInvariants(gone);
  CHECK(picksOf(gone) == std::vector<Piece>{pieceOf(0, 100, 1), pieceOf(200, 300, 3), pieceOf(300, 400, 1),
                                            pieceOf(400, 500, 3, {1}), pieceOf(500, 600, std::nullopt),
                                            pieceOf(600, 700, 1, {3})});
  CHECK(gone.track(laneTrack)->lanes.size() == 2);
  CHECK_FALSE(gone.track(laneTrack)->lane({2}));
  CHECK(gone.pool->size() == 3);
  CHECK_FALSE(gone.track(laneTrack)->recordInto);
  // Where there still is a boundary the join that was set for it stays.
  CHECK(joinsSetIn(gone) == std::vector<Frames>{{100}, {500}, {600}});
  const Session other = removeLane(setRecordInto(session, laneTrack, LaneNumber{3}), laneTrack, {1});
  CHECK(other.track(laneTrack)->recordInto == LaneNumber{3});
  CHECK(picksOf(other).front() == pieceOf(100, 200, 2));
  // The newest plays on where nothing is picked: between equals there is no boundary, and no join.
  Session plain =
      setJoin(withPicks(threeLanes(), {pieceOf(100, 200, 2)}), laneTrack, {100}, {{10}, {10}, Curve::S});
  plain = removeLane(plain, laneTrack, {2});
  CHECK(picksOf(plain).empty());
  CHECK(joinsSetIn(plain).empty());
}

TEST_CASE("A punch-in where a punch ends, and an out where one begins, are punches of their own") {
  Session session = threeLanes();
  session = punchOutAt(session, {700});
  session = punchInAt(session, {700});
  CHECK(session.punches == std::vector<Punch>{{std::nullopt, Frames{700}}, {Frames{700}, std::nullopt}});
  session = punchInAt(session, {699});
  CHECK(session.punches == std::vector<Punch>{{Frames{699}, Frames{700}}, {Frames{700}, std::nullopt}});
  session = punchOutAt(session, {701});
  CHECK(session.punches == std::vector<Punch>{{Frames{699}, Frames{700}}, {Frames{700}, Frames{701}}});
  session = setPunches(session, {{Frames{500}, std::nullopt}});
  session = punchOutAt(session, {500});
  CHECK(session.punches == std::vector<Punch>{{std::nullopt, Frames{500}}, {Frames{500}, std::nullopt}});
  // Of several that could be meant, the nearest.
  session = setPunches(session, {{Frames{100}, Frames{200}}, {Frames{600}, Frames{700}}});
  CHECK(punchInAt(session, {300}).punches[1] == Punch{Frames{300}, Frames{600}});
  CHECK(punchOutAt(session, {500}).punches[1] == Punch{Frames{200}, Frames{500}});
  CHECK(punchInAt(session, {50}).punches[0] == Punch{Frames{50}, Frames{100}});
  CHECK(punchOutAt(session, {900}).punches[2] == Punch{Frames{700}, Frames{900}});
  // Right where one begins, or ends, there is one already.
  CHECK_THROWS_WITH(punchInAt(session, {600}), Catch::Contains("overlap"));
  CHECK_THROWS_WITH(punchOutAt(session, {200}), Catch::Contains("overlap"));
  CHECK_THROWS_AS(punchInAt(session, {-1}), Error);
  CHECK_THROWS_AS(punchOutAt(session, maximumPosition + Frames{1}), Error);
}

TEST_CASE(
    "A loop on bars or beats stays on the same ones in another tempo; one beside them stays in its time") {
  std::mt19937 random(4);
  const auto number = [&random](int low, int high) {
    return std::uniform_int_distribution(low, high)(random);
  };
  for (int i = 0; i < 300; ++i) {
    Session session;
    session.rate = {i % 2 == 0 ? 48000 : 44100};
    session = setTempo(session, TempoMap({{1, 0.1 * number(400, 2400), {number(2, 7), 4}},
                                          {number(2, 9), 0.1 * number(400, 2400), {number(2, 7), 4}}}));
    const MusicalPosition from{number(1, 12), static_cast<double>(number(1, 2))};
    const MusicalPosition to{from.bar + number(1, 4), static_cast<double>(number(1, 2))};
    const auto span = [&](Frames late) {
      return Span{session.tempo.frameOf(from, session.rate) + late, session.tempo.frameOf(to, session.rate)};
    };
    session = addMarker(addPunch(setLoop(session, span({})), span({})), {100}, "dusk");
    const Session beside = setLoop(session, span({7}));
    const TempoChange change{number(1, 12), 0.1 * number(400, 2400), {number(2, 7), 4}};
    CHECK(setTempoChange(beside, change).loop == beside.loop);
    const Session before = session;
    session = setTempoChange(session, change);
    INFO("from " << from.bar << " to " << to.bar << ", changed at " << change.bar);
    CHECK(session.loop == span({}));
    CHECK(session.punches == before.punches);
    CHECK(session.markers == before.markers);
  }
}

TEST_CASE("Tracks have names of their own, and files go where their channels go") {
  Session session = threeLanes();
  session = addTrack(session, "Drum", microphonesFor(3));
  const TrackId drum = session.tracks.back()->id;
  CHECK(drum != laneTrack);
  CHECK_THROWS_WITH(addTrack(session, "", microphonesFor(1)), Catch::Contains("needs a name"));
  CHECK_THROWS_WITH(addTrack(session, "Drum", microphonesFor(1)), Catch::Contains("already is"));
  CHECK_THROWS_WITH(addTrack(session, "Bell", {}), Catch::Contains("at least one microphone"));
  CHECK(renameTrack(session, laneTrack, "Viola").track(laneTrack)->name == "Viola");
  CHECK(renameTrack(session, laneTrack, "Solo").track(laneTrack)->name == "Solo");
  CHECK_THROWS_WITH(renameTrack(session, laneTrack, "Drum"), Catch::Contains("already is"));
  CHECK_THROWS_WITH(renameTrack(session, laneTrack, ""), Catch::Contains("needs a name"));
  CHECK_THROWS_WITH(renameTrack(session, {77}, "x"), Catch::Contains("no such track"));
  // A mono file on all of a set, a set's file on each, and no other.
  const Session mono = addFileAsLane(session, drum, {"audio/m.wav", 1, {700}}, {50}, "Mono");
  const Clip& spread = mono.track(drum)->lanes.back()->clips.front();
  CHECK(spread.channels == std::vector<ChannelSource>{{3, 0}, {3, 0}, {3, 0}});
  CHECK(spread.window == Span{{50}, {750}});
  CHECK(mono.track(drum)->lanes.back()->name == "Mono");
  const Session set = addFileAsLane(session, drum, {"audio/s.wav", 3, {700}}, {}, {});
  CHECK(set.track(drum)->lanes.back()->clips.front().channels ==
        std::vector<ChannelSource>{{3, 0}, {3, 1}, {3, 2}});
  CHECK(set.track(drum)->lanes.back()->name == "Take 1");
  CHECK_THROWS_WITH(addFileAsLane(session, drum, {"audio/s.wav", 2, {700}}, {}, {}),
                    Catch::Contains("has 3, the file has 2"));
  // No file changes what a track records.
  CHECK_THROWS_WITH(addFileAsLane(session, laneTrack, {"audio/s.wav", 2, {700}}, {}, {}),
                    Catch::Contains("has 1, the file has 2"));
  const Session backing = addTrack(session, "River", microphonesFor(2), true);
  CHECK_THROWS_WITH(setTrackSwitch(backing, backing.tracks.back()->id, TrackSwitch::Arm, true),
                    Catch::Contains("backing track"));
  CHECK_NOTHROW(setTrackSwitch(backing, backing.tracks.back()->id, TrackSwitch::Arm, false));
  CHECK(setTrackSwitch(backing, laneTrack, TrackSwitch::Arm, true).track(laneTrack)->armed);
  CHECK_THROWS_WITH(setRecordInto(session, laneTrack, LaneNumber{9}), Catch::Contains("no lane 9"));
  CHECK_FALSE(setRecordInto(setRecordInto(session, laneTrack, LaneNumber{2}), laneTrack, std::nullopt)
                  .track(laneTrack)
                  ->recordInto);
  CHECK_THROWS_WITH(setMicrophones(session, laneTrack, microphonesFor(3)),
                    Catch::Contains("has takes already"));
  CHECK(microphonesFor(1).size() == 1);
  CHECK(microphonesFor(2).size() == 1);
  CHECK(microphonesFor(2)[0].channels == 2);
  CHECK(microphonesFor(3)[2].input == 2);
  CHECK(microphonesFor(3)[2].name == "Microphone 3");
}

TEST_CASE("Of several clips the window of the nearest is pulled: most of the span in it, else least away") {
  Session session = addTrack(Session{}, "Viola", microphonesFor(1));
  session = addPoolFile(session, {"audio/x.wav", 1, {1000}});
  session = addLane(session, laneTrack,
                    {{{0}, {1000}, {{0}, {400}}, {{0, 0}}}, {{0}, {1000}, {{600}, {1000}}, {{0, 0}}}});
  const auto windows = [&](Span span) {
    const Session pulled = pullWindow(session, laneTrack, {1}, span);
    const Lane& lane = *pulled.track(laneTrack)->lane({1});
    REQUIRE(lane.clips.size() == 2);
    return std::vector<Span>{lane.clips[0].window, lane.clips[1].window};
  };
  using Windows = std::vector<Span>;
  CHECK(windows({{470}, {560}}) == Windows{{{0}, {400}}, {{470}, {560}}});
  CHECK(windows({{440}, {530}}) == Windows{{{440}, {530}}, {{600}, {1000}}});
  CHECK(windows({{450}, {550}}) == Windows{{{450}, {550}}, {{600}, {1000}}});  // as near: the first
  CHECK(windows({{300}, {650}}) == Windows{{{300}, {600}}, {{600}, {1000}}});
  CHECK(windows({{350}, {700}}) == Windows{{{0}, {400}}, {{400}, {700}}});
  CHECK(windows({{300}, {700}}) == Windows{{{300}, {600}}, {{600}, {1000}}});
}
