// SPDX-License-Identifier: GPL-3.0-or-later
//
// The rough composite and the list of the history, in the window.
#include <QListView>
#include "ui/ui_tests.h"

#include "app/bench/phrases_bench.h"
#include "ui/round_rig.h"

namespace {

struct RoughRig : RoundRig {
  explicit RoughRig(const fs::path& path) : RoundRig(path) {
    rate(1, 0, 5);
    rate(2, 1, 4);
    rate(3, 1, 4);
    rate(2, 2, 3);
    rate(1, 2, 2);
  }
  void rate(int lane, std::size_t phrase, int rating) {
    studio().desk().apply("Rate", [&](const Session& s) {
      return changeCell(s, track().id, {lane}, phrases().at(phrase), rating, std::nullopt);
    });
    turn();
  }
  void pickIn(std::size_t phrase, int lane) {
    studio().desk().apply("Pick", [&](const Session& s) {
      return pick(s, track().id, phrases().at(phrase).cell, LaneNumber{lane});
    });
    turn();
  }
  std::vector<int> playing() {
    std::vector<int> lanes;
    for (std::size_t i = 0; i < 3; ++i) lanes.push_back(played(i).value_or(LaneNumber{0}).value);
    return lanes;
  }
  PlainTable& phraseTable() { return *named<PlainTable>("Phrases of the track in hand"); }
  QString cell(int row, PhrasesBench::Column column) { return phraseTable().item(row, column)->text(); }
  /// The reasons in the table are of the composite as it is now.
  bool told() {
    return waitFor([&] {
      turn();
      return !studio().rough().looking() && phraseTable().rowCount() == 3 &&
             studio().rough().choiceIn(phrases()[0]) && !cell(0, PhrasesBench::Why).isEmpty();
    });
  }
  QToolButton& button(const QString& text) {
    for (QToolButton* each : window->findChildren<QToolButton*>())
      if (each->text() == text && each->isVisible()) return *each;
    FAIL("There is no button " << text.toStdString());
    throw 0;
  }
  QListView& steps() { return *named<QListView>("Steps of the history"); }
  void clickStep(int row) {
    const QModelIndex index = steps().model()->index(row, 0);
    steps().scrollTo(index);
    QTest::mouseClick(steps().viewport(), Qt::LeftButton, {}, steps().visualRect(index).center());
    turn();
  }
};

}  // namespace

TEST_CASE("One key makes a composite from the ratings; the bench says why, and one step undoes it") {
  const TemporaryFolder temporary;
  RoughRig rig(makePhrases(temporary));
  CHECK(rig.playing() == std::vector{3, 3, 3});
  const std::size_t steps = rig.studio().desk().history().doneCount();
  rig.press(Qt::Key_G, Qt::ControlModifier | Qt::ShiftModifier);
  CHECK(rig.window->bench().currentIndex() == MainWindow::PhrasesPage);
  REQUIRE(rig.waitFor([&] { return rig.playing() != std::vector{3, 3, 3}; }));
  const auto second = rig.played(1)->value;
  CHECK((second == 2 || second == 3));
  CHECK(rig.playing() == std::vector{1, second, 2});
  CHECK(rig.window->message().startsWith("3 phrases are chosen by their ratings."));
  CHECK(rig.studio().desk().history().doneCount() == steps + 1);
  CHECK(rig.studio().desk().history().undoLabel() == "Rough composite");
  REQUIRE(rig.told());
  CHECK(rig.cell(0, PhrasesBench::Number) == "1");
  CHECK(rig.cell(0, PhrasesBench::Plays).startsWith("1  "));
  CHECK(rig.cell(0, PhrasesBench::Rated) == "5");
  CHECK(rig.cell(0, PhrasesBench::Decided) == "by the ratings");
  CHECK(rig.cell(0, PhrasesBench::Rough).startsWith("1  "));
  CHECK(rig.cell(0, PhrasesBench::Why).contains("is rated 5, higher than any other."));
  CHECK(rig.cell(1, PhrasesBench::Why).startsWith("2 takes are rated 4;"));
  CHECK(rig.named<QLabel>("How far the part has come")->text() == "0 of 3 phrases decided.");
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.playing() == std::vector{3, 3, 3});
  REQUIRE(rig.told());
  CHECK(rig.cell(0, PhrasesBench::Decided) == "not yet");
}

TEST_CASE("The history is a list to go back and forth in, by mouse and by keys, also after reopening") {
  const TemporaryFolder temporary;
  const fs::path path = makePhrases(temporary);
  Session last;
  std::size_t steps = 0;
  {
    RoughRig rig(path);
    rig.pickIn(0, 1);
    rig.pickIn(1, 2);
    last = rig.studio().desk().session();
    steps = rig.studio().desk().history().doneCount();
    rig.press(Qt::Key_Z, Qt::ControlModifier | Qt::AltModifier);
    CHECK(rig.window->bench().currentIndex() == MainWindow::HistoryPage);
    REQUIRE(rig.steps().model()->rowCount() == static_cast<int>(steps) + 1);
    CHECK(rig.steps().currentIndex().row() == static_cast<int>(steps));
    CHECK(rig.steps().currentIndex().data().toString() == QString("%1   Pick   (now)").arg(steps));
    rig.clickStep(static_cast<int>(steps) - 2);
    CHECK(rig.playing() == std::vector{3, 3, 3});
    CHECK(rig.studio().desk().history().doneCount() == steps - 2);
    CHECK(rig.steps().model()->index(static_cast<int>(steps), 0).data().toString() ==
          QString("%1   Pick   (undone)").arg(steps));
    // By keys: down to the last but one.
    rig.steps().setFocus();
    QTest::keyClick(&rig.steps(), Qt::Key_Down);
    CHECK(rig.studio().desk().history().doneCount() == steps - 2);
    QTest::keyClick(&rig.steps(), Qt::Key_Return);
    rig.turn();
    CHECK(rig.playing() == std::vector{1, 3, 3});
    CHECK(rig.studio().desk().history().doneCount() == steps - 1);
    REQUIRE(rig.studio().desk().flushToDisk());
  }
  ImpatientRig again(path);
  again.window->bench().setCurrentIndex(MainWindow::HistoryPage);
  again.turn();
  CHECK(again.studio().desk().history().doneCount() == steps - 1);
  again.studio().desk().goTo(steps);
  CHECK(again.studio().desk().session().tracks == last.tracks);
  again.studio().desk().goTo(0);
  CHECK(again.studio().desk().history().doneCount() == 0);
  again.studio().desk().goTo(9999);
  CHECK(again.studio().desk().history().doneCount() == steps);
}
