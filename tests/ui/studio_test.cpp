// SPDX-License-Identifier: GPL-3.0-or-later
//
// The studio without a window: what the views rely on.
#include <QLineEdit>
#include <QSignalSpy>
#include <QTableWidget>
#include <catch2/catch.hpp>
#include <fstream>

#include "app/views/time_scale.h"
#include "window_rig.h"

using namespace yewdrift;
using namespace yewdrift::test;
using namespace yewdrift::app;

TEST_CASE("An edit that cannot be made is said and changes nothing") {
  const TemporaryFolder temporary;
  Studio studio(makeWindowSession(temporary));
  QSignalSpy said(&studio.messages(), &Messages::said);
  const Session before = studio.desk().session();
  CHECK_FALSE(studio.desk().apply("Pick", [](const Session& s) {
    return pick(s, s.tracks.front()->id, {{5}, {5}}, LaneNumber{1});
  }));
  CHECK(said.size() == 1);
  CHECK(studio.desk().session() == before);
  CHECK_FALSE(studio.desk().history().undoLabel());
}

TEST_CASE("A preview shows at once and leaves one step, or none") {
  const TemporaryFolder temporary;
  Studio studio(makeWindowSession(temporary));
  const Session before = studio.desk().session();
  const TrackId id = before.tracks.front()->id;
  for (std::int64_t end = 1000; end <= 50000; end += 1000) {
    studio.desk().preview([=](const Session& s) { return pick(s, id, {{500}, {end}}, LaneNumber{1}); });
    REQUIRE(studio.desk().session().tracks.front()->composite.picks[0].span.end == Frames{end});
  }
  studio.desk().finishPreview("Pick");
  CHECK(studio.desk().history().done().size() == 1);
  studio.desk().undo();
  CHECK(studio.desk().session() == before);
  studio.desk().preview([=](const Session& s) { return pick(s, id, {{500}, {900}}, LaneNumber{2}); });
  studio.desk().cancelPreview();
  CHECK(studio.desk().session() == before);
}

TEST_CASE("What is in hand goes when it is gone") {
  const TemporaryFolder temporary;
  Studio studio(makeWindowSession(temporary));
  const TrackId id = studio.inHand().track()->id;
  studio.desk().apply("Pick", [=](const Session& s) { return pick(s, id, {{1000}, {9000}}, LaneNumber{1}); });
  studio.inHand().takeJoin(Frames{9000});
  REQUIRE(studio.inHand().joinCloseUp({1000}, {}));
  CHECK(studio.inHand().joinCloseUp({1000}, {})->outgoing.size() == 2000);
  studio.desk().undo();
  CHECK_FALSE(studio.inHand().join());
  CHECK_FALSE(studio.inHand().joinCloseUp({1000}, {}));
  studio.inHand().hear(LaneNumber{2});
  CHECK(studio.inHand().heardLane() == LaneNumber{2});
  studio.inHand().hear(LaneNumber{77});
  CHECK(studio.inHand().heardLane() == LaneNumber{2});
  studio.inHand().hearNeighbour(5);
  CHECK(studio.inHand().heardLane() == LaneNumber{3});
}

TEST_CASE("Files are imported as takes in the background; those that are not audio are named") {
  const TemporaryFolder temporary;
  Studio studio(makeWindowSession(temporary));
  QSignalSpy said(&studio.messages(), &Messages::said);
  writeWave(temporary / "good.wav", {noise(2000, 5)}, 44100);
  std::ofstream(temporary / "bad.wav") << "no";
  studio.files().importFiles(
      {QString::fromStdString(temporary / "good.wav"), QString::fromStdString(temporary / "bad.wav")});
  REQUIRE(QTest::qWaitFor([&] { return said.size() == 1; }, 5000));
  CHECK(said.first().first().toString().contains("bad.wav"));
  CHECK(studio.inHand().track()->lanes.size() == 4);
  CHECK(studio.inHand().track()->lanes.back()->name == "good");
}

TEST_CASE("Zooming keeps what is under the pointer where it is") {
  TimeScale scale{{48000}, 100.0};
  for (const double factor : {0.5, 0.9, 1.3, 4.0}) {
    const Frames under = scale.at(333.0);
    const TimeScale zoomed = scale.zoomed(factor, 333.0);
    CHECK(std::abs(zoomed.x(under) - 333.0) < 0.51);
    scale = zoomed;
  }
  CHECK(scale.zoomed(1e-9, 0).framesPerPixel >= 2.0);
  CHECK(scale.x(scale.at(10.0)) == Approx(10.0).margin(0.01));
}

TEST_CASE("The song strip draws and moves the loop, moves the playhead and takes tracks in hand") {
  const TemporaryFolder temporary;
  WindowRig rig(makeWindowSession(temporary), false);
  rig.studio().desk().apply("Add", [](const Session& s) { return addTrack(s, "Second", microphonesFor(1)); });
  auto& song = rig.window->song();
  QTest::qWait(20);
  auto x = [&](std::int64_t frame) {
    return song.left() + static_cast<int>(std::lround(song.scale().x({frame})));
  };
  QTest::mouseClick(&song, Qt::LeftButton, {}, {x(300000), 8});
  CHECK(std::abs(rig.studio().transport().state().position.count - 300000) < 3000);
  rig.drag(&song, {x(240000), 8}, {x(384000), 8});
  CHECK(*rig.studio().desk().session().loop == Span{{240000}, {384000}});
  rig.drag(&song, {x(300000), 8}, {x(324000), 8});
  CHECK(*rig.studio().desk().session().loop == Span{{264000}, {408000}});
  rig.drag(&song, {x(264000), 8}, {x(96000), 8});
  CHECK(*rig.studio().desk().session().loop == Span{{96000}, {408000}});
  QTest::mouseClick(&song, Qt::LeftButton, {}, {x(100000), song.height() - 6});
  CHECK(rig.track().name == "Second");
}

TEST_CASE("The keys overview can be searched") {
  const TemporaryFolder temporary;
  WindowRig rig(makeWindowSession(temporary), false);
  rig.window->showKeys();
  auto* table = rig.window->findChild<QTableWidget*>();
  auto* search = rig.window->findChild<QLineEdit*>();
  REQUIRE(table);
  REQUIRE(search);
  QTest::keyClicks(search, "flatten");
  int shown = 0;
  for (int row = 0; row < table->rowCount(); ++row) shown += table->isRowHidden(row) ? 0 : 1;
  CHECK(shown == 1);
}
