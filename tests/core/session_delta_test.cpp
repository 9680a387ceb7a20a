// SPDX-License-Identifier: GPL-3.0-or-later
//
// What differs between two states of a session leads either way, and onto nothing but what it was made from.
#include "core/store/session_delta.h"

#include <catch2/catch.hpp>
#include <functional>
#include <nlohmann/json.hpp>

#include "core/edit/edit.h"
#include "core/edit/edit_composites.h"
#include "core/edit/edit_gather.h"
#include "core/edit/edit_takes.h"
#include "core/error.h"

using namespace yewdrift;
using nlohmann::json;

namespace {

constexpr auto deltaForth = HistoryStep::Direction::Forth;
constexpr auto deltaBack = HistoryStep::Direction::Back;
constexpr TrackId leadTrack{1};
constexpr TrackId otherTrack{2};

/// Two tracks of three takes, with picks, joins, fades, a level line, a kept composite, markers, a loop.
Session wholeSession() {
  Session session;
  for (const char* name : {"Viola", "Drum"}) {
    session = addTrack(session, name, microphonesFor(1));
    const TrackId id = session.tracks.back()->id;
    for (int i = 0; i < 3; ++i)
      session = addFileAsLane(
          session, id, {"audio/" + std::string(name) + std::to_string(i) + ".wav", 1, {9000}}, {}, "take");
    session = pick(session, id, {{1000}, {3000}}, LaneNumber{1});
    session = pick(session, id, {{5000}, {6000}}, LaneNumber{2});
    session = setJoin(session, id, {1000}, {{100}, {120}, Curve::S});
  }
  session = setLevel(session, leadTrack, std::nullopt, {{{100}, {-3.0}}});
  session = setEndFade(session, leadTrack, CompositeEnd::Start, {{400}});
  session = keepComposite(session, leadTrack, "Calm");
  session = markTake(session, leadTrack, {1}, {500}, "cough");
  session = setLoop(session, Span{{1000}, {9000}});
  session = addPunch(session, {{2000}, {3000}});
  session = addMarker(session, {100}, "first");
  session = addMarker(session, {200}, "second");
  REQUIRE(session.tracks[0]->id == leadTrack);
  REQUIRE(session.tracks[1]->id == otherTrack);
  checkInvariants(session);
  return session;
}

/// But for the pool, which no step takes back.
bool sameButForPool(Session a, const Session& b) {
  a.pool = b.pool;
  return a == b;
}

using SessionEdit = std::function<Session(const Session&)>;
struct DeltaChange {
  const char* what;
  SessionEdit made;
  std::vector<SessionEdit> elsewhere;  // each leads to a session that the change does not fit
};

SessionEdit withName(int lane, const char* name) {
  return [=](const Session& s) { return changeLane(s, leadTrack, {lane}, {.name = name}); };
}
SessionEdit withoutLane(int lane) {
  return [=](const Session& s) { return removeLane(s, leadTrack, {lane}); };
}
SessionEdit withPick(std::int64_t from, std::int64_t to, int lane) {
  return [=](const Session& s) { return pick(s, leadTrack, {{from}, {to}}, LaneNumber{lane}); };
}

std::vector<DeltaChange> deltaChanges() {
  return {
      {"a take's name", withName(2, "new"), {withName(2, "other"), withoutLane(2)}},
      {"what a take holds",
       [](const Session& s) { return nudgeLane(s, leadTrack, {2}, {100}); },
       {[](const Session& s) { return nudgeLane(s, leadTrack, {2}, {50}); }, withoutLane(2)}},
      {"a take that is cut",
       [](const Session& s) {
         return cutLane(s, leadTrack, {3}, {{100}, {200}});
       },
       {[](const Session& s) {
         return cutLane(s, leadTrack, {3}, {{100}, {300}});
       }}},
      {"a take that goes", withoutLane(3), {withName(3, "other"), withoutLane(3)}},
      {"a take that comes",
       [](const Session& s) { return addFileAsLane(s, leadTrack, s.pool->front(), {10}, "fourth"); },
       {[](const Session& s) { return addFileAsLane(s, leadTrack, s.pool->front(), {20}, "fourth"); }}},
      {"the order of takes",
       [](const Session& s) { return placeLane(s, leadTrack, {3}, 1); },
       {withoutLane(1),
        [](const Session& s) { return addFileAsLane(s, leadTrack, s.pool->front(), {20}, "fourth"); }}},
      {"a pick", withPick(2000, 4000, 3), {withPick(1500, 2500, 2), withPick(0, 9000, 1)}},
      {"a join",
       [](const Session& s) {
         return setJoin(s, leadTrack, {1000}, {{50}, {60}, Curve::EqualPower});
       },
       {[](const Session& s) {
          return setJoin(s, leadTrack, {1000}, {{51}, {60}, Curve::S});
        },
        [](const Session& s) { return resetJoin(s, leadTrack, {1000}); }}},
      {"the level",
       [](const Session& s) {
         return setLevel(s, leadTrack, std::nullopt, {{{100}, {-4.0}}});
       },
       {[](const Session& s) { return setLevel(s, leadTrack, std::nullopt, {}); }}},
      {"a fade of the composite",
       [](const Session& s) { return setEndFade(s, leadTrack, CompositeEnd::Start, {{500}}); },
       {[](const Session& s) { return setEndFade(s, leadTrack, CompositeEnd::Start, {{401}}); },
        [](const Session& s) { return setEndFade(s, leadTrack, CompositeEnd::End, {{400}}); }}},
      {"composites that are kept",
       [](const Session& s) { return keepComposite(s, leadTrack, "Wild"); },
       {[](const Session& s) { return renameComposite(s, leadTrack, "Calm", "Calmer"); },
        [](const Session& s) { return removeComposite(s, leadTrack, "Calm"); }}},
      {"a track's name",
       [](const Session& s) { return renameTrack(s, leadTrack, "Lead"); },
       {[](const Session& s) { return renameTrack(s, leadTrack, "Solo"); },
        [](const Session& s) { return removeTrack(s, leadTrack); }}},
      {"a track that goes",
       [](const Session& s) { return removeTrack(s, otherTrack); },
       {[](const Session& s) { return renameTrack(s, otherTrack, "Tide"); },
        [](const Session& s) { return removeTrack(s, otherTrack); }}},
      {"the order of tracks",
       [](const Session& s) { return placeTrack(s, otherTrack, 1); },
       {[](const Session& s) { return removeTrack(s, leadTrack); }}},
      {"the loop",
       [](const Session& s) {
         return setLoop(s, Span{{1000}, {8000}});
       },
       {[](const Session& s) {
          return setLoop(s, Span{{1001}, {9000}});
        },
        [](const Session& s) { return setLoop(s, std::nullopt); }}},
      {"no loop any more", [](const Session& s) { return setLoop(s, std::nullopt); }, {[](const Session& s) {
         return setLoop(s, Span{{1001}, {9000}});
       }}},
      {"the tempo",
       [](const Session& s) {
         return setTempoChange(s, {1, 90.0, {3, 4}});
       },
       {[](const Session& s) {
         return setTempoChange(s, {1, 91.0, {4, 4}});
       }}},
      {"punches",
       [](const Session& s) {
         return addPunch(s, {{4000}, {5000}});
       },
       {[](const Session& s) {
         return addPunch(s, {{2500}, {3500}});
       }}},
      {"a marker", [](const Session& s) { return addMarker(s, {150}, "between"); }, {[](const Session& s) {
         return removeMarkers(s, {0, 1});
       }}},
      {"a marker's name",
       [](const Session& s) { return renameMarker(s, 1, "new"); },
       {[](const Session& s) { return renameMarker(s, 1, "other"); },
        [](const Session& s) { return removeMarkers(s, {1}); }}},
      {"its name",
       [](Session s) {
         s.name = "new";
         return s;
       },
       {[](Session s) {
         s.name = "other";
         return s;
       }}},
  };
}

}  // namespace

TEST_CASE("Whatever changes, what differs leads there and back") {
  const Session before = wholeSession();
  CHECK(sessionDelta(before, before).empty());
  for (const DeltaChange& change : deltaChanges()) {
    INFO(change.what);
    const Session after = change.made(before);
    REQUIRE_FALSE(sameButForPool(before, after));
    const json delta = sessionDelta(before, after);
    CHECK(sameButForPool(applyDelta(before, delta, deltaForth), after));
    CHECK(sameButForPool(applyDelta(after, delta, deltaBack), before));
    const json other = sessionDelta(after, before);
    CHECK(sameButForPool(applyDelta(after, other, deltaForth), before));
  }
}

TEST_CASE("What differs is refused where what it says was there is not") {
  const Session before = wholeSession();
  for (const DeltaChange& change : deltaChanges()) {
    const json delta = sessionDelta(before, change.made(before));
    for (std::size_t i = 0; i < change.elsewhere.size(); ++i) {
      INFO(change.what << ", " << i);
      const Session elsewhere = change.elsewhere[i](before);
      REQUIRE_FALSE(sameButForPool(before, elsewhere));
      CHECK_THROWS_AS(applyDelta(elsewhere, delta, deltaForth), Error);
    }
  }
}

TEST_CASE("An order that names one twice, or leaves one out, is refused") {
  const Session before = wholeSession();
  json delta = sessionDelta(before, placeLane(before, leadTrack, {3}, 1));
  json& order = delta["tracks"]["changes"][0]["inside"]["lanes"]["order"];
  REQUIRE(order.is_array());
  REQUIRE(order[1] == json::array({3, 1, 2}));
  for (const json& bad : {json::array({3, 1, 1}), json::array({3, 1}), json::array({3, 1, 2, 2}),
                          json::array({3, 1, 2, 7}), json::array({3, 1, 7})}) {
    INFO(bad.dump());
    order[1] = bad;
    CHECK_THROWS_AS(applyDelta(before, delta, deltaForth), Error);
  }
  order[1] = json::array({2, 3, 1});
  const Session other = applyDelta(before, delta, deltaForth);
  CHECK(other.tracks[0]->lanes[0]->number == LaneNumber{2});
  CHECK(other.tracks[0]->lanes[2]->number == LaneNumber{1});
}
