// SPDX-License-Identifier: GPL-3.0-or-later
#include <QMessageBox>
#include <QTimer>
#include "ui/ui_tests.h"

#include "app/bench/record_bench.h"

TEST_CASE("The loop is drawn, dragged by its edges and whole; a click makes and destroys nothing") {
  const TemporaryFolder temporary;
  WindowRig rig(makeWindowSession(temporary), false);
  auto loop = [&] { return *rig.studio().desk().session().loop; };
  const int y = rig.lanes().rulerRect().center().y();
  auto at = [&](std::int64_t frame) { return QPoint(rig.lanes().xOf({frame}), y); };
  QWidget* view = rig.lanes().viewport();
  QTest::mouseClick(view, Qt::LeftButton, {}, at(130000));
  QTest::mouseClick(view, Qt::LeftButton, {}, at(300000));
  CHECK(loop() == Span{{96000}, {192000}});
  CHECK(std::abs(rig.studio().transport().state().position.count - 300000) < 2000);
  rig.drag(view, at(192000), at(240000));
  CHECK(loop() == Span{{96000}, {240000}});
  rig.drag(view, at(150000), at(246000), Qt::ControlModifier);
  CHECK(loop() == Span{{192000}, {336000}});
  rig.drag(view, at(400000), at(456000));
  CHECK(loop().length().count > 40000);
  CHECK(loop().start.count % 24000 == 0);  // beats at 120 bpm
  rig.drag(view, at(100000), at(111000), Qt::AltModifier);
  CHECK(loop().start.count % 24000 != 0);
  rig.studio().desk().undo();
  CHECK(loop().start.count % 24000 == 0);
}

TEST_CASE("A boundary is dragged in the composite; Escape gives up a drag") {
  const TemporaryFolder temporary;
  WindowRig rig(makeWindowSession(temporary), false);
  rig.drag(rig.lanes().viewport(), rig.inLane(0, {100000}), rig.inLane(0, {200000}));
  const Frames boundary = rig.studio().inHand().composite(rig.track()).joins.at(1).at;
  rig.drag(rig.lanes().viewport(), rig.inComposite(boundary), rig.inComposite(boundary + Frames{60000}),
           Qt::AltModifier);
  const auto& joins = rig.studio().inHand().composite(rig.track()).joins;
  REQUIRE(joins.size() == 2);
  CHECK(std::abs((joins[1].at - boundary).count - 60000) < 3000);
  CHECK(rig.studio().inHand().join() == joins[1].at);
  CHECK(rig.studio().desk().history().undoLabel() == "Move a boundary");

  const Session before = rig.studio().desk().session();
  QTest::mousePress(rig.lanes().viewport(), Qt::LeftButton, {}, rig.inLane(1, {300000}));
  QMouseEvent move(QEvent::MouseMove, QPointF(rig.inLane(1, {400000})), QPointF(), Qt::NoButton,
                   Qt::LeftButton, Qt::NoModifier);
  QApplication::sendEvent(rig.lanes().viewport(), &move);
  CHECK_FALSE(rig.studio().desk().session() == before);
  QTest::keyClick(&rig.lanes(), Qt::Key_Escape);
  CHECK(rig.studio().desk().session() == before);
}

TEST_CASE(
    "What cannot be opened throws a sentence; a missing file is said in the window and nothing is lost") {
  const TemporaryFolder temporary;
  CHECK_THROWS_AS(Studio(temporary / "nowhere"), Error);
  const fs::path path = makeWindowSession(temporary);
  fs::remove(path / "audio/lane-001.wav");
  WindowRig rig(path, false);
  CHECK(rig.window->message().contains("lane-001.wav"));
  CHECK(rig.track().lanes.size() == 3);
  rig.wait(100);
  // Flattening what is missing is refused; the session stays.
  rig.drag(rig.lanes().viewport(), rig.inLane(0, {100000}), rig.inLane(0, {200000}));
  rig.key(Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
  REQUIRE(rig.waitFor([&] { return rig.window->message().contains("missing"); }));
  CHECK(rig.track().lanes.size() == 3);
}

TEST_CASE("A disk that does not take the session is said, and closing waits for a second word") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  WindowRig rig(path, false);
  {
    const FullDisk full;
    rig.key(Qt::Key_M);
    REQUIRE(rig.waitFor([&] { return rig.window->message().contains("cannot be written"); }));
    CHECK_FALSE(rig.window->close());
    CHECK_FALSE(rig.studio().desk().saved());
    // Nothing is shown before that, whatever is answered or goes wrong meanwhile.
    rig.studio().messages().warn("Something else went wrong.");
    rig.studio().messages().say("An answer.");
    rig.turn();
    CHECK_THAT(rig.window->message().toStdString(), Catch::Contains("could not be saved"));
    CHECK(rig.studio().desk().apply("Loop", [](const Session& s) { return setLoop(s, Span{{0}, {9600}}); }));
    CHECK_FALSE(rig.studio().desk().flushToDisk());
    CHECK(rig.studio().desk().unsavedSteps() == std::vector<std::string>{"Arm a track", "Loop"});
  }
  // Once there is room it is saved, at once where somebody closes.
  CHECK(rig.studio().desk().flushToDisk());
  CHECK(rig.studio().desk().unsavedSteps().empty());
  CHECK(rig.waitFor([&] { return rig.window->message() == "An answer."; }));
  const SessionFolder saved = SessionFolder::open(path, SessionFolder::Access::Read);
  CHECK((saved.session() == rig.studio().desk().session()));
  CHECK(saved.history().undoLabel());
}

TEST_CASE("Made while the disk was full and closed once there is room, a change is saved by the end") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  {
    WindowRig rig(path, false);
    {
      const FullDisk full;
      CHECK(rig.studio().desk().apply("Loop", [](const Session& s) {
        return setLoop(s, Span{{0}, {9600}});
      }));
      CHECK_FALSE(rig.studio().desk().flushToDisk());
    }
  }
  CHECK(SessionFolder::open(path, SessionFolder::Access::Read).session().loop == Span{{0}, {9600}});
}

TEST_CASE("A second word closes what cannot be saved, and is asked for again where more was done meanwhile") {
  const TemporaryFolder temporary;
  WindowRig rig(makeWindowSession(temporary), false);
  const FullDisk full;
  rig.key(Qt::Key_M);
  REQUIRE(rig.waitFor([&] { return rig.window->message().contains("cannot be written"); }));
  CHECK_FALSE(rig.window->close());
  rig.key(Qt::Key_M);
  CHECK_FALSE(rig.window->close());  // what was done since is not given up by a word said before
  CHECK(rig.window->isVisible());
  CHECK(rig.studio().desk().apply("Loop", [](const Session& s) { return setLoop(s, Span{{0}, {9600}}); }));
  CHECK_FALSE(rig.window->close());
  // Then it is asked, and told what is lost; to stay is what Escape does.
  QString asked;
  const auto closeWith = [&](const QString& answer) {
    QTimer::singleShot(0, rig.window.get(), [&, answer] {
      auto* const box = rig.window->findChild<QMessageBox*>();
      REQUIRE(box);
      asked = box->text();
      for (QAbstractButton* each : box->buttons())
        if (each->text() == answer) return each->click();
      QTest::keyClick(box, Qt::Key_Escape);
    });
    return rig.window->close();
  };
  CHECK_FALSE(closeWith("by Escape"));
  CHECK(asked.contains("Loop"));
  CHECK_FALSE(closeWith("Keep it open"));
  CHECK(rig.window->isVisible());
  CHECK(closeWith("Close and lose it"));
  CHECK_FALSE(rig.window->isVisible());
}
