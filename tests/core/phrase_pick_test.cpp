// SPDX-License-Identifier: GPL-3.0-or-later
//
// A phrase is picked as a whole: no word at its edges loses its end, whichever take it is of.
#include "core/joins/phrase_pick.h"

#include "core/core_tests.h"

#include "core/known_takes.h"

namespace {

struct PickedPhrase {
  Session session;
  std::vector<Sentence> notices;
  [[nodiscard]] std::vector<Piece> pieces() const { return resolve(*session.tracks[0], rate).pieces; }
};

PickedPhrase pickIn(const Takes& takes, std::size_t phrase, LaneNumber lane) {
  const auto phrases = takes.phrases(words);
  PhrasePick picked = pickPhrase(takes.session, takes.id(), phrases, phrase, lane, takes.find());
  checkInvariants(picked.session);
  return {std::move(picked.session), std::move(picked.notices)};
}

}  // namespace

TEST_CASE("The boundary waits for the longer word's end, and is there before the earlier one begins") {
  Takes takes(6.0);
  // The edges of the second cell lie at 2.25 s and 3.75 s.
  const auto early = takes.add({{1.0, 2.0}, {2.2, 3.5}, {4.0, 5.0}});
  const auto plainOne = takes.add(words);
  const auto longer = takes.add({{1.0, 2.4}, {2.5, 3.9}, {4.0, 5.0}});

  // What plays, the newest, still sounds at the edge.
  const PickedPhrase later = pickIn(takes, 1, plainOne);
  REQUIRE(later.pieces().size() == 3);
  CHECK(later.pieces()[1].span.start == seconds(2.45));
  CHECK(later.pieces()[1].span.end == seconds(3.75));
  REQUIRE(later.notices.size() == 1);
  CHECK(later.notices[0].english() == "The boundary lies 200 ms later: there Take 3 has come to its end.");

  // What is picked sounds beyond its end, and begins before it.
  takes.session = setLaneAside(takes.session, takes.id(), longer, true);
  const PickedPhrase earlier = pickIn(takes, 1, early);
  CHECK(earlier.pieces()[1].span.start == seconds(2.1));
  CHECK(earlier.notices.at(0).english() ==
        "The boundary lies 150 ms earlier: there Take 1 has not begun yet.");
  takes.session = setLaneAside(takes.session, takes.id(), longer, false);
  takes.session = pick(takes.session, takes.id(), {{}, seconds(6.0)}, plainOne);
  const PickedPhrase ends = pickIn(takes, 1, longer);
  REQUIRE(ends.pieces().size() == 3);
  CHECK(ends.pieces()[1].span == Span{seconds(2.25), seconds(3.95)});
}

TEST_CASE("Where neither rests both are heard, and another pick leaves nothing of that") {
  Takes takes(6.0);
  const auto early = takes.add({{1.0, 2.0}, {2.2, 3.5}, {3.7, 5.0}});
  const auto longer = takes.add({{1.0, 2.4}, {2.5, 3.9}, {4.0, 5.0}});
  takes.session = pick(takes.session, takes.id(), {{}, seconds(6.0)}, longer);
  PickedPhrase picked = pickIn(takes, 1, early);
  REQUIRE(picked.pieces().size() == 4);
  CHECK(picked.pieces()[0].span.end == seconds(2.2));
  CHECK(picked.pieces()[1].span == Span{seconds(2.2), seconds(2.4)});
  CHECK(picked.pieces()[1].lane == early);
  CHECK(picked.pieces()[1].overdubs == std::vector{longer});
  CHECK(picked.pieces()[2].overdubs.empty());
  CHECK(picked.pieces()[2].span.start == seconds(2.4));
  CHECK(picked.pieces()[3].lane == longer);
  REQUIRE(picked.notices.size() == 1);
  CHECK(picked.notices[0].english() ==
        "Take 2 still sounds when Take 1 begins: for 200 ms both are heard, so that neither loses anything.");

  // Back to the other take: one take throughout, nothing doubled.
  takes.session = picked.session;
  picked = pickIn(takes, 1, longer);
  CHECK(picked.pieces().size() == 1);
  CHECK(picked.pieces()[0].overdubs.empty());

  // At the end of the phrase likewise.
  takes.session = pick(takes.session, takes.id(), {{}, seconds(6.0)}, early);
  picked = pickIn(takes, 1, longer);
  REQUIRE(picked.pieces().size() == 4);
  CHECK(picked.pieces()[2].span == Span{seconds(3.7), seconds(3.9)});
  CHECK(picked.pieces()[2].lane == longer);
  CHECK(picked.pieces()[2].overdubs == std::vector{early});
  CHECK(picked.pieces()[3].span.start == seconds(3.9));
}

TEST_CASE(
    "A neighbour that is turned, pitched, ridden or slipped is not doubled: the boundary lies in the "
    "middle") {
  const std::vector<std::pair<PieceChange, double>> changes{{{.gain = Decibels{-3.0}}, 2.3},
                                                            {{.pitch = Cents{5.0}}, 2.3},
                                                            {{.level = LevelLine{{{0}, {-3.0}}}}, 2.3},
                                                            {{.slip = seconds(0.1)}, 2.35}};
  for (const auto& [change, boundary] : changes) {
    Takes takes(6.0);
    const auto early = takes.add({{1.0, 2.0}, {2.2, 3.5}, {3.8, 5.0}});
    const auto longer = takes.add({{1.0, 2.4}, {2.5, 3.6}, {4.0, 5.0}});
    takes.session = pick(takes.session, takes.id(), {seconds(0.5), seconds(5.5)}, longer);
    takes.session = changePiece(takes.session, takes.id(), seconds(2.0), change);
    INFO("boundary " << boundary);
    const PickedPhrase picked = pickIn(takes, 1, early);
    REQUIRE(picked.notices.size() >= 1);
    CHECK_THAT(picked.notices[0].english(), Catch::Contains("later: there Take 2 has come to its end."));
    const ResolvedComposite composite = resolve(*picked.session.tracks[0], rate);
    const Piece* const piece = composite.pieceAt(seconds(3.0));
    CHECK(piece->lane == early);
    CHECK(piece->span.start == seconds(boundary));
    for (const Piece& each : composite.pieces) CHECK(each.overdubs.empty());
  }
}

TEST_CASE("No word of what plays is cut by picks of whole phrases, whatever the takes' words are like") {
  std::mt19937 random(17);
  for (int round = 0; round < 400; ++round) {
    Takes takes(6.0);
    std::vector<std::vector<std::pair<double, double>>> sung;
    for (int take = 0; take < 3; ++take) {
      sung.push_back(words);
      double rested = 0.0;  // each take rests between its own words; those of others may go on meanwhile
      for (auto& [from, to] : sung.back()) {
        from = std::max(from + 0.01 * static_cast<double>(random() % 75) - 0.65, rested + 0.06);
        to += 0.01 * static_cast<double>(random() % 75) - 0.3;
        rested = to;
      }
    }
    // The first word may begin long before its cell, and the last one end long after.
    double& begins = sung[random() % 3].front().first;
    begins = std::max(0.02, begins - 0.01 * static_cast<double>(random() % 60));
    sung[random() % 3].back().second += 0.01 * static_cast<double>(random() % 50);
    for (const auto& each : sung) takes.add(each);
    const auto laneOf = [](std::size_t take) { return LaneNumber{static_cast<int>(take) + 1}; };
    std::array<std::size_t, 3> chosen{};
    chosen.fill(random() % 3);
    if (round % 2) {
      // What the ratings chose lies in rests, and not at the edges of cells.
      const auto phrases = takes.phrases(words);
      for (std::size_t phrase = 0; phrase < 3; ++phrase) {
        chosen[phrase] = random() % 3;
        takes.rate_(laneOf(chosen[phrase]), phrases[phrase], 5);
      }
      takes.session = playRough(takes.session, takes.id(),
                                roughComposite(takes.session, takes.track(), phrases, takes.find()).pieces);
    } else {
      takes.session = pick(takes.session, takes.id(), {{}, seconds(6.0)}, laneOf(chosen.front()));
    }
    std::string text;
    for (int i = 0; i < 5; ++i) {
      const std::size_t phrase = random() % 3;
      chosen[phrase] = random() % 3;
      text += std::to_string(phrase + 1) + " from " + std::to_string(chosen[phrase] + 1) + ", ";
      takes.session = pickIn(takes, phrase, laneOf(chosen[phrase])).session;
    }
    const ResolvedComposite composite = resolve(takes.track(), rate);
    INFO("round " << round << ": " << text);
    for (const Piece& piece : composite.pieces)
      CHECK((!piece.overdubs.empty() || piece.span.length() > seconds(0.3)));
    for (std::size_t phrase = 0; phrase < 3; ++phrase) {
      const std::size_t take = chosen[phrase];
      const auto [from, to] = sung[take][phrase];
      // Its edges are known to a step.
      for (double at = from + 0.011; at < to - 0.011; at += 0.005) {
        const Piece* const piece = composite.pieceAt(seconds(at));
        REQUIRE(piece);
        CHECK(piece->plays(laneOf(take)));
      }
    }
  }
}

TEST_CASE("A take that a person drew on into the next word stays there when the phrase before is picked") {
  Takes takes(6.0);
  const auto one = takes.add(words);
  const auto two = takes.add(words);
  const auto drawn = takes.add(words);
  takes.session = pick(takes.session, takes.id(), {{}, seconds(6.0)}, two);
  takes.session = pick(takes.session, takes.id(), {{}, seconds(2.9)}, drawn);
  const PickedPhrase picked = pickIn(takes, 0, one);
  const ResolvedComposite composite = resolve(*picked.session.tracks[0], rate);
  CHECK(composite.pieceAt(seconds(1.5))->lane == one);
  for (const double at : {2.26, 2.6, 2.89}) CHECK(composite.pieceAt(seconds(at))->lane == drawn);
  CHECK(composite.pieceAt(seconds(2.95))->lane == two);
}

TEST_CASE("A short overdub before a phrase stays when the take that plays both is picked") {
  Takes takes(6.0);
  const auto one = takes.add(words);
  const auto stroke = takes.add(words);
  takes.session = pick(takes.session, takes.id(), {{}, seconds(6.0)}, one);
  takes.session = overdub(takes.session, takes.id(), {seconds(2.1), seconds(2.2)}, stroke);
  const auto before = resolve(*takes.session.tracks[0], rate).pieces;
  REQUIRE(before.size() == 3);
  CHECK(before[1].overdubs == std::vector{stroke});
  CHECK(pickIn(takes, 1, one).pieces() == before);
}
