// SPDX-License-Identifier: GPL-3.0-or-later
//
// The round in which people decide: phrase to phrase, take to take, hear, rate, pick. By keyboard alone and
// by mouse alone.
#include "ui/ui_tests.h"

#include "ui/round_rig.h"

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
