// SPDX-License-Identifier: GPL-3.0-or-later
//
// The rough composite: the best rated take of every phrase, and of those rated alike the sequence that joins
// best, against all sequences there are.
#include "core/joins/rough_composite.h"

#include "core/core_tests.h"

#include "core/joins/phrase_gap.h"
#include "core/known_takes.h"

TEST_CASE("The least sequence is the least of all there are") {
  std::mt19937 random(5);
  for (int round = 0; round < 300; ++round) {
    std::vector<std::size_t> choices(1 + random() % 5);
    for (auto& count : choices) count = 1 + random() % 4;
    std::vector<double> costs(choices.size() * 16);
    // Whole numbers, so that sums are exact and ties happen.
    for (double& cost : costs) cost = static_cast<double>(random() % 7);
    const auto cost = [&](std::size_t i, std::size_t a, std::size_t b) { return costs[i * 16 + a * 4 + b]; };
    const auto sumOf = [&](const std::vector<std::size_t>& sequence) {
      double sum = 0.0;
      for (std::size_t i = 0; i + 1 < sequence.size(); ++i) sum += cost(i, sequence[i], sequence[i + 1]);
      return sum;
    };
    const auto found = leastSequence(choices, cost);
    REQUIRE(found.size() == choices.size());
    for (std::size_t i = 0; i < found.size(); ++i) REQUIRE(found[i] < choices[i]);
    double least = std::numeric_limits<double>::infinity();
    std::vector<std::size_t> sequence(choices.size(), 0);
    for (bool more = true; more;) {
      least = std::min(least, sumOf(sequence));
      std::size_t i = 0;
      while (i < sequence.size() && ++sequence[i] == choices[i]) sequence[i++] = 0;
      more = i < sequence.size();
    }
    CHECK(sumOf(found) == least);
  }
  CHECK(leastSequence({}, {}).empty());
}

TEST_CASE("In a gap each take has its own word's end and next word, and joins lie in the rest of both") {
  Takes takes(6.0);
  const auto even = takes.add(words);
  const auto later = takes.add({{1.0, 2.2}, {2.4, 3.5}});
  const auto longer = takes.add({{1.0, 2.45}, {2.6, 3.5}});
  const std::vector<Piece> pieces{plain(even), plain(later), plain(longer)};
  const auto gap = gapBetween(takes.track(), rate, {seconds(1.0), seconds(2.0)}, {seconds(2.5), seconds(3.5)},
                              pieces, takes.find());
  REQUIRE(gap.takes.size() == 3);
  CHECK(gap.loudest == Approx(0.01F));
  CHECK(gap.takes[0].wordEnd == seconds(2.0));
  CHECK(gap.takes[0].nextWord == seconds(2.5));
  CHECK(gap.takes[1].wordEnd == seconds(2.2));
  CHECK(gap.takes[1].nextWord == seconds(2.4));
  CHECK(gap.takes[2].wordEnd == seconds(2.45));
  CHECK(gap.takes[2].nextWord == seconds(2.6));

  // The middle of the rest that both have.
  const GapJoin in = joinIn(gap, 0, 1);
  CHECK(in.at == seconds(2.2));
  CHECK_FALSE(in.bothUntil);
  const GapJoin out = joinIn(gap, 1, 0);
  CHECK(out.at == seconds(2.35));
  CHECK_FALSE(out.bothUntil);
  CHECK(out.audibility < 0.2);
  // A word that is still sung when the next one begins: both are heard, neither loses anything.
  const GapJoin both = joinIn(gap, 2, 1);
  CHECK(both.at == seconds(2.4));
  REQUIRE(both.bothUntil);
  CHECK(*both.bothUntil == seconds(2.45));
  CHECK(both.audibility > out.audibility + 0.4);
}

TEST_CASE("The rough composite has the least sum of ratings, and of those the least audible joins") {
  std::mt19937 random(31);
  for (int round = 0; round < 60; ++round) {
    Takes takes(6.0);
    std::vector<LaneNumber> lanes;
    std::vector<Piece> pieces;
    for (int i = 0; i < 4; ++i) {
      std::vector<std::pair<double, double>> sung = words;
      for (auto& [from, to] : sung) {
        from += 0.01 * static_cast<double>(random() % 20);
        to += 0.01 * static_cast<double>(random() % 45);
      }
      lanes.push_back(
          takes.add(sung, -20.0F - static_cast<float>(random() % 12), 100 + static_cast<int>(random() % 80)));
      pieces.push_back(plain(lanes.back()));
    }
    const auto phrases = takes.phrases(words);
    std::vector<std::vector<int>> ratings(3, std::vector<int>(4));
    for (std::size_t p = 0; p < 3; ++p)
      for (std::size_t t = 0; t < 4; ++t) {
        ratings[p][t] = std::array{0, 4, 4, 5, 2}[random() % 5];
        takes.rate_(lanes[t], phrases[p], ratings[p][t]);
      }
    std::vector<PhraseGap> gaps;
    for (std::size_t p = 0; p + 1 < 3; ++p)
      gaps.push_back(
          gapBetween(takes.track(), rate, phrases[p].span, phrases[p + 1].span, pieces, takes.find()));
    // Half stars below five; none counts as two and a half.
    const auto demerit = [&](std::size_t p, std::size_t t) {
      return ratings[p][t] == 0 ? 5 : 10 - 2 * ratings[p][t];
    };
    const auto sumsOf = [&](const std::array<std::size_t, 3>& chosen) {
      std::pair<int, double> sums{demerit(0, chosen[0]), 0.0};
      for (std::size_t p = 0; p + 1 < 3; ++p) {
        sums.first += demerit(p + 1, chosen[p + 1]);
        if (chosen[p] != chosen[p + 1]) sums.second += joinIn(gaps[p], chosen[p], chosen[p + 1]).audibility;
      }
      return sums;
    };
    std::pair<int, double> least{1000, 0.0};
    for (std::size_t a = 0; a < 4; ++a)
      for (std::size_t b = 0; b < 4; ++b)
        for (std::size_t c = 0; c < 4; ++c) least = std::min(least, sumsOf({a, b, c}));

    const RoughComposite rough = roughComposite(takes.session, takes.track(), phrases, takes.find());
    REQUIRE(rough.phrases.size() == 3);
    std::array<std::size_t, 3> chosen{};
    for (std::size_t p = 0; p < 3; ++p) {
      REQUIRE(rough.phrases[p].lane);
      chosen[p] = static_cast<std::size_t>(rough.phrases[p].lane->value - 1);
      CHECK(rough.phrases[p].rating == ratings[p][chosen[p]]);
      CHECK_FALSE(rough.phrases[p].stays);
    }
    const auto found = sumsOf(chosen);
    INFO("round " << round);
    CHECK(found.first == least.first);
    CHECK(found.second == Approx(least.second).margin(1e-12));
    CHECK(rough.audibility == Approx(least.second).margin(1e-12));
    // The composite plays it.
    const ResolvedComposite composite = takes.after(rough);
    for (std::size_t p = 0; p < 3; ++p) CHECK(playedIn(composite, phrases[p]) == rough.phrases[p].lane);
    for (std::size_t p = 0; p + 1 < 3; ++p)
      CHECK(rough.phrases[p].span.end == rough.phrases[p + 1].span.start);
  }
}

TEST_CASE("What a person picked stays to the frame; what was chosen roughly is not decided and chosen anew") {
  Takes takes(6.0);
  const auto one = takes.add(words);
  const auto two = takes.add(words);
  const auto phrases = takes.phrases(words);
  for (const Phrase& phrase : phrases) takes.rate_(one, phrase, 5);
  takes.session = pick(takes.session, takes.id(), phrases[1].cell, two);
  // And a stretch within a phrase that is not decided.
  const Span inside{seconds(4.4), seconds(4.5)};
  takes.session = pick(takes.session, takes.id(), inside, two);
  const auto rough = roughComposite(takes.session, takes.track(), phrases, takes.find());
  CHECK(rough.phrases[1].stays);
  CHECK_FALSE(rough.phrases[2].stays);
  takes.session = playRough(takes.session, takes.id(), rough.pieces);
  ResolvedComposite composite = resolve(takes.track(), rate);
  const auto laneAt = [&](Frames at) { return composite.pieceAt(at)->lane; };
  for (const Span span : {phrases[1].cell, inside}) {
    CHECK(laneAt(span.start) == two);
    CHECK(laneAt(span.end - Frames{1}) == two);
  }
  CHECK(laneAt(inside.start - Frames{1}) == one);
  CHECK(laneAt(inside.end) == one);
  CHECK(laneAt(phrases[1].cell.end + Frames{1}) == one);
  CHECK(laneAt(seconds(1.5)) == one);
  CHECK_FALSE(isDecided(takes.track(), phrases[0]));
  CHECK(isDecided(takes.track(), phrases[1]));
  CHECK_FALSE(isDecided(takes.track(), phrases[2]));

  // Rated otherwise, it chooses otherwise, where it had chosen.
  for (const Phrase& phrase : phrases) {
    takes.rate_(one, phrase, 1);
    takes.rate_(two, phrase, 5);
  }
  const auto again = roughComposite(takes.session, takes.track(), phrases, takes.find());
  composite = takes.after(again);
  CHECK(composite.pieces.size() == 1);
  CHECK(composite.pieces[0].lane == two);
  // A person who picks what was chosen has decided.
  const Session picked = pick(takes.session, takes.id(), phrases[0].cell, one);
  CHECK(isDecided(*picked.tracks[0], phrases[0]));
  // Who turns its level has not; what was turned stays turned where the same take is chosen anew.
  takes.session = playRough(takes.session, takes.id(), again.pieces);
  takes.session = changePiece(takes.session, takes.id(), seconds(1.5), {Decibels{1.0}, Cents{2.0}, {}, {}});
  CHECK_FALSE(isDecided(takes.track(), phrases[0]));
  composite = takes.after(roughComposite(takes.session, takes.track(), phrases, takes.find()));
  CHECK(composite.pieceAt(seconds(1.5))->gain.value == 1.0);
  CHECK(composite.pieceAt(seconds(1.5))->pitch.value == 2.0);
}
