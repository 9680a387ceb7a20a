// SPDX-License-Identifier: GPL-3.0-or-later
//
// Random edits against a model that is too simple to be wrong: an array that says, for every frame, which
// lane plays it.
#include <nlohmann/json.hpp>
#include "core/core_tests.h"

using yewdrift::test::butForPool;

namespace {

constexpr TrackId edited{1};
constexpr int editedLength = 2000;
constexpr int nobody = 0;
constexpr int silence = -1;

struct EditModel {
  std::vector<int> picked = std::vector<int>(editedLength, nobody);  // lane, silence, or nobody picked
  std::vector<Span> lanes;

  [[nodiscard]] int playing(int frame) const {
    if (picked[static_cast<std::size_t>(frame)] != nobody) return picked[static_cast<std::size_t>(frame)];
    for (std::size_t lane = lanes.size(); lane > 0; --lane)
      if (lanes[lane - 1].contains({frame})) return static_cast<int>(lane);
    return nobody;
  }
};

int playing(const ResolvedComposite& composite, int frame) {
  const Piece* piece = composite.pieceAt({frame});
  if (!piece) return nobody;
  return piece->lane ? piece->lane->value : piece->picked ? silence : nobody;
}

void requireSound(const ResolvedComposite& composite) {
  for (std::size_t i = 0; i < composite.pieces.size(); ++i) {
    REQUIRE_FALSE(composite.pieces[i].span.empty());
    if (i > 0) REQUIRE(composite.pieces[i].span.start == composite.pieces[i - 1].span.end);
  }
  Frames reached = -maximumPosition;
  for (const Join& join : composite.joins) {
    REQUIRE(join.shape.before.count >= 0);
    REQUIRE(join.shape.after.count >= 0);
    REQUIRE(join.at - join.shape.before >= reached);  // crossfades do not overlap
    reached = join.at + join.shape.after;
  }
}

}  // namespace

TEST_CASE("Any sequence of takes and picks plays what the simple model says; undo gives back each value") {
  std::mt19937 random(11);
  auto number = [&random](int low, int high) { return std::uniform_int_distribution(low, high)(random); };
  for (int trial = 0; trial < 60; ++trial) {
    EditModel model;
    History history(addTrack(Session{}, "Viola", microphonesFor(1)));
    std::vector<Session> values{history.now()};
    // On a coarse grid edges meet all the time.
    const int grid = trial % 2 == 0 ? 1 : 200;
    for (int step = 0; step < 60; ++step) {
      const int from = grid * number(0, (editedLength - 2) / grid);
      const Span span{{from}, {grid * number(from / grid + 1, editedLength / grid)}};
      Session next = history.now();
      if (model.lanes.empty() || number(0, 5) == 0) {
        next = addPoolFile(next, {"audio/x.wav", 1, span.length()});
        next = addLane(next, edited,
                       {{span.start, span.length(), span, {{static_cast<int>(next.pool->size()) - 1, 0}}}});
        model.lanes.push_back(span);
      } else {
        const int lane = number(0, static_cast<int>(model.lanes.size()));
        // Where a lane has nothing the composite keeps what it plays.
        const Span there = lane == 0 ? span : span.intersect(model.lanes[static_cast<std::size_t>(lane) - 1]);
        if (there.empty()) {
          CHECK_THROWS_AS(pick(next, edited, span, LaneNumber{lane}), Error);
          continue;
        }
        next = pick(next, edited, span, lane == 0 ? std::nullopt : std::optional(LaneNumber{lane}));
        std::fill(model.picked.begin() + there.start.count, model.picked.begin() + there.end.count,
                  lane == 0 ? silence : lane);
      }
      history.commit("step", next);
      if (!(values.back() == next)) values.push_back(next);
      const ResolvedComposite composite = resolve(*next.track(edited), next.rate);
      requireSound(composite);
      for (int frame = 0; frame < editedLength; ++frame)
        REQUIRE(playing(composite, frame) == model.playing(frame));
    }
    checkInvariants(history.now());
    REQUIRE(sessionFromJson(toJson(history.now())) == history.now());
    for (std::size_t i = values.size(); i-- > 1;) {
      REQUIRE((butForPool(history.now()) == butForPool(values[i])));
      history.undo();
    }
    CHECK((butForPool(history.now()) == butForPool(values.front())));
    while (history.redoLabel()) history.redo();
    CHECK(history.now() == values.back());
  }
}

TEST_CASE("Around any place the pieces are those of the whole composite, however many picks became one") {
  std::mt19937 random(13);
  auto number = [&random](int low, int high) { return std::uniform_int_distribution(low, high)(random); };
  for (int trial = 0; trial < 60; ++trial) {
    Session session = addTrack(Session{}, "Viola", microphonesFor(1));
    for (int lane = 0; lane < 2; ++lane) {
      session = addPoolFile(session, {"audio/x.wav", 1, {editedLength}});
      session = addLane(session, edited, {{{}, {editedLength}, {{}, {editedLength}}, {{lane, 0}}}});
    }
    // Chosen by hand and proposed in turn: they stay apart, and play the same; now and then another take.
    std::vector<Piece> picks;
    for (int from = 0, lane = 1; from < editedLength; from += 20) {
      if (number(0, 25) == 0) lane = 3 - lane;
      Piece piece;
      piece.span = {{from}, {from + 20}};
      piece.lane = LaneNumber{lane};
      piece.picked = true;
      piece.rough = from % 40 == 0;
      picks.push_back(piece);
    }
    Track& track = session.tracks.front().edit();
    track.composite.picks = SharedSequence<Piece>(picks);
    const ResolvedComposite whole = resolve(track, session.rate);
    CHECK(whole.pieces.size() < 20);
    const auto among = [](const std::vector<Piece>& pieces, Frames at) {
      const auto found = std::find_if(pieces.begin(), pieces.end(),
                                      [at](const Piece& piece) { return piece.span.contains(at); });
      REQUIRE(found != pieces.end());
      return *found;
    };
    for (int at = 1; at < editedLength; at += 7) {
      const std::vector<Piece> around = piecesAround(track, {at});
      REQUIRE(among(around, {at}) == among(whole.pieces, {at}));
      REQUIRE(among(around, {at - 1}) == among(whole.pieces, {at - 1}));
    }
    for (const Join& join : whole.joins) {
      const std::vector<Piece> around = piecesAround(track, join.at);
      REQUIRE(among(around, join.at) == among(whole.pieces, join.at));
      REQUIRE(among(around, join.at - Frames{1}) == among(whole.pieces, join.at - Frames{1}));
    }
  }
}

TEST_CASE("Moving boundaries at random keeps the composite whole and moves nothing else") {
  std::mt19937 random(12);
  auto number = [&random](int low, int high) { return std::uniform_int_distribution(low, high)(random); };
  Session session = addTrack(Session{}, "Viola", microphonesFor(1));
  for (int lane = 0; lane < 4; ++lane) {
    session = addPoolFile(session, {"audio/x.wav", 1, {editedLength + 200}});
    session = addLane(
        session, edited,
        {{{-100}, {editedLength + 200}, {{number(0, 500)}, {number(1500, editedLength)}}, {{lane, 0}}}});
  }
  for (int i = 0; i < 12; ++i) {
    const int from = number(0, editedLength - 50);
    session = pick(session, edited, {{from}, {from + 50}}, LaneNumber{number(1, 4)}, PickReach::Handles);
  }
  for (int step = 0; step < 400; ++step) {
    const ResolvedComposite before = resolve(*session.track(edited), session.rate);
    const Join& join =
        before.joins[static_cast<std::size_t>(number(0, static_cast<int>(before.joins.size()) - 1))];
    const Frames to{join.at.count + number(-120, 120)};
    // Every lane has material all along: one frame of the piece that gives has to stay.
    const Frames reached = std::clamp(to, before.pieceAt(join.at - Frames{1})->span.start + Frames{1},
                                      before.pieceAt(join.at)->span.end - Frames{1});
    REQUIRE(reachableBoundary(session, edited, join.at, to) == reached);
    session = moveBoundary(session, edited, join.at, to);
    const ResolvedComposite after = resolve(*session.track(edited), session.rate);
    requireSound(after);
    const Span moved{std::min(join.at, reached), std::max(join.at, reached)};
    // What lies between plays what takes.
    const int taking =
        playing(before, static_cast<int>((reached > join.at ? join.at - Frames{1} : join.at).count));
    for (int frame = 0; frame < editedLength; ++frame)
      REQUIRE(playing(after, frame) == (moved.contains({frame}) ? taking : playing(before, frame)));
    REQUIRE(after.joinAt(reached) != nullptr);
    checkInvariants(session);
  }
}
