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

constexpr auto forth = HistoryStep::Direction::Forth;
constexpr auto back = HistoryStep::Direction::Back;
constexpr TrackId viola{1};
constexpr TrackId drum{2};

/// Two tracks of three takes, with picks, joins, fades, a level line, a kept composite, markers, a loop.
Session whole() {
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
  session = setLevel(session, viola, std::nullopt, {{{100}, {-3.0}}});
  session = setEndFade(session, viola, CompositeEnd::Start, {{400}});
  session = keepComposite(session, viola, "Calm");
  session = markTake(session, viola, {1}, {500}, "cough");
  session = setLoop(session, Span{{1000}, {9000}});
  session = addPunch(session, {{2000}, {3000}});
  session = addMarker(session, {100}, "first");
  session = addMarker(session, {200}, "second");
  REQUIRE(session.tracks[0]->id == viola);
  REQUIRE(session.tracks[1]->id == drum);
  checkInvariants(session);
  return session;
}

/// But for the pool, which no step takes back.
bool same(Session a, const Session& b) {
  a.pool = b.pool;
  return a == b;
}

using Edit = std::function<Session(const Session&)>;
struct Change {
  const char* what;
  Edit made;
  std::vector<Edit> elsewhere;  // each leads to a session that the change does not fit
};

Edit named(int lane, const char* name) {
  return [=](const Session& s) { return changeLane(s, viola, {lane}, {.name = name}); };
}
Edit without(int lane) {
  return [=](const Session& s) { return removeLane(s, viola, {lane}); };
}
Edit picked(std::int64_t from, std::int64_t to, int lane) {
  return [=](const Session& s) { return pick(s, viola, {{from}, {to}}, LaneNumber{lane}); };
}

std::vector<Change> changes() {
  return {
      {"a take's name", named(2, "new"), {named(2, "other"), without(2)}},
      {"what a take holds",
       [](const Session& s) { return nudgeLane(s, viola, {2}, {100}); },
       {[](const Session& s) { return nudgeLane(s, viola, {2}, {50}); }, without(2)}},
      {"a take that is cut",
       [](const Session& s) {
         return cutLane(s, viola, {3}, {{100}, {200}});
       },
       {[](const Session& s) {
         return cutLane(s, viola, {3}, {{100}, {300}});
       }}},
      {"a take that goes", without(3), {named(3, "other"), without(3)}},
      {"a take that comes",
       [](const Session& s) { return addFileAsLane(s, viola, s.pool->front(), {10}, "fourth"); },
       {[](const Session& s) { return addFileAsLane(s, viola, s.pool->front(), {20}, "fourth"); }}},
      {"the order of takes",
       [](const Session& s) { return placeLane(s, viola, {3}, 1); },
       {without(1),
        [](const Session& s) { return addFileAsLane(s, viola, s.pool->front(), {20}, "fourth"); }}},
      {"a pick", picked(2000, 4000, 3), {picked(1500, 2500, 2), picked(0, 9000, 1)}},
      {"a join",
       [](const Session& s) {
         return setJoin(s, viola, {1000}, {{50}, {60}, Curve::EqualPower});
       },
       {[](const Session& s) {
          return setJoin(s, viola, {1000}, {{51}, {60}, Curve::S});
        },
        [](const Session& s) { return resetJoin(s, viola, {1000}); }}},
      {"the level",
       [](const Session& s) {
         return setLevel(s, viola, std::nullopt, {{{100}, {-4.0}}});
       },
       {[](const Session& s) { return setLevel(s, viola, std::nullopt, {}); }}},
      {"a fade of the composite",
       [](const Session& s) { return setEndFade(s, viola, CompositeEnd::Start, {{500}}); },
       {[](const Session& s) { return setEndFade(s, viola, CompositeEnd::Start, {{401}}); },
        [](const Session& s) { return setEndFade(s, viola, CompositeEnd::End, {{400}}); }}},
      {"composites that are kept",
       [](const Session& s) { return keepComposite(s, viola, "Wild"); },
       {[](const Session& s) { return renameComposite(s, viola, "Calm", "Calmer"); },
        [](const Session& s) { return removeComposite(s, viola, "Calm"); }}},
      {"a track's name",
       [](const Session& s) { return renameTrack(s, viola, "Lead"); },
       {[](const Session& s) { return renameTrack(s, viola, "Solo"); },
        [](const Session& s) { return removeTrack(s, viola); }}},
      {"a track that goes",
       [](const Session& s) { return removeTrack(s, drum); },
       {[](const Session& s) { return renameTrack(s, drum, "Tide"); },
        [](const Session& s) { return removeTrack(s, drum); }}},
      {"the order of tracks", [](const Session& s) { return placeTrack(s, drum, 1); }, {[](const Session& s) {
         return removeTrack(s, viola);
       }}},
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
  const Session before = whole();
  CHECK(sessionDelta(before, before).empty());
  for (const Change& change : changes()) {
    INFO(change.what);
    const Session after = change.made(before);
    REQUIRE_FALSE(same(before, after));
    const json delta = sessionDelta(before, after);
    CHECK(same(applyDelta(before, delta, forth), after));
    CHECK(same(applyDelta(after, delta, back), before));
    const json other = sessionDelta(after, before);
    CHECK(same(applyDelta(after, other, forth), before));
  }
}

TEST_CASE("What differs is refused where what it says was there is not") {
  const Session before = whole();
  for (const Change& change : changes()) {
    const json delta = sessionDelta(before, change.made(before));
    for (std::size_t i = 0; i < change.elsewhere.size(); ++i) {
      INFO(change.what << ", " << i);
      const Session elsewhere = change.elsewhere[i](before);
      REQUIRE_FALSE(same(before, elsewhere));
      CHECK_THROWS_AS(applyDelta(elsewhere, delta, forth), Error);
    }
  }
}

TEST_CASE("An order that names one twice, or leaves one out, is refused") {
  const Session before = whole();
  json delta = sessionDelta(before, placeLane(before, viola, {3}, 1));
  json& order = delta["tracks"]["changes"][0]["inside"]["lanes"]["order"];
  REQUIRE(order.is_array());
  REQUIRE(order[1] == json::array({3, 1, 2}));
  for (const json& bad : {json::array({3, 1, 1}), json::array({3, 1}), json::array({3, 1, 2, 2}),
                          json::array({3, 1, 2, 7}), json::array({3, 1, 7})}) {
    INFO(bad.dump());
    order[1] = bad;
    CHECK_THROWS_AS(applyDelta(before, delta, forth), Error);
  }
  order[1] = json::array({2, 3, 1});
  const Session other = applyDelta(before, delta, forth);
  CHECK(other.tracks[0]->lanes[0]->number == LaneNumber{2});
  CHECK(other.tracks[0]->lanes[2]->number == LaneNumber{1});
}
