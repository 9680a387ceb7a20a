// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the composite plays, on sessions without files: the model needs none.
#include "core/core_tests.h"

#include "core/session/picked_parts.h"

namespace {

constexpr TrackId viola{1};

Session withTrack() {
  return addTrack(Session{}, "Viola", microphonesFor(1));
}

/// A lane that is audible over `window`, with `handle` frames more on both sides.
Session withLane(Session session, Span window, std::int64_t handle = 0) {
  const Frames length = window.length() + Frames{2 * handle};
  session = addPoolFile(std::move(session), {"audio/x.wav", 1, length});
  const Clip clip{
      window.start - Frames{handle}, length, window, {{static_cast<int>(session.pool->size()) - 1, 0}}};
  return addLane(std::move(session), viola, {clip});
}

ResolvedComposite compositeOf(const Session& session) {
  return resolve(*session.track(viola), session.rate);
}

std::string plays(const Session& session) {
  std::string text;
  for (const Piece& piece : compositeOf(session).pieces) {
    text += std::to_string(piece.span.start.count) + "-" + std::to_string(piece.span.end.count) + ":" +
            (piece.lane     ? std::to_string(piece.lane->value)
             : piece.picked ? "silence"
                            : "nothing");
    for (const LaneNumber lane : piece.overdubs) text += "+" + std::to_string(lane.value);
    text += " ";
  }
  return text;
}

}  // namespace

TEST_CASE("A span plays again what another composite plays there, as far as its lanes are still there") {
  Session s = withTrack();
  for (int i = 0; i < 4; ++i) s = withLane(s, {{0}, {1000}});
  s = pick(s, viola, {{0}, {200}}, LaneNumber{1});
  s = pick(s, viola, {{200}, {400}}, LaneNumber{2});
  s = overdub(s, viola, {{100}, {300}}, LaneNumber{3});
  s = pick(s, viola, {{500}, {600}}, std::nullopt);
  const Composite before = s.track(viola)->composite;
  s = pick(s, viola, {{0}, {1000}}, LaneNumber{4});
  CHECK(plays(playAsIn(s, viola, before, {{50}, {550}})) ==
        "0-50:4 50-100:1 100-200:1+3 200-300:2+3 300-400:2 400-500:4 500-550:silence 550-1000:4 ");
  // A lane that is gone plays nowhere, and one that was heard with another leaves that one.
  const Session without = removeLane(removeLane(s, viola, {2}), viola, {3});
  CHECK(plays(playAsIn(without, viola, before, {{0}, {1000}})) ==
        "0-200:1 200-500:4 500-600:silence 600-1000:4 ");
}

TEST_CASE("A flattened file takes the place of a span only where it holds all of it") {
  const Session s = withLane(withTrack(), {{0}, {1000}});
  const PoolFile file{"audio/flat.wav", 1, Frames{300}};
  CHECK(plays(takePlaceInComposite(s, viola, file, {100}, {{100}, {400}})) ==
        "0-100:1 100-400:2 400-1000:1 ");
  for (const Span wrong : {Span{{200}, {200}}, Span{{99}, {300}}, Span{{200}, {401}}})
    CHECK_THROWS_WITH(takePlaceInComposite(s, viola, file, {100}, wrong),
                      Catch::Contains("does not hold all"));
}

TEST_CASE("What was picked of a piece is told, also where the same take goes on beside it") {
  Session s = withLane(withLane(withTrack(), {{0}, {1000}}), {{200}, {600}});
  const auto parts = [&](std::size_t index) {
    return pickedParts(*s.track(viola), compositeOf(s).pieces.at(index));
  };
  const auto who = [&](std::size_t index) {
    return chosenBy(*s.track(viola), compositeOf(s).pieces.at(index));
  };
  CHECK(parts(1).empty());
  CHECK(who(1) == ChosenBy::Nobody);
  s = pick(s, viola, {{300}, {400}}, LaneNumber{2});
  s = pick(s, viola, {{450}, {500}}, LaneNumber{2});
  s = pick(s, viola, {{800}, {900}}, LaneNumber{1});
  REQUIRE(plays(s) == "0-200:1 200-600:2 600-1000:1 ");
  CHECK(parts(0).empty());
  CHECK(parts(1) == std::vector<Span>{{{300}, {400}}, {{450}, {500}}});
  CHECK(parts(2) == std::vector<Span>{{{800}, {900}}});
  CHECK(who(0) == ChosenBy::Nobody);
  CHECK(who(1) == ChosenBy::InPart);
  s = pick(s, viola, {{200}, {600}}, LaneNumber{2});
  CHECK(parts(1) == std::vector<Span>{{{200}, {600}}});
  CHECK(who(1) == ChosenBy::Person);
  // Two picks of one take, side by side.
  s = pick(s, viola, {{400}, {600}}, LaneNumber{1});
  s = pick(s, viola, {{400}, {600}}, LaneNumber{2});
  CHECK(parts(1) == std::vector<Span>{{{200}, {600}}});
  Piece byRatings = compositeOf(s).pieces.at(1);
  byRatings.rough = true;
  CHECK(chosenBy(*s.track(viola), byRatings) == ChosenBy::Ratings);
}

TEST_CASE("What is set aside plays nowhere but where it was picked") {
  Session s = withLane(withLane(withLane(withTrack(), {{0}, {1000}}), {{200}, {600}}), {{400}, {800}});
  s = setLaneAside(s, viola, {3}, true);
  CHECK(plays(s) == "0-200:1 200-600:2 600-1000:1 ");
  CHECK(newestLaneAt(*s.track(viola), {500})->number == LaneNumber{2});
  CHECK(newestLaneAt(*s.track(viola), {700})->number == LaneNumber{1});
  CHECK(newestLaneAt(*s.track(viola), {1000}) == nullptr);
  s = pick(s, viola, {{500}, {700}}, LaneNumber{3});
  CHECK(plays(s) == "0-200:1 200-500:2 500-700:3 700-1000:1 ");
  s = setLaneAside(s, viola, {2}, true);
  CHECK(plays(s) == "0-500:1 500-700:3 700-1000:1 ");
  s = setLaneAside(s, viola, {3}, false);
  CHECK(plays(s) == "0-400:1 400-800:3 800-1000:1 ");
  CHECK(newestLaneAt(*s.track(viola), {500})->number == LaneNumber{3});
}

TEST_CASE("A join is 10 ms, matched, centred, and shorter where a take has no material") {
  Session s = withLane(withLane(withTrack(), {{0}, {48000}}), {{0}, {48000}});
  s = pick(s, viola, {{10000}, {20000}}, LaneNumber{1});
  auto joins = compositeOf(s).joins;
  REQUIRE(joins.size() == 2);
  CHECK(joins[0] == Join{{10000}, {{240}, {240}, Curve::Matched}, false});

  // Lane 3 begins at 30000 with a handle of 100 frames, lane 2 goes on for long.
  s = withLane(s, {{30000}, {40000}}, 100);
  joins = compositeOf(s).joins;
  CHECK(joins[2] == Join{{30000}, {{100}, {240}, Curve::Matched}, false});
  CHECK(joins[3] == Join{{40000}, {{240}, {100}, Curve::Matched}, false});
}
