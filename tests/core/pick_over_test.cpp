// SPDX-License-Identifier: GPL-3.0-or-later
//
// Picking against a plain model, frame by frame: what is audible of the take, inside what is asked for, and
// nothing else. Without files.
#include "core/core_tests.h"

namespace {

constexpr TrackId pickTrack{1};
constexpr std::int64_t pickCell = 100;  // the grid on which edges meet
constexpr int pickCells = 40;

int chanceUpTo(std::mt19937& random, int most) {
  return std::uniform_int_distribution<int>(0, most)(random);
}

Span chanceSpan(std::mt19937& random) {
  const int from = chanceUpTo(random, pickCells - 1);
  return {Frames{pickCell * from}, Frames{pickCell * (from + 1 + chanceUpTo(random, pickCells - 1 - from))}};
}

/// Takes with windows apart, as punches leave them, on a source with handles; some are cut.
Session takesByChance(std::mt19937& random) {
  Session session = addTrack(Session{}, "Viola", microphonesFor(1));
  session = addPoolFile(std::move(session), {"audio/a.wav", 1, {pickCell * pickCells}});
  for (int lane = 0; lane < 4; ++lane) {
    std::vector<Clip> clips;
    for (int from = chanceUpTo(random, 8); from < pickCells; from += 4 + chanceUpTo(random, 12)) {
      const int to = std::min(pickCells, from + 1 + chanceUpTo(random, 8));
      clips.push_back({{}, {pickCell * pickCells}, {{pickCell * from}, {pickCell * to}}, {{0, 0}}});
      from = to;
    }
    if (clips.empty()) clips.push_back({{}, {pickCell * pickCells}, {{0}, {pickCell * pickCells}}, {{0, 0}}});
    session = addLane(std::move(session), pickTrack, clips);
  }
  for (int i = chanceUpTo(random, 3); i > 0; --i) {
    const LaneNumber lane{1 + chanceUpTo(random, 3)};
    const Span span = chanceSpan(random);
    const auto& clips = session.track(pickTrack)->lane(lane)->clips;
    const bool sounds = std::any_of(clips.begin(), clips.end(),
                                    [span](const Clip& clip) { return clip.window.overlaps(span); });
    if (sounds)
      session = chanceUpTo(random, 4) == 0 ? cutLane(std::move(session), pickTrack, lane, span)
                                           : pick(std::move(session), pickTrack, span, lane);
  }
  return session;
}

bool anyCovers(const std::vector<Clip>& clips, Frames at) {
  return std::any_of(clips.begin(), clips.end(), [at](const Clip& clip) { return clip.window.contains(at); });
}

/// The lane that plays in each cell: 0 where nothing does.
std::vector<int> playedInCells(const Session& session) {
  const ResolvedComposite composite = resolve(*session.track(pickTrack), session.rate);
  std::vector<int> played;
  for (int i = 0; i < pickCells; ++i) {
    const Piece* const piece = composite.pieceAt({pickCell * i});
    played.push_back(piece && piece->lane ? piece->lane->value : 0);
  }
  return played;
}

}  // namespace

TEST_CASE("A pick plays what is audible of the take inside what is asked for, and changes nothing else") {
  using Kind = PickOver::Kind;
  int refused = 0;
  int tellsOfReplaced = 0;
  for (unsigned seed = 0; seed < 400; ++seed) {
    std::mt19937 random(seed);
    const Session before = takesByChance(random);
    PickRequest request{.track = pickTrack, .over = {}, .lane = LaneNumber{1 + chanceUpTo(random, 3)}};
    const bool handles = chanceUpTo(random, 3) == 0 && seed % 4 != 1;
    if (handles) request.reach = PickReach::Handles;
    request.over.span = chanceSpan(random);
    if (seed % 4 == 1) request.over = {Kind::WholeTake, {}};
    if (seed % 4 == 2) {
      // With an open end it goes as far as the take does.
      request.over.kind = Kind::Punch;
      if (seed % 3 == 1) request.over.span.start = -maximumPosition;
      if (seed % 3 == 2) request.over.span.end = maximumPosition;
    }
    if (seed % 4 == 3) try {
        request.over = pieceOver(before, pickTrack, Frames{pickCell * chanceUpTo(random, pickCells - 1)});
      } catch (const Error&) {
        continue;  // nothing plays there
      }
    const bool whole = request.over.kind == Kind::WholeTake;
    const Lane& lane = *before.track(pickTrack)->lane(*request.lane);
    // A whole take is no longer than what is audible of it, whatever was cut off at its ends.
    const Span audible{lane.clips.empty() ? Frames{} : lane.clips.front().window.start,
                       lane.clips.empty() ? Frames{} : lane.clips.back().window.end};
    Span over = request.over.span;
    if (over.start == -maximumPosition) over.start = std::min(audible.start, over.end - Frames{1});
    if (over.end == maximumPosition) over.end = std::max(audible.end, over.start + Frames{1});
    const auto asked = [&](Frames at) { return whole ? audible.contains(at) : over.contains(at); };
    std::vector<int> expected = playedInCells(before);
    bool any = false;
    bool lacks = false;
    bool replaces = false;
    for (int i = 0; i < pickCells; ++i) {
      const Frames at{pickCell * i};
      if (!asked(at)) continue;
      if (!handles && !anyCovers(lane.clips, at) && !anyCovers(lane.cutAway, at)) {
        lacks = lacks || !whole;
        continue;
      }
      any = true;
      for (const Piece& piece : before.track(pickTrack)->composite.picks)
        replaces = replaces || (piece.picked && piece.span.contains(at) && piece.lane != request.lane);
      expected[static_cast<std::size_t>(i)] = request.lane->value;
    }
    INFO("seed " << seed);
    if (!any) {
      ++refused;
      CHECK_THROWS_AS(pickOver(before, request, {}, {}), Error);
      continue;
    }
    const yewdrift::Picked picked = pickOver(before, request, {}, {});
    checkInvariants(picked.session);
    CHECK(playedInCells(picked.session) == expected);
    if (!handles)
      for (const auto& each : before.track(pickTrack)->lanes)
        CHECK((*picked.session.track(pickTrack)->lane(each->number) == *each));
    std::string said;
    for (const Sentence& each : picked.notices) said += each.english() + " ";
    CHECK((said.find("has nothing") != std::string::npos) == lacks);
    const bool tells = said.find("takes the place of") != std::string::npos;
    CHECK((replaces || !tells));
    tellsOfReplaced += tells ? 1 : 0;
  }
  CHECK(refused > 10);
  CHECK(tellsOfReplaced > 10);
}

TEST_CASE("A decision that a pick replaces is named, unless it is the one in hand") {
  Session session = addTrack(Session{}, "Viola", microphonesFor(1));
  session = addPoolFile(std::move(session), {"audio/a.wav", 1, {10000}});
  for (int lane = 0; lane < 3; ++lane)
    session = addLane(std::move(session), pickTrack, {Clip{{}, {10000}, {{0}, {10000}}, {{0, 0}}}});
  session = pick(std::move(session), pickTrack, {{2000}, {4000}}, LaneNumber{1});
  const auto said = [&](PickOver::Kind kind, Span span, std::optional<LaneNumber> lane) {
    const yewdrift::Picked picked =
        pickOver(session, {.track = pickTrack, .over = {kind, span}, .lane = lane}, {}, {});
    return english(picked.notices);
  };
  using Kind = PickOver::Kind;
  CHECK(said(Kind::Piece, {{2000}, {4000}}, LaneNumber{2}).empty());
  CHECK(said(Kind::Span, {{2000}, {4000}}, LaneNumber{2}).empty());
  CHECK(said(Kind::Span, {{1000}, {5000}}, LaneNumber{1}).empty());
  CHECK_THAT(said(Kind::Span, {{3000}, {5000}}, LaneNumber{2}), Catch::Contains("the place of lane 1"));
  CHECK_THAT(said(Kind::Span, {{3000}, {5000}}, std::nullopt), Catch::Contains("the place of lane 1"));
  session = pick(std::move(session), pickTrack, {{6000}, {7000}}, std::nullopt);
  CHECK_THAT(said(Kind::Span, {{6500}, {7500}}, LaneNumber{2}), Catch::Contains("the place of silence"));
  CHECK_THAT(said(Kind::Piece, {{0}, {10000}}, LaneNumber{2}), Catch::Contains("2 stretches"));
}
