// SPDX-License-Identifier: GPL-3.0-or-later
//
// What a step leads to, from phrase to phrase and along the grid, against plain lists of what there is.
#include "app/desk/phrase_steps.h"

#include "ui/ui_tests.h"

#include "core/known_takes.h"

TEST_CASE(
    "A step on the grid leads to the next bar or beat, a selection's to its neighbour of the same length") {
  Session session;
  session.rate = {44100};
  session = setTempo(session, TempoMap({{1, 97.0, {3, 4}}, {3, 140.0, {5, 8}}, {6, 61.0, {2, 2}}}));
  const Ruler ruler = session.ruler();
  std::vector<Frames> bars;
  std::vector<Frames> beats;
  for (int bar = 1; bar < 12; ++bar) {
    bars.push_back(ruler.tempo.frameOf({bar, 1.0}, ruler.rate));
    for (int beat = 1; beat <= ruler.tempo.changeAt(bar).meter.beats; ++beat)
      beats.push_back(ruler.tempo.frameOf({bar, static_cast<double>(beat)}, ruler.rate));
  }
  for (const auto& [by, places] : {std::pair{app::StepBy::Bar, bars}, {app::StepBy::Beat, beats}})
    for (std::size_t i = 0; i + 2 < places.size(); ++i)
      for (const Frames inside : {Frames{}, Frames{700}}) {
        INFO((by == app::StepBy::Bar ? "bar " : "beat ") << i << ", " << inside.count << " frames in it");
        const Span from{places[i] + inside, places[i + 1] + inside};
        CHECK(app::steppedSpan(by, ruler, from, 1) == Span{places[i + 1], places[i + 2]});
        const auto back = app::steppedSpan(by, ruler, from, -1);
        CHECK(back == (i == 0 ? std::nullopt : std::optional(Span{places[i - 1], places[i]})));
      }
  const Span selection{{1000}, {1600}};
  CHECK(app::steppedSpan(app::StepBy::Selection, ruler, selection, 1) == Span{{1600}, {2200}});
  CHECK(app::steppedSpan(app::StepBy::Selection, ruler, selection, -1) == Span{{400}, {1000}});
  CHECK(app::steppedSpan(app::StepBy::Selection, ruler, {{600}, {1200}}, -1) == Span{{0}, {600}});
  CHECK_FALSE(app::steppedSpan(app::StepBy::Selection, ruler, {{599}, {1199}}, -1));
  CHECK_FALSE(app::steppedSpan(app::StepBy::Selection, ruler, {{600}, {600}}, 1));
}

TEST_CASE("Steps from phrase to phrase, and to the next that nobody decided, from wherever it begins") {
  std::mt19937 random(7);
  for (int round = 0; round < 60; ++round) {
    Takes takes(6.0);
    const LaneNumber lane = takes.add(words);
    const auto phrases = takes.phrases(words);
    std::vector<bool> decided;
    for (const Phrase& phrase : phrases) {
      decided.push_back(random() % 2 == 0);
      if (decided.back()) takes.session = pick(takes.session, takes.id(), phrase.cell, lane);
    }
    CHECK(app::decidedCount(takes.track(), phrases) ==
          static_cast<std::size_t>(std::count(decided.begin(), decided.end(), true)));
    const Frames position{static_cast<std::int64_t>(random() % 288'000)};
    INFO("round " << round << ", at " << position.count);
    // In which phrase it lies, or which is nearest.
    std::size_t here = 0;
    const auto away = [&](const Phrase& phrase) {
      return std::max({Frames{}, phrase.cell.start - position, position - phrase.cell.end + Frames{1}});
    };
    for (std::size_t i = 1; i < phrases.size(); ++i)
      if (away(phrases[i]) < away(phrases[here])) here = i;
    // What follows `from`, round to it at last.
    const auto undecided = [&](std::size_t from, std::size_t first) -> std::optional<std::size_t> {
      for (std::size_t step = first; step <= phrases.size(); ++step)
        if (!decided[(from + step) % phrases.size()]) return (from + step) % phrases.size();
      return std::nullopt;
    };
    CHECK(app::nextUndecided(takes.track(), phrases, {}, position) == undecided(here, 0));
    for (std::size_t i = 0; i < phrases.size(); ++i) {
      const Frames inHand = phrases[i].span.start;
      CHECK(app::nextUndecided(takes.track(), phrases, inHand, position) == undecided(i, 1));
      CHECK(app::steppedPhrase(phrases, inHand, position, 1) == std::min(i + 1, phrases.size() - 1));
      CHECK(app::steppedPhrase(phrases, inHand, position, -1) == (i == 0 ? 0 : i - 1));
    }
    const bool before = position < phrases.front().cell.start;
    const bool behind = position >= phrases.back().cell.end;
    if (phrases[here].cell.contains(position) || before || behind)
      for (const int direction : {-1, 1}) CHECK(app::steppedPhrase(phrases, {}, position, direction) == here);
  }
  CHECK_FALSE(app::steppedPhrase({}, {}, {}, 1));
  CHECK_FALSE(app::nextUndecided(Track{}, {}, {}, {}));
}
