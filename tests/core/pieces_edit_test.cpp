// SPDX-License-Identifier: GPL-3.0-or-later
//
// Picks over handles and over nothing, splits, merges, slips, and what is known of joins; without files.
#include "core/core_tests.h"

namespace {

constexpr TrackId pieceTrack{1};

/// A lane that is audible over `window`, with handles on both sides.
Session withLane(Session session, Span window, std::int64_t before = 0, std::int64_t behind = 0) {
  const Frames length = window.length() + Frames{before + behind};
  session = addPoolFile(std::move(session), {"audio/x.wav", 1, length});
  const Clip clip{
      window.start - Frames{before}, length, window, {{static_cast<int>(session.pool->size()) - 1, 0}}};
  return addLane(std::move(session), pieceTrack, {clip});
}

/// Lane 1 from 0 to 10,000; lane 2 audible from 2,000 to 4,000, with 500 and 1,000 frames of handles.
Session twoLanes() {
  Session session = addTrack(Session{}, "Viola", microphonesFor(1));
  session = withLane(std::move(session), {{0}, {10000}});
  session = withLane(std::move(session), {{2000}, {4000}}, 500, 1000);
  return pick(std::move(session), pieceTrack, {{0}, {10000}}, LaneNumber{1});
}

const Track& track(const Session& session) {
  return *session.track(pieceTrack);
}

std::string plays(const Session& session) {
  std::string text;
  for (const Piece& piece : resolve(track(session), session.rate).pieces)
    text += std::to_string(piece.span.start.count) + "-" + std::to_string(piece.span.end.count) + ":" +
            (piece.lane ? std::to_string(piece.lane->value) : "silence") + (piece.split ? "! " : " ");
  return text;
}

std::string audible(const Session& session, int lane) {
  std::string text;
  for (const Clip& clip : track(session).lane({lane})->clips)
    text += std::to_string(clip.window.start.count) + "-" + std::to_string(clip.window.end.count) + " ";
  return text;
}

}  // namespace

TEST_CASE("A split is a boundary between equals until one side is picked anew; merged it is gone") {
  const Session before = twoLanes();
  Session session = splitPiece(before, pieceTrack, {6000});
  CHECK(plays(session) == "0-6000:1 6000-10000:1! ");
  const auto joins = resolve(track(session), session.rate).joins;
  REQUIRE(joins.size() == 1);
  CHECK(joins[0].at == Frames{6000});
  CHECK_THROWS_WITH(splitPiece(session, pieceTrack, {6000}), Catch::Contains("already"));
  CHECK_THROWS_AS(splitPiece(session, pieceTrack, {20000}), Error);

  // Both sides are the person's: a new take is heard in neither.
  CHECK(plays(withLane(session, {{0}, {10000}})) == "0-6000:1 6000-10000:1! ");
  // A pick over it takes it away; one on one side of it leaves it a boundary.
  CHECK(plays(pick(session, pieceTrack, {{5000}, {7000}}, LaneNumber{1})) == "0-10000:1 ");
  const Session other = withLane(session, {{0}, {10000}});
  CHECK(plays(pick(other, pieceTrack, {{6000}, {10000}}, LaneNumber{3})) == "0-6000:1 6000-10000:3 ");
  CHECK(plays(pick(other, pieceTrack, {{0}, {6000}}, LaneNumber{3})) == "0-6000:3 6000-10000:1! ");
  CHECK(plays(pick(other, pieceTrack, {{6500}, {7000}}, LaneNumber{3})) ==
        "0-6000:1 6000-6500:1! 6500-7000:3 7000-10000:1 ");

  // It can be moved like any other, and a join set on it goes along.
  Session moved = setJoin(session, pieceTrack, {6000}, {{10}, {20}, Curve::S, 0.5});
  moved = moveBoundary(moved, pieceTrack, {6000}, {6500});
  CHECK(plays(moved) == "0-6500:1 6500-10000:1! ");
  REQUIRE(resolve(track(moved), moved.rate).joins.size() == 1);
  CHECK(resolve(track(moved), moved.rate).joins[0].shape == JoinShape{{10}, {20}, Curve::S, 0.5});
  CHECK(plays(mergePieces(moved, pieceTrack, {6500})) == "0-10000:1 ");
  CHECK(mergePieces(session, pieceTrack, {6000}) == before);

  moved = moveBoundary(moved, pieceTrack, {6500}, {5000});
  CHECK(plays(moved) == "0-5000:1 5000-10000:1! ");
}

TEST_CASE("A slip goes as far as there is material; beyond it says what is silent, and never all") {
  Session session = pick(twoLanes(), pieceTrack, {{2000}, {4000}}, LaneNumber{2});
  const auto slipped = [&](std::int64_t by) {
    return changePiece(session, pieceTrack, {3000}, {.slip = Frames{by}});
  };
  CHECK(reachableSlip(session, pieceTrack, {3000}, {9999}) == Frames{500});
  CHECK(reachableSlip(session, pieceTrack, {3000}, {-9999}) == Frames{-1000});
  CHECK(reachableSlip(session, pieceTrack, {3000}, {77}) == Frames{77});
  // The handle that it plays now is audible.
  CHECK(audible(slipped(500), 2) == "1500-4000 ");
  CHECK(audible(slipped(-1000), 2) == "2000-5000 ");
  CHECK_FALSE(slipNotice(slipped(500), pieceTrack, {3000}));
  REQUIRE(slipNotice(slipped(980), pieceTrack, {3000}));
  CHECK(slipNotice(slipped(980), pieceTrack, {3000})->english() ==
        "Lane 2 has no material for 10 ms of that piece: there it is silent.");
  CHECK_THROWS_AS(slipped(2600), Error);
  CHECK_THROWS_AS(slipped(-3000), Error);
  CHECK_THROWS_AS(reachableSlip(session, pieceTrack, {20000}, {0}), Error);
  // What plays all of a take cannot be slipped at all.
  const Session all = withLane(addTrack(Session{}, "Viola", microphonesFor(1)), {{0}, {10000}});
  CHECK(reachableSlip(all, pieceTrack, {3000}, {50}) == Frames{0});
  CHECK(reachableSlip(all, pieceTrack, {3000}, {-50}) == Frames{0});
  // From there it can be slipped on by as much as from where it was.
  CHECK(reachableSlip(slipped(300), pieceTrack, {3000}, {9999}) == Frames{500});

  // Its line goes along.
  session = changePiece(session, pieceTrack, {3000}, {.level = LevelLine{{{2500}, {-3.0}}}});
  const Session later = changePiece(session, pieceTrack, {3000}, {.slip = Frames{100}});
  CHECK(resolve(track(later), later.rate).pieceAt({3000})->level == LevelLine{{{2600}, {-3.0}}});
}

TEST_CASE("What is known of a join goes with what it is known of") {
  Session session = pick(twoLanes(), pieceTrack, {{2000}, {4000}}, LaneNumber{2});
  session = withLane(session, {{0}, {10000}});
  const JoinShape shape{{100}, {200}, Curve::EqualPower, -0.5};
  const auto joinAt = [](const Session& s, std::int64_t at) {
    return *resolve(track(s), s.rate).joinAt({at});
  };
  const Session set = settleJoin(setJoin(session, pieceTrack, {2000}, shape), pieceTrack, {2000}, true);
  CHECK(joinAt(set, 2000) == Join{{2000}, shape, true, false, true});
  const Session found =
      settleJoin(setJoin(session, pieceTrack, {2000}, shape, true), pieceTrack, {2000}, true);
  CHECK(joinAt(found, 2000) == Join{{2000}, shape, false, true, true});
  const Session onlySettled = settleJoin(session, pieceTrack, {2000}, true);
  CHECK(joinAt(onlySettled, 2000) == Join{{2000}, defaultJoin(session.rate), false, false, true});
  CHECK(settleJoin(onlySettled, pieceTrack, {2000}, false) == session);
  CHECK(resetJoin(setJoin(session, pieceTrack, {2000}, shape), pieceTrack, {2000}) == session);

  // Another take on one side: what a person set stays, what was found or settled does not.
  const auto anew = [](const Session& s) { return pick(s, pieceTrack, {{2000}, {4000}}, LaneNumber{3}); };
  CHECK(joinAt(anew(set), 2000) == Join{{2000}, shape, true, false, false});
  CHECK(joinAt(anew(found), 2000) == Join{{2000}, defaultJoin(session.rate), false, false, false});
  // Another take elsewhere changes nothing of it.
  CHECK(joinAt(pick(set, pieceTrack, {{5000}, {6000}}, LaneNumber{3}), 2000) == joinAt(set, 2000));
  // Moved, it is to be heard again.
  CHECK(joinAt(moveBoundary(set, pieceTrack, {2000}, {2100}), 2100) ==
        Join{{2100}, shape, true, false, false});
  CHECK(joinAt(moveBoundary(found, pieceTrack, {2000}, {2100}), 2100).shape == defaultJoin(session.rate));

  CHECK_THROWS_AS(settleJoin(session, pieceTrack, {3000}, true), Error);
  CHECK_THROWS_AS(resetJoin(session, pieceTrack, {3000}), Error);
  CHECK_THROWS_AS(setJoin(session, pieceTrack, {2000}, {{1}, {1}, Curve::S, 1.5}), Error);
  CHECK_THROWS_AS(setJoin(session, pieceTrack, {2000}, {{1}, {1}, Curve::S, std::nan("")}), Error);
  CHECK_THROWS_AS(setEndFade(session, pieceTrack, CompositeEnd::Start, {{-1}}), Error);
  CHECK_THROWS_AS(setEndFade(session, pieceTrack, CompositeEnd::End, {{1}, Curve::S, -2.0}), Error);
}
