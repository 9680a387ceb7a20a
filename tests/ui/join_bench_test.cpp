// SPDX-License-Identifier: GPL-3.0-or-later
//
// The join bench: by dragging and by number, drawn to good places, each side alone, before and after, many
// joins at once.
#include <QDoubleSpinBox>
#include <QListWidget>
#include "ui/ui_tests.h"

#include "app/desk/snapping.h"
#include "ui/round_rig.h"

namespace {

/// Two joins: at 194,000 in the middle of a sound, and at 300,000 in a rest.
struct BenchRig : RoundRig {
  explicit BenchRig(const fs::path& path) : RoundRig(path) {
    studio().desk().apply("Pick", [id = track().id](const Session& s) {
      return pick(s, id, {{194000}, {300000}}, LaneNumber{1});
    });
    studio().inHand().takeJoin(Frames{194000});
    turn();
    REQUIRE(listened());
  }
  bool listened() {
    return waitFor([&] { return !studio().joins().looking() && !studio().joins().joins().empty(); });
  }
  JoinPicture& picture() { return window->joinBench().picture(); }
  Join join(std::size_t index = 0) { return studio().inHand().composite(track()).joins.at(index); }
  QDoubleSpinBox& number(const char* name) { return *named<QDoubleSpinBox>(name); }
  void type(QDoubleSpinBox& field, const QString& text) {
    field.setFocus();
    field.selectAll();
    QTest::keyClicks(&field, text);
    QTest::keyClick(&field, Qt::Key_Return);
    turn();
  }
  std::size_t steps() { return studio().desk().history().doneCount(); }
  void dragTo(QPoint from, QPoint to, Qt::KeyboardModifiers modifiers = {}) {
    drag(&picture(), from, to, modifiers);
    turn();
  }
};

}  // namespace

TEST_CASE("Where the curves cross they are taken hold of and bent") {
  const TemporaryFolder temporary;
  BenchRig rig(makePhrases(temporary));
  const JoinShape before = rig.join().shape;
  REQUIRE(before.bend == 0.0);
  const auto grip = rig.picture().bendGrip();
  REQUIRE(grip);
  CHECK(std::abs(grip->x() - rig.picture().xOf(Frames{194000})) <= 3);
  const std::size_t steps = rig.steps();
  rig.dragTo(*grip, *grip - QPoint(12, 0));
  CHECK(rig.join().shape.bend > 0.2);
  CHECK(rig.join().shape.bend <= 1.0);
  CHECK(rig.join().shape.before == before.before);
  CHECK(rig.join().shape.after == before.after);
  CHECK(rig.join().at == Frames{194000});
  CHECK(rig.join().set);
  CHECK(rig.steps() == steps + 1);
  // The crossing goes along: the incoming take rises earlier.
  REQUIRE(rig.picture().bendGrip());
  CHECK(rig.picture().bendGrip()->x() < grip->x());
  CHECK(rig.number("Bend of the curve").value() == Approx(rig.join().shape.bend * 100.0).margin(0.5));
  rig.dragTo(*rig.picture().bendGrip(), *rig.picture().bendGrip() + QPoint(400, 0));
  CHECK(rig.join().shape.bend == -1.0);
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.join().shape == before);
}

TEST_CASE("A join is set by number: its place, both lengths, bend and curve; each one step") {
  const TemporaryFolder temporary;
  BenchRig rig(makePhrases(temporary));
  const std::size_t steps = rig.steps();
  rig.type(rig.number("Crossfade before the boundary"), "20");
  CHECK(rig.join().shape.before == Frames{960});
  CHECK(rig.join().shape.after == Frames{240});
  rig.type(rig.number("Crossfade behind the boundary"), "2.5");
  CHECK(rig.join().shape.after == Frames{120});
  rig.type(rig.number("Bend of the curve"), "-50");
  CHECK(rig.join().shape.bend == Approx(-0.5));
  CHECK(rig.join().shape.before == Frames{960});
  auto& curve = *rig.named<QComboBox>("Curve of the crossfade");
  curve.setFocus();
  QTest::keyClick(&curve, Qt::Key_Down);
  emit curve.activated(curve.currentIndex());
  rig.turn();
  CHECK(rig.join().shape.curve == Curve::EqualPower);
  CHECK(rig.steps() == steps + 4);
  auto& at = *rig.named<QLineEdit>("Place of the join");
  at.setFocus();
  at.selectAll();
  QTest::keyClicks(&at, "195000f");
  QTest::keyClick(&at, Qt::Key_Return);
  rig.turn();
  CHECK(rig.join().at == Frames{195000});
  CHECK(rig.join().shape.before == Frames{960});
  CHECK(rig.studio().inHand().join() == Frames{195000});
  // What is no place is refused, and the field says again where it is.
  at.setFocus();
  at.selectAll();
  QTest::keyClicks(&at, "nowhere");
  QTest::keyClick(&at, Qt::Key_Return);
  rig.turn();
  CHECK(rig.join().at == Frames{195000});
  CHECK(at.text() == rig.studio().desk().positionWords().inField({195000}));
  CHECK(!rig.window->message().isEmpty());
  CHECK(rig.steps() == steps + 5);
  // So is a place beyond the piece: it is not squashed, and what is typed next is still typed.
  at.setFocus();
  at.selectAll();
  QTest::keyClicks(&at, "0f");
  QTest::keyClick(&at, Qt::Key_Return);
  rig.turn();
  CHECK(rig.join().at == Frames{195000});
  CHECK_THAT(rig.window->message().toStdString(), Catch::Contains("The boundary cannot lie at"));
  CHECK(rig.steps() == steps + 5);
  CHECK(QApplication::focusWidget() == &at);
}

TEST_CASE("A join stays in hand where undo and redo put it; what was typed of another is not done with it") {
  const TemporaryFolder temporary;
  BenchRig rig(makePhrases(temporary));
  auto& at = *rig.named<QLineEdit>("Place of the join");
  const auto shown = [&](std::int64_t frame) { return rig.studio().desk().positionWords().inField({frame}); };
  at.setFocus();
  at.selectAll();
  QTest::keyClicks(&at, "195000f");
  QTest::keyClick(&at, Qt::Key_Return);
  rig.turn();
  REQUIRE(rig.studio().inHand().join() == Frames{195000});
  rig.studio().desk().undo();
  rig.turn();
  CHECK(rig.studio().inHand().join() == Frames{194000});
  CHECK(at.text() == shown(194000));
  rig.studio().desk().redo();
  rig.turn();
  CHECK(rig.studio().inHand().join() == Frames{195000});
  CHECK(at.text() == shown(195000));
  rig.studio().desk().undo();
  rig.turn();
  // Typed, and before it is confirmed the other join is taken in hand: neither moves.
  const std::size_t steps = rig.steps();
  at.setFocus();
  at.selectAll();
  QTest::keyClicks(&at, "190000f");
  rig.studio().inHand().takeJoin(Frames{300000});
  rig.turn();
  CHECK(at.text() == shown(300000));
  QTest::keyClick(&at, Qt::Key_Return);
  rig.turn();
  CHECK(rig.joins() == std::vector{Frames{194000}, Frames{300000}});
  CHECK(rig.steps() == steps);
  // One between other takes is not taken for it: undone, it goes out of hand.
  rig.studio().desk().undo();
  rig.turn();
  CHECK_FALSE(rig.studio().inHand().join());
  CHECK(at.text().isEmpty());
  CHECK_FALSE(at.isEnabled());
}

TEST_CASE("A boundary that is dragged is softly drawn to a good place; with Alt it is not") {
  const TemporaryFolder temporary;
  BenchRig rig(makePhrases(temporary));
  REQUIRE(rig.waitFor([&] { return !rig.studio().joins().goodPlaces({194000}).empty(); }));
  // The rest before 192,000 is near enough to be seen.
  const Frames good = rig.studio().joins().goodPlaces({194000}).front();
  REQUIRE(good < Frames{192000});
  while (rig.picture().xOf(good) < 20) rig.picture().zoom(1.5);
  rig.turn();
  const int foot = rig.picture().height() - 8;
  const QPoint from(rig.picture().xOf(Frames{194000}), foot);
  const QPoint beside(rig.picture().xOf(good) + 4, foot);
  rig.dragTo(from, beside);
  CHECK(rig.join().at == good);
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  rig.studio().inHand().takeJoin(Frames{194000});
  rig.turn();
  REQUIRE(rig.waitFor([&] { return !rig.studio().joins().goodPlaces({194000}).empty(); }));
  rig.dragTo(from, beside, Qt::AltModifier);
  CHECK(rig.join().at != good);
  CHECK(std::abs((rig.join().at - good).count) < 3000);
  rig.press(Qt::Key_Z, Qt::ControlModifier);

  // In the lanes too, where the bench's join is dragged.
  rig.studio().inHand().takeJoin(Frames{194000});
  rig.lanes().showSpan({{180000}, {204000}});
  rig.turn();
  REQUIRE(rig.waitFor([&] { return !rig.studio().joins().goodPlaces({194000}).empty(); }));
  const QRect row = rig.lanes().compositeRect();
  const QPoint bud(rig.lanes().xOf(Frames{194000}), row.bottom() - 9);
  rig.press(rig.lanes().viewport(), bud);
  rig.move(rig.lanes().viewport(), {rig.lanes().xOf(good) + 30, bud.y()});
  rig.move(rig.lanes().viewport(), {rig.lanes().xOf(good) + 3, bud.y()});
  rig.release(rig.lanes().viewport(), {rig.lanes().xOf(good) + 3, bud.y()});
  CHECK(rig.join().at == good);
}

TEST_CASE(
    "What is done with the joins in the selection is done with no others; where there is none it is said") {
  const TemporaryFolder temporary;
  BenchRig rig(makePhrases(temporary));
  const auto trigger = [&](const QString& text) {
    for (QAction* action : rig.window->findChildren<QAction*>())
      if (action->text() == text) return action->trigger();
    FAIL("there is no " << text.toStdString());
  };
  // Three: at 194,000, 300,000 and 338,000, in the middle of sounds but for the second.
  REQUIRE(rig.studio().desk().apply("Pick", [id = rig.track().id](const Session& s) {
    return setJoin(pick(s, id, {{338000}, {400000}}, LaneNumber{1}), id, {194000},
                   {{960}, {480}, Curve::EqualGain, 0.25});
  }));
  rig.studio().inHand().takeJoin(Frames{194000});
  rig.turn();
  REQUIRE(rig.joins().size() == 4);
  const auto before = rig.studio().inHand().composite(rig.track()).joins;
  const std::size_t steps = rig.steps();
  rig.studio().inHand().select(std::nullopt);
  rig.turn();
  for (const char* each : {"Joins in the selection like this one", "Better places in the selection"}) {
    trigger(each);
    CHECK(rig.window->message().contains("Select a stretch first"));
  }
  CHECK(rig.steps() == steps);
  rig.studio().inHand().select(Span{{290000}, {310000}});
  rig.turn();
  trigger("Joins in the selection like this one");
  rig.turn();
  CHECK(rig.steps() == steps + 1);
  for (std::size_t i = 0; i < before.size(); ++i) {
    INFO(before[i].at.count);
    CHECK(rig.join(i).at == before[i].at);
    CHECK((rig.join(i).shape == before[0].shape) ==
          (before[i].at == Frames{194000} || before[i].at == Frames{300000}));
  }
  CHECK_THAT(rig.window->message().toStdString(), Catch::Contains("One join"));
  // Better places: of the two that lie in sounds only the one in the selection moves.
  rig.studio().inHand().select(Span{{330000}, {345000}});
  rig.turn();
  trigger("Better places in the selection");
  REQUIRE(rig.waitFor([&] { return rig.steps() == steps + 2; }));
  rig.turn();
  CHECK(rig.join(0).at == Frames{194000});
  CHECK(rig.join(1).at == Frames{300000});
  CHECK_FALSE(rig.join(2) == before[2]);
  CHECK(rig.join(2).found);
  CHECK(rig.join(3) == before[3]);
}
