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
