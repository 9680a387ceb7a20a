// SPDX-License-Identifier: GPL-3.0-or-later
//
// The round in which people decide: phrase to phrase, take to take, hear, rate, pick. By keyboard alone and
// by mouse alone.
#include <catch2/catch.hpp>

#include "core/edit/edit.h"
#include "ui/round_rig.h"

using namespace yewdrift;
using namespace yewdrift::test;
using namespace yewdrift::app;

namespace {

Phrase of(std::int64_t start, std::int64_t end) {
  return {{{start}, {end}}, false, {{start - 100}, {end + 100}}};
}

}  // namespace

TEST_CASE(
    "Steps lead from phrase to phrase, from between them to the one in that direction, and no further than "
    "the last") {
  const std::vector<Phrase> phrases{of(1000, 2000), of(3000, 4000), of(5000, 6000)};
  using Index = std::optional<std::size_t>;
  CHECK(steppedPhrase({}, std::nullopt, {0}, 1) == Index{});
  CHECK(steppedPhrase(phrases, Frames{1500}, {0}, 1) == Index{1});
  CHECK(steppedPhrase(phrases, Frames{1500}, {0}, -1) == Index{0});
  CHECK(steppedPhrase(phrases, Frames{5500}, {0}, 1) == Index{2});
  CHECK(steppedPhrase(phrases, Frames{5500}, {0}, -1) == Index{1});
  // None in hand: where the playhead is.
  CHECK(steppedPhrase(phrases, std::nullopt, {3500}, 1) == Index{1});
  CHECK(steppedPhrase(phrases, std::nullopt, {3500}, -1) == Index{1});
  CHECK(steppedPhrase(phrases, std::nullopt, {2300}, 1) == Index{1});
  CHECK(steppedPhrase(phrases, std::nullopt, {2700}, -1) == Index{0});
  CHECK(steppedPhrase(phrases, std::nullopt, {0}, 1) == Index{0});
  CHECK(steppedPhrase(phrases, std::nullopt, {0}, -1) == Index{0});
  CHECK(steppedPhrase(phrases, std::nullopt, {9000}, 1) == Index{2});
}

TEST_CASE("Steps by bars, beats and the selection's length lie on the grid, and none before the start") {
  // A bar of 3/4 at 100 bpm lasts 1.8 s (common practice), 86,400 frames; from bar 3 on 4/4.
  Ruler ruler;
  ruler.rate = {48000};
  ruler.tempo = TempoMap({{1, 100.0, {3, 4}}, {3, 100.0, {4, 4}}});
  using Stepped = std::optional<Span>;
  const auto step = [&](StepBy by, std::int64_t from, std::int64_t to, int direction) {
    return steppedSpan(by, ruler, {{from}, {to}}, direction);
  };
  CHECK(step(StepBy::Bar, 0, 86400, 1) == Stepped(Span{{86400}, {172800}}));
  CHECK(step(StepBy::Bar, 86400, 172800, 1) == Stepped(Span{{172800}, {288000}}));
  CHECK(step(StepBy::Bar, 172800, 288000, -1) == Stepped(Span{{86400}, {172800}}));
  CHECK(step(StepBy::Bar, 100000, 110000, 0) == Stepped(Span{{86400}, {172800}}));
  CHECK_FALSE(step(StepBy::Bar, 0, 86400, -1));
  CHECK(step(StepBy::Beat, 0, 28800, 1) == Stepped(Span{{28800}, {57600}}));
  // Over the bar line, and back over it.
  CHECK(step(StepBy::Beat, 57600, 86400, 1) == Stepped(Span{{86400}, {115200}}));
  CHECK(step(StepBy::Beat, 172800, 201600, -1) == Stepped(Span{{144000}, {172800}}));
  CHECK(step(StepBy::Beat, 259200, 288000, 1) == Stepped(Span{{288000}, {316800}}));
  CHECK_FALSE(step(StepBy::Beat, 0, 28800, -1));
  CHECK(step(StepBy::Selection, 5000, 9000, 1) == Stepped(Span{{9000}, {13000}}));
  CHECK(step(StepBy::Selection, 5000, 9000, -1) == Stepped(Span{{1000}, {5000}}));
  CHECK_FALSE(step(StepBy::Selection, 1000, 5000, -1));
  CHECK_FALSE(step(StepBy::Selection, 1000, 1000, 1));
}

TEST_CASE("Step by bars where that is chosen: selected, gone to, picked, and gone round") {
  const TemporaryFolder temporary;
  RoundRig rig(makePhrases(temporary));
  QMenu* steps = nullptr;
  for (auto* menu : rig.window->findChildren<QMenu*>())
    if (menu->title() == "Step by") steps = menu;
  REQUIRE(steps);
  const auto choose = [&](const QString& text) {
    emit steps->aboutToShow();
    for (QAction* each : steps->actions())
      if (each->text() == text) return each->trigger();
    FAIL("no such step");
  };
  choose("Bars");
  rig.studio().transport().locate({100000});
  // Bars of 4/4 at 120 bpm last 96,000 frames.
  rig.press(Qt::Key_G);
  CHECK(rig.studio().inHand().selection() == Span{{96000}, {192000}});
  CHECK(rig.inHand() == 0);
  rig.press(Qt::Key_G);
  CHECK(rig.studio().inHand().selection() == Span{{192000}, {288000}});
  CHECK(rig.playhead() == Frames{192000});
  rig.press(Qt::Key_1);
  rig.press(Qt::Key_F);
  CHECK(rig.studio().inHand().composite(rig.track()).pieceAt({200000})->lane == LaneNumber{1});
  CHECK(rig.studio().inHand().composite(rig.track()).pieceAt({190000})->lane == LaneNumber{3});
  rig.press(Qt::Key_V);
  REQUIRE(rig.waitFor([&] { return rig.studio().transport().state().round > 1; }));
  CHECK(rig.playhead() >= Frames{192000});
  CHECK(rig.playhead() < Frames{288000});
  rig.press(Qt::Key_S);
  CHECK(rig.studio().inHand().selection() == Span{{96000}, {192000}});
  rig.turn();
  CHECK(rig.playhead() < Frames{192000});
  rig.press(Qt::Key_V);
  choose("The selection's length");
  rig.studio().inHand().select(Span{{10000}, {20000}});
  rig.press(Qt::Key_G);
  CHECK(rig.studio().inHand().selection() == Span{{20000}, {30000}});
  choose("Phrases");
  rig.press(Qt::Key_G);
  CHECK(rig.inHand() > 0);
}

TEST_CASE("The next undecided phrase is looked for from behind the one in hand, and round to it") {
  Session session = addTrack(Session{}, "Voice", microphonesFor(1));
  session = addPoolFile(session, {"audio/x.wav", 1, {9000}});
  session = addLane(session, TrackId{1}, {{{0}, {9000}, {{0}, {9000}}, {{0, 0}}}});
  const std::vector<Phrase> phrases{of(1000, 2000), of(3000, 4000), of(5000, 6000)};
  const auto next = [&](std::optional<Frames> from) {
    return nextUndecided(*session.tracks[0], phrases, from, {3500});
  };
  using Index = std::optional<std::size_t>;
  CHECK(next(std::nullopt) == Index{1});
  CHECK(next(Frames{3500}) == Index{2});
  CHECK(next(Frames{5500}) == Index{0});
  CHECK(decidedCount(*session.tracks[0], phrases) == 0);
  session = pick(session, TrackId{1}, {{5000}, {6000}}, LaneNumber{1});
  CHECK(decidedCount(*session.tracks[0], phrases) == 1);
  CHECK(next(Frames{3500}) == Index{0});
  session = pick(session, TrackId{1}, {{1000}, {2000}}, LaneNumber{1});
  CHECK(next(Frames{3500}) == Index{1});  // only that one is left
  session = pick(session, TrackId{1}, {{3000}, {4000}}, LaneNumber{1});
  CHECK(next(Frames{3500}) == Index{});
  CHECK(nextUndecided(*session.tracks[0], {}, std::nullopt, {}) == Index{});
}

TEST_CASE(
    "The whole round by keyboard alone: hear, compare, rate, pick, next; and it is all there after "
    "reopening") {
  const TemporaryFolder temporary;
  const fs::path path = makePhrases(temporary);
  {
    RoundRig rig(path);
    rig.press(Qt::Key_G);
    CHECK(rig.inHand() == 1);
    CHECK(rig.playhead() == rig.phrases()[0].cell.start);
    CHECK(rig.studio().inHand().selection() == rig.phrases()[0].cell);
    rig.press(Qt::Key_G);
    CHECK(rig.inHand() == 2);
    CHECK(rig.playhead() == rig.phrases()[1].cell.start);
    rig.press(Qt::Key_S);
    CHECK(rig.inHand() == 1);
    rig.press(Qt::Key_D);
    CHECK(rig.heard() == LaneNumber{1});
    for (int i = 0; i < 4; ++i) rig.press(Qt::Key_X);
    rig.press(Qt::Key_D);
    CHECK(rig.heard() == LaneNumber{2});
    rig.press(Qt::Key_X);
    rig.press(Qt::Key_X);
    rig.press(Qt::Key_Z);
    CHECK(rig.rating(1, 0) == 4);
    CHECK(rig.rating(2, 0) == 1);
    // Two against each other.
    rig.press(Qt::Key_T);
    CHECK(rig.heard() == LaneNumber{1});
    rig.press(Qt::Key_T);
    CHECK(rig.heard() == LaneNumber{2});
    rig.press(Qt::Key_T);
    rig.press(Qt::Key_F);
    CHECK(rig.played(0) == LaneNumber{1});
    CHECK(isDecided(rig.track(), rig.phrases()[0]));
    rig.press(Qt::Key_Q);
    CHECK(rig.inHand() == 2);
    rig.press(Qt::Key_2);
    rig.press(Qt::Key_F);
    rig.press(Qt::Key_Q);
    CHECK(rig.inHand() == 3);
    rig.press(Qt::Key_3);
    rig.press(Qt::Key_F);
    CHECK(rig.played(0) == LaneNumber{1});
    CHECK(rig.played(1) == LaneNumber{2});
    CHECK(rig.played(2) == LaneNumber{3});
    rig.press(Qt::Key_Q);
    CHECK(rig.window->message() == "Every phrase of this track is decided.");
    // A rating goes no further than its ends.
    for (int i = 0; i < 7; ++i) rig.press(Qt::Key_X);
    CHECK(rig.rating(3, 2) == 5);
    for (int i = 0; i < 7; ++i) rig.press(Qt::Key_Z);
    CHECK(rig.rating(3, 2) == 0);
  }
  RoundRig again(path);
  CHECK(again.rating(1, 0) == 4);
  CHECK(again.rating(2, 0) == 1);
  CHECK(again.played(0) == LaneNumber{1});
  CHECK(again.played(2) == LaneNumber{3});
  CHECK(decidedCount(again.track(), again.phrases()) == 3);
}

TEST_CASE("How long a rest and a phrase are at the least is set on the Phrases page; the phrases follow") {
  const TemporaryFolder temporary;
  RoundRig rig(makePhrases(temporary));
  rig.showPage(MainWindow::PhrasesPage);
  auto* rest = rig.named<QDoubleSpinBox>("Shortest rest");
  auto* phrase = rig.named<QDoubleSpinBox>("Shortest phrase");
  CHECK(rest->value() == 0.25);
  CHECK(phrase->value() == 0.1);
  const auto typed = [&](QDoubleSpinBox* field, const QString& text) {
    field->setFocus();
    field->selectAll();
    rig.type(text);
    rig.press(Qt::Key_Return);
  };
  // The rests last 1.5 s, the phrases too.
  typed(rest, "1.6");
  CHECK(rig.track().phraseRules.shortestRest == 1.6);
  REQUIRE(rig.waitFor([&] { return rig.phrases().size() == 1; }));
  CHECK(rig.phrases()[0].span.start.count == Approx(48000).margin(2400));
  CHECK(rig.phrases()[0].span.end.count == Approx(408000).margin(2400));
  CHECK(rig.steps() == 1);
  CHECK(rig.studio().desk().history().undoLabel() == "Set how phrases are found");
  rig.studio().desk().undo();
  REQUIRE(rig.waitFor([&] { return rig.phrases().size() == 3; }));
  CHECK(rest->value() == 0.25);
  typed(phrase, "1.7");
  CHECK(rig.track().phraseRules.shortestPhrase == 1.7);
  CHECK(rig.track().phraseRules.shortestRest == 0.25);
  REQUIRE(rig.waitFor([&] { return rig.phrases().size() != 3; }));
  typed(phrase, "0.1");
  REQUIRE(rig.waitFor([&] { return rig.phrases().size() == 3; }));
  // What was typed for one track is not set for another.
  rig.addSecondTrack();
  const TrackId first = rig.studio().inHand().trackId();
  rest->setFocus();
  rest->selectAll();
  rig.type("3");
  rig.studio().inHand().takeTrack(rig.studio().desk().session().tracks.back()->id);
  REQUIRE(rig.studio().inHand().trackId() != first);
  rig.lanes().setFocus();
  rig.turn();
  CHECK(rig.track().phraseRules.shortestRest == 0.25);
  CHECK(rest->value() == 0.25);
}

TEST_CASE("The whole round by mouse alone") {
  const TemporaryFolder temporary;
  RoundRig rig(makePhrases(temporary));
  QTest::mouseClick(rig.view(), Qt::LeftButton, {}, rig.inPhraseRow(1));
  CHECK(rig.inHand() == 2);
  CHECK(rig.playhead() == rig.phrases()[1].cell.start);
  // Its cell of a take: heard by its name, picked by dragging over it.
  QTest::mouseClick(rig.view(), Qt::LeftButton, {},
                    rig.lanes().laneRect(0).center() * 0 + QPoint(20, rig.lanes().laneRect(0).center().y()));
  CHECK(rig.heard() == LaneNumber{1});
  rig.drag(rig.view(), rig.inLane(0, rig.phrases()[1].cell.start), rig.inLane(0, rig.phrases()[1].cell.end));
  rig.turn();
  CHECK(rig.played(1) == LaneNumber{1});
  // Between phrases the playhead goes there, and the phrase stays in hand.
  QTest::mouseClick(rig.view(), Qt::LeftButton, {},
                    {rig.lanes().xOf({475000}), rig.lanes().phraseRowRect().center().y()});
  CHECK(rig.inHand() == 2);
  CHECK(rig.playhead() > Frames{470000});
  // The table: its row is heard, its rating typed.
  rig.window->bench().setCurrentIndex(MainWindow::TakesPage);
  rig.turn();
  PlainTable& table = rig.table();
  REQUIRE(table.rowCount() == 3);
  QTest::mouseClick(table.viewport(), Qt::LeftButton, {}, table.visualItemRect(table.item(2, 0)).center());
  CHECK(rig.heard() == LaneNumber{3});
}

TEST_CASE(
    "Going round a phrase goes round the next one when that is taken in hand, and stops when it is asked "
    "to") {
  const TemporaryFolder temporary;
  RoundRig rig(makePhrases(temporary));
  // With no phrase in hand it goes round the loop; without that either it says what is missing.
  rig.press(Qt::Key_V);
  REQUIRE(rig.waitFor([&] { return rig.studio().transport().state().round > 1; }));
  CHECK(rig.studio().desk().session().loop->contains(rig.playhead()));
  rig.press(Qt::Key_V);
  REQUIRE(rig.studio().desk().apply("None", [](const Session& s) { return setLoop(s, std::nullopt); }));
  rig.press(Qt::Key_V);
  CHECK(rig.window->message().contains("nothing to go round"));
  rig.studio().desk().undo();
  rig.press(Qt::Key_G);
  rig.press(Qt::Key_V);
  REQUIRE(rig.waitFor([&] { return rig.studio().transport().state().rolling; }));
  const auto staysIn = [&](std::size_t phrase) {
    const Span cell = rig.phrases()[phrase].cell;
    int rounds = 0;
    Frames last = rig.playhead();
    // In so much time it has to come round at least once, and never leaves.
    for (int i = 0; i < 160; ++i) {
      rig.turn();
      const Frames now = rig.playhead();
      if (now < cell.start || now > cell.end) return false;
      if (now < last) ++rounds;
      last = now;
    }
    return rounds >= 1;
  };
  CHECK(staysIn(0));
  rig.press(Qt::Key_G);
  rig.wait(100);
  CHECK(staysIn(1));
  rig.press(Qt::Key_V);
  CHECK(rig.waitFor([&] { return !rig.studio().transport().state().rolling; }));
  CHECK(rig.studio().desk().session().loop == Span{{96000}, {192000}});  // the session's own is as it was
}

TEST_CASE("What cannot be done in the round says why") {
  const TemporaryFolder temporary;
  RoundRig rig(makePhrases(temporary));
  rig.press(Qt::Key_X);
  CHECK(rig.window->message().contains("No phrase is in hand"));
  rig.press(Qt::Key_G);
  rig.press(Qt::Key_X);
  CHECK(rig.window->message().contains("Hear a take first"));
  const std::size_t before = rig.steps();
  rig.press(Qt::Key_D);
  rig.press(Qt::Key_Z);  // there is nothing to take away
  CHECK(rig.rating(1, 0) == 0);
  CHECK(rig.steps() == before);
}

TEST_CASE("Phrases are cut at the playhead and merged again, and a spot is marked where it is heard") {
  const TemporaryFolder temporary;
  RoundRig rig(makePhrases(temporary));
  rig.studio().transport().locate({240000});
  rig.press(Qt::Key_B, Qt::ControlModifier);
  REQUIRE(rig.phrases().size() == 4);
  CHECK(rig.phrases()[1].span.end == Frames{240000});
  CHECK(rig.phrases()[2].span.start == Frames{240000});
  CHECK(rig.phrases()[1].set);
  rig.press(Qt::Key_G);
  rig.press(Qt::Key_S);
  CHECK(rig.inHand() == 2);
  rig.press(Qt::Key_B, Qt::ControlModifier | Qt::ShiftModifier);
  REQUIRE(rig.phrases().size() == 3);
  CHECK(rig.phrases()[1].set);
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.phrases().size() == 4);
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.phrases().size() == 3);
  CHECK_FALSE(rig.phrases()[1].set);
  // With a phrase in hand no other one is cut.
  rig.press(Qt::Key_G);
  const Frames elsewhere = rig.phrases()[static_cast<std::size_t>(rig.inHand() == 0 ? 1 : 0)].span.start;
  rig.studio().transport().locate(elsewhere + Frames{24000});
  rig.press(Qt::Key_B, Qt::ControlModifier);
  CHECK(rig.window->message().contains("outside the phrase in hand"));
  CHECK(rig.phrases().size() == 3);

  rig.studio().transport().locate({50000});
  rig.press(Qt::Key_B);  // the composite is heard: its newest take
  REQUIRE(rig.track().lane({3})->marks.size() == 1);
  CHECK(rig.track().lane({3})->marks[0].at == Frames{50000});
  rig.press(Qt::Key_1);
  rig.press(Qt::Key_B);
  CHECK(rig.track().lane({1})->marks.size() == 1);
  rig.press(Qt::Key_C);
  rig.studio().transport().locate({490000});
  rig.press(Qt::Key_B);
  CHECK(rig.window->message().contains("No take plays"));
}

TEST_CASE("The table of takes shows what is measured, sorts by it, and takes ratings and notes") {
  const TemporaryFolder temporary;
  RoundRig rig(makePhrases(temporary));
  rig.window->bench().setCurrentIndex(MainWindow::TakesPage);
  rig.turn();
  CHECK(rig.table().rowCount() == 0);
  rig.press(Qt::Key_G);
  PlainTable& table = rig.table();
  REQUIRE(table.rowCount() == 3);
  REQUIRE(rig.waitFor([&] {
    for (int row = 0; row < 3; ++row)
      if (table.item(row, TakesBench::Loudness)->text() == "–") return false;
    return true;
  }));
  REQUIRE(rig.studio().desk().apply(
      "Mark", [](const Session& s) { return markTake(s, s.tracks.front()->id, {1}, {60000}, "turn"); }));
  const auto evidence = rig.studio().analysis().evidence();
  REQUIRE(evidence);
  for (int row = 0; row < 3; ++row) {
    const CellEvidence& cell = evidence->takes[static_cast<std::size_t>(row)];
    CHECK(table.item(row, TakesBench::Take)->text().startsWith(QString::number(row + 1)));
    CHECK(table.item(row, TakesBench::Loudness)->data(Qt::UserRole).toDouble() ==
          Approx(cell.loudness.value()));
    CHECK(table.item(row, TakesBench::Chosen)->text() == (row == 2 ? "plays" : ""));
    CHECK(table.item(row, TakesBench::Sounds)->text() == "1.5");
    REQUIRE(cell.grid);
    CHECK(table.item(row, TakesBench::Grid)->data(Qt::UserRole).toDouble() == Approx(*cell.grid));
    CHECK(table.item(row, TakesBench::Tuning)->text() == "–");  // noise
    CHECK(table.item(row, TakesBench::Marks)->text() == (row == 0 ? "1" : ""));
  }
  // Typed into a cell: one step each.
  const std::size_t before = rig.steps();
  table.item(1, TakesBench::Rated)->setText("4");
  rig.turn();
  CHECK(rig.rating(2, 0) == 4);
  table.item(1, TakesBench::Note)->setText("  the breath ");
  rig.turn();
  CHECK(cellOf(*rig.track().lane({2}), rig.phrases()[0])->note == "the breath");
  CHECK(rig.rating(2, 0) == 4);
  CHECK(rig.steps() == before + 2);
  table.item(1, TakesBench::Rated)->setText("7");
  rig.turn();
  CHECK(rig.window->message().contains("A rating is 1 to 5"));
  CHECK(rig.rating(2, 0) == 4);
  CHECK(table.item(1, TakesBench::Rated)->text() == "4");
  CHECK(rig.steps() == before + 2);
  // Sorted by rating, the rated one is last, or first; rows keep what they are.
  table.sortItems(TakesBench::Rated, Qt::DescendingOrder);
  CHECK(table.item(0, TakesBench::Take)->text().startsWith("2"));
  table.item(0, TakesBench::Rated)->setText("");
  rig.turn();
  CHECK(rig.rating(2, 0) == 0);
}

TEST_CASE("What is said to be picked by the key is what the key picks") {
  const TemporaryFolder temporary;
  RoundRig rig(makePhrases(temporary));
  const auto advice = [&] { return rig.named<QLabel>("What can be done next")->text(); };
  const auto pickedIn = [&](Frames at) {
    return rig.studio().inHand().composite(rig.track()).pieceAt(at)->picked;
  };
  rig.showPage(MainWindow::RecordPage);
  REQUIRE(rig.studio().desk().apply("Loop", [](const Session& s) { return setLoop(s, std::nullopt); }));
  rig.studio().inHand().hear(LaneNumber{1});
  rig.turn();
  CHECK_FALSE(advice().contains("<b>F</b>"));
  CHECK(advice().contains("click in a phrase"));
  rig.press(Qt::Key_F);
  for (const Phrase& phrase : rig.phrases()) CHECK_FALSE(pickedIn(phrase.span.start));

  REQUIRE(rig.studio().desk().apply("Loop", [&](const Session& s) {
    return setLoop(s, Span{{200000}, {240000}});
  }));
  rig.turn();
  CHECK(advice().contains("<b>F</b> to pick the take you hear over the loop"));
  rig.studio().inHand().select(Span{{100000}, {110000}});
  rig.turn();
  CHECK(advice().contains("<b>F</b> to pick the take you hear over the selection"));
  rig.studio().inHand().takePhrase(rig.phrases()[2]);
  rig.turn();
  CHECK(advice().contains("<b>F</b> to pick the take you hear in this phrase"));
  rig.press(Qt::Key_F);
  CHECK(pickedIn(rig.phrases()[2].span.start));
  CHECK_FALSE(pickedIn({100000}));
  CHECK_FALSE(pickedIn({220000}));
  // There is a join to be looked at now.
  CHECK(advice().contains("next join"));
}
