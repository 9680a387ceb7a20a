// SPDX-License-Identifier: GPL-3.0-or-later
//
// Drags by real events, interrupted by everything that impatient hands do.
#include "ui/ui_tests.h"

#include "ui/impatient_rig.h"

TEST_CASE("Whatever is done in the middle of a drag settles it first, and the moves after it do nothing") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  rig.addSecondTrack();
  rig.studio().inHand().takeTrack(rig.studio().desk().session().tracks.front()->id);
  const TrackId viola = rig.track().id;
  const std::size_t before = rig.steps();
  const auto begin = [&] {
    rig.press(rig.view(), rig.inLane(0, {100000}));
    rig.move(rig.view(), rig.inLane(0, {150000}));
    rig.move(rig.view(), rig.inLane(0, {200000}));
    REQUIRE(rig.studio().desk().holding());
  };
  const auto goOn = [&] {
    rig.move(rig.view(), rig.inLane(0, {300000}));
    rig.release(rig.view(), rig.inLane(0, {300000}));
  };
  const auto reach = static_cast<std::int64_t>(rig.lanes().scale().framesPerPixel) + 1;
  const auto near = [&](Frames at, std::int64_t wanted) { return std::abs(at.count - wanted) <= reach; };

  // Undo takes the drag back and nothing else.
  begin();
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  CHECK_FALSE(rig.studio().desk().holding());
  goOn();
  CHECK(rig.joins().empty());
  CHECK(rig.steps() == before);
  // Escape too.
  begin();
  rig.press(Qt::Key_Escape);
  goOn();
  CHECK(rig.joins().empty());
  CHECK(rig.steps() == before);
  // A marker: both are steps, one after the other.
  begin();
  rig.press(Qt::Key_H);
  goOn();
  REQUIRE(rig.joins().size() == 2);
  CHECK(near(rig.joins()[1], 200000));
  CHECK(rig.markers() == 1);
  CHECK(rig.steps() == before + 2);
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.markers() == 0);
  CHECK(rig.joins().size() == 2);
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.joins().empty());
  // An option holds, and so does what was dragged.
  begin();
  rig.press(Qt::Key_Period);
  goOn();
  CHECK(rig.studio().desk().options().snap != Snap::Off);
  CHECK(rig.joins().size() == 2);
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  rig.setOptions([](RecordingOptions& o) { o.snap = Snap::Off; });
  // Another track in hand: it was dragged on the former one.
  begin();
  rig.press(Qt::Key_PageDown);
  CHECK(rig.track().name == "Second");
  goOn();
  CHECK(rig.joins().empty());
  rig.press(Qt::Key_PageUp);
  REQUIRE(rig.track().id == viola);
  REQUIRE(rig.joins().size() == 2);
  CHECK(near(rig.joins()[1], 200000));
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  // The window goes to the back.
  begin();
  QEvent away(QEvent::WindowDeactivate);
  QApplication::sendEvent(rig.window.get(), &away);
  CHECK_FALSE(rig.studio().desk().holding());
  goOn();
  REQUIRE(rig.joins().size() == 2);
  CHECK(near(rig.joins()[1], 200000));
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  // The view is hidden.
  begin();
  rig.lanes().hide();
  CHECK_FALSE(rig.studio().desk().holding());
  rig.lanes().show();
  CHECK(rig.joins().size() == 2);
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.steps() == before);
}

TEST_CASE("Dragged past an edge the view comes along; the second of two quick clicks counts") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  rig.lanes().showSpan({{100000}, {200000}});
  const Frames left = rig.lanes().scale().origin;
  const QPoint outside(rig.view()->width() + 40, rig.inLane(0, {}).y());
  rig.press(rig.view(), rig.inLane(0, {150000}));
  rig.move(rig.view(), rig.inLane(0, {160000}));
  rig.move(rig.view(), outside);
  REQUIRE(comesTrueInWindow([&] { return rig.lanes().scale().origin > left + Frames{30000}; }, 3000));
  rig.release(rig.view(), outside);
  const Frames stands = rig.lanes().scale().origin;
  QTest::qWait(120);
  CHECK(rig.lanes().scale().origin == stands);
  REQUIRE(rig.joins().size() == 2);
  CHECK(rig.joins()[1] > Frames{220000});

  const QPoint name(40, rig.lanes().laneRect(1).center().y());
  QTest::mouseClick(rig.view(), Qt::LeftButton, {}, name);
  CHECK(rig.studio().inHand().heardLane() == LaneNumber{2});
  QMouseEvent again(QEvent::MouseButtonDblClick, QPointF(name), rig.view()->mapToGlobal(QPointF(name)),
                    Qt::LeftButton, Qt::LeftButton, {});
  QApplication::sendEvent(rig.view(), &again);
  rig.release(rig.view(), name);
  CHECK_FALSE(rig.studio().inHand().heardLane());
}

TEST_CASE("A dropped boundary leaves its join in hand where it was; picks and boundaries snap") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  const TrackId id = rig.track().id;
  REQUIRE(rig.studio().desk().apply("Pick", [=](const Session& s) {
    return pick(s, id, {{100000}, {200000}}, LaneNumber{1});
  }));
  rig.press(rig.view(), rig.inComposite({200000}));
  rig.move(rig.view(), rig.inComposite({260000}));
  CHECK(rig.studio().inHand().join() != Frames{200000});
  rig.press(Qt::Key_Escape);
  rig.release(rig.view(), rig.inComposite({260000}));
  CHECK(rig.studio().inHand().join() == Frames{200000});
  CHECK(rig.joins()[1] == Frames{200000});
  rig.setOptions([](RecordingOptions& o) { o.snap = Snap::Bar; });
  rig.drag(rig.view(), rig.inComposite({200000}), rig.inComposite({285000}));
  CHECK(rig.joins()[1] == Frames{288000});
  rig.drag(rig.view(), rig.inComposite({288000}), rig.inComposite({250000}), Qt::AltModifier);
  CHECK(std::abs(rig.joins()[1].count - 250000) < 2000);
  // At its neighbour it stops, and says so.
  const Frames neighbour = rig.joins()[0];
  rig.drag(rig.view(), rig.inComposite(rig.joins()[1]), rig.inComposite({40000}), Qt::AltModifier);
  CHECK(rig.joins()[0] == neighbour);
  CHECK(rig.joins()[1] > neighbour);
  CHECK_THAT(rig.window->message().toStdString(), Catch::Contains("The boundary stops there"));
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  rig.drag(rig.view(), rig.inLane(2, {101000}), rig.inLane(2, {191000}));
  CHECK(rig.joins().front() == Frames{192000});  // before it the newest take plays anyway
}
