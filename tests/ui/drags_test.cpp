// SPDX-License-Identifier: GPL-3.0-or-later
//
// Drags by real events, interrupted by everything that impatient hands do.
#include <catch2/catch.hpp>

#include "core/edit/edit_gather.h"
#include "ui/impatient_rig.h"

using namespace yewdrift;
using namespace yewdrift::test;
using namespace yewdrift::app;

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

TEST_CASE("A drag ends where the button was let go unseen; the right button has no part in it") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  rig.press(rig.view(), rig.inLane(0, {100000}));
  rig.move(rig.view(), rig.inLane(0, {200000}));
  rig.press(rig.view(), rig.inLane(2, {50000}), Qt::RightButton);
  rig.release(rig.view(), rig.inLane(2, {50000}), Qt::RightButton);
  CHECK(rig.studio().desk().holding());
  CHECK(rig.steps() == 0);
  rig.move(rig.view(), rig.inLane(0, {210000}));
  // The next that is seen of the pointer has no button pressed.
  rig.move(rig.view(), rig.inLane(0, {400000}), Qt::NoButton);
  CHECK_FALSE(rig.studio().desk().holding());
  CHECK(rig.steps() == 1);
  REQUIRE(rig.joins().size() == 2);
  CHECK(std::abs(rig.joins()[1].count - 210000) < 2000);
  rig.move(rig.view(), rig.inLane(0, {450000}));
  CHECK(rig.steps() == 1);
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

TEST_CASE("Of two edges in reach the nearer is dragged: loop, boundary, punch") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  const auto wide = static_cast<std::int64_t>(6 * rig.lanes().scale().framesPerPixel);
  REQUIRE(rig.studio().desk().apply("Loop", [=](const Session& s) {
    return setLoop(s, Span{{200000}, {200000 + wide}});
  }));
  const auto loop = [&] { return *rig.studio().desk().session().loop; };
  const int y = rig.lanes().rulerRect().center().y();
  const int end = rig.lanes().xOf(loop().end);
  rig.drag(rig.view(), {end + 1, y}, {end + 61, y});
  CHECK(loop().start == Frames{200000});
  CHECK(loop().end > Frames{200000 + 8 * wide});
  const TrackId id = rig.track().id;
  REQUIRE(rig.studio().desk().apply("Pick", [=](const Session& s) {
    return pick(pick(s, id, {{100000}, {300000}}, LaneNumber{1}), id, {{300000}, {300000 + wide}},
                LaneNumber{2});
  }));
  const int at = rig.lanes().compositeRect().center().y();
  QTest::mouseClick(rig.view(), Qt::LeftButton, {}, {rig.lanes().xOf({300000}) + 1, at});
  CHECK(rig.studio().inHand().join() == Frames{300000});
  QTest::mouseClick(rig.view(), Qt::LeftButton, {}, {rig.lanes().xOf({300000 + wide}) - 1, at});
  CHECK(rig.studio().inHand().join() == Frames{300000 + wide});
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

TEST_CASE("In the song strip and under the magnifier a drag is dropped and settled alike") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  auto& song = rig.window->song();
  const auto x = [&](std::int64_t frame) {
    return song.left() + static_cast<int>(std::lround(song.scale().x({frame})));
  };
  const Span before = *rig.studio().desk().session().loop;
  rig.press(&song, {x(192000), 8});
  rig.move(&song, {x(250000), 8});
  rig.move(&song, {x(300000), 8});
  CHECK(rig.studio().desk().session().loop->end > Frames{250000});
  rig.press(Qt::Key_Escape);
  rig.move(&song, {x(400000), 8});
  rig.release(&song, {x(400000), 8});
  CHECK(*rig.studio().desk().session().loop == before);
  CHECK(rig.steps() == 0);

  const TrackId id = rig.track().id;
  REQUIRE(rig.studio().desk().apply("Pick", [=](const Session& s) {
    return pick(s, id, {{100000}, {200000}}, LaneNumber{1});
  }));
  rig.studio().inHand().takeJoin(Frames{200000});
  rig.turn();
  auto& picture = rig.window->joinBench().picture();
  REQUIRE(picture.isVisible());
  REQUIRE(picture.shown());
  const Frames length = picture.shown()->join.shape.after;
  const int edge = picture.xOf(Frames{200000} + length);
  rig.press(&picture, {edge, 40});
  rig.move(&picture, {edge + 40, 40});
  CHECK(picture.shown()->join.shape.after > length);
  rig.press(&picture, {5, 5}, Qt::RightButton);
  rig.release(&picture, {5, 5}, Qt::RightButton);
  CHECK(rig.studio().desk().holding());
  rig.press(Qt::Key_Escape);
  rig.release(&picture, {edge + 40, 40});
  CHECK(picture.shown()->join.shape.after == length);
  CHECK(rig.steps() == 1);
  rig.press(&picture, {edge, 40});
  rig.move(&picture, {edge + 40, 40});
  rig.window->bench().setCurrentIndex(0);
  CHECK_FALSE(rig.studio().desk().holding());
  CHECK(rig.steps() == 2);
}

TEST_CASE(
    "Wheels and touchpads: small steps add up, values change only where the focus is, zoom has an end") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  auto* gain = rig.named<QSlider>("Gain of Viola");
  for (int i = 0; i < 3; ++i) rig.wheel(gain, {0, -120});
  CHECK(rig.track().gain.value == 0.0);
  rig.press(Qt::Key_F3);
  auto* pass = rig.named<QComboBox>("Each pass");
  rig.wheel(pass, {0, -120});
  CHECK(pass->currentIndex() == 0);
  auto* count = rig.named<QSpinBox>("Count-in");
  const int bars = count->value();
  rig.wheel(count, {0, 120});
  CHECK(count->value() == bars);
  count->setFocus();
  rig.wheel(count, {0, 120});
  CHECK(count->value() == bars + 1);

  rig.lanes().showSpan({{0}, {96000}});
  const Frames left = rig.lanes().scale().origin;
  for (int i = 0; i < 40; ++i) rig.wheel(rig.view(), {-1, 0}, {-1, 0});
  const auto moved = static_cast<double>((rig.lanes().scale().origin - left).count);
  CHECK(moved == Approx(40 * rig.lanes().scale().framesPerPixel).epsilon(0.05));
  for (int i = 0; i < 80; ++i) rig.lanes().zoom(1.5);
  const double width = 480000 / rig.lanes().scale().framesPerPixel;
  CHECK(width > 60);
}

TEST_CASE("The take that is heard and the passes that grow come into sight, at the bottom of many") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  const TrackId id = rig.track().id;
  for (int i = 0; i < 15; ++i)
    REQUIRE(rig.studio().desk().apply(
        "Add", [id](const Session& s) { return addFileAsLane(s, id, (*s.pool)[0], {}, "take"); }));
  rig.turn();
  const auto inSight = [&](int row) {
    return rig.lanes().geometry().lanesArea().contains(rig.lanes().laneRect(row));
  };
  CHECK(inSight(17));
  rig.press(Qt::Key_1);
  CHECK(inSight(0));
  for (int i = 0; i < 17; ++i) rig.press(Qt::Key_D);
  CHECK(rig.studio().inHand().heardLane() == LaneNumber{18});
  CHECK(inSight(17));
  rig.press(Qt::Key_1);
  rig.setOptions([](RecordingOptions& o) { o.preRoll = {}; });
  rig.studio().transport().locate({96000});
  rig.press(Qt::Key_N, Qt::ShiftModifier);
  REQUIRE(rig.waitFor([&] { return !rig.studio().recording().growing().empty(); }));
  rig.turn();
  CHECK(inSight(18));
  rig.press(Qt::Key_Space);
  REQUIRE(rig.settled());
  // What is set aside is unfolded into sight.
  REQUIRE(rig.studio().desk().apply(
      "Aside", [id](const Session& s) { return setLaneAside(s, id, LaneNumber{2}, true); }));
  rig.turn();
  QTest::mouseClick(rig.view(), Qt::LeftButton, {}, rig.lanes().setAsideRect().center());
  CHECK(rig.lanes().rows().front()->number == LaneNumber{2});
  CHECK(inSight(0));
}

TEST_CASE("A drag begins nothing where there is no track, or where what was pressed has gone meanwhile") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  const TrackId id = rig.track().id;
  // The lane goes while its middle, its end and its head are pressed.
  for (const QPoint at : {rig.inLane(2, Frames{100000}), rig.inLane(2, Frames{480000}),
                          QPoint(30, rig.inLane(2, Frames{0}).y())}) {
    rig.press(rig.view(), at);
    REQUIRE(rig.studio().desk().apply("Remove", [&](const Session& s) { return removeLane(s, id, {3}); }));
    ImpatientRig::move(rig.view(), at + QPoint(40, 3));
    rig.release(rig.view(), at + QPoint(40, 3));
    rig.studio().desk().undo();
    CHECK(rig.studio().desk().session().tracks.front()->lanes.size() == 3);
  }
  REQUIRE(rig.studio().desk().apply("Remove", [&](const Session& s) { return removeTrack(s, id); }));
  rig.turn();
  const auto steps = rig.steps();
  for (const QPoint at : {rig.inComposite(Frames{100000}), QPoint(400, 60), QPoint(30, 60)})
    for (const auto held : {Qt::NoModifier, Qt::ControlModifier, Qt::ShiftModifier})
      rig.drag(rig.view(), at, at + QPoint(50, 2), held);
  CHECK(rig.steps() == steps);
  CHECK(rig.studio().desk().session().tracks.empty());
}
