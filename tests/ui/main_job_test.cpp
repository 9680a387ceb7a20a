// SPDX-License-Identifier: GPL-3.0-or-later
//
// The whole main job through the window with real events: record passes in a loop, compare, pick, join,
// flatten, undo, close, reopen.
#include "ui/ui_tests.h"

TEST_CASE("The main job, by mouse and keys") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  Session flattened;
  std::vector<Piece> picked;
  {
    WindowRig rig(path);
    REQUIRE(rig.track().lanes.size() == 3);

    // Record: Shift+N, and the passes come as lanes while it goes on.
    rig.studio().transport().locate({96000});
    rig.key(Qt::Key_N, Qt::ShiftModifier);
    REQUIRE(rig.studio().recording().recording());
    REQUIRE(rig.waitFor(
        [&] {
          return rig.studio().recording().growing().size() >= 2 &&
                 rig.studio().recording().growing().back().pass.window.length() > Frames{4800};
        },
        15000));
    CHECK(rig.studio().recording().growing().front().peaks->length() > 96000);
    rig.key(Qt::Key_Space);
    REQUIRE(rig.waitFor([&] { return !rig.studio().recording().recording(); }));
    REQUIRE(rig.track().lanes.size() == 5);
    const Clip pass = rig.track().lane({4})->clips.front();
    CHECK(pass.window == Span{{96000}, {192000}});
    const auto file =
        readWave(
            path /
            (*rig.studio().desk().session().pool)[static_cast<std::size_t>(pass.channels.front().file)].path)
            .front();
    const Samples performance = noise(480000, 10, 0.3F);
    // The pass lies where it was played, to the sample.
    CHECK(std::equal(file.begin() + (pass.window.start - pass.origin).count,
                     file.begin() + (pass.window.end - pass.origin).count, performance.begin() + 96000));

    // Compare while it plays: keys and clicks.
    rig.key(Qt::Key_Space);
    REQUIRE(rig.waitFor([&] { return rig.studio().transport().state().rolling; }));
    rig.key(Qt::Key_1);
    CHECK(rig.studio().inHand().heardLane() == LaneNumber{1});
    rig.key(Qt::Key_D);
    CHECK(rig.studio().inHand().heardLane() == LaneNumber{2});
    rig.key(Qt::Key_E);
    CHECK(rig.studio().inHand().heardLane() == LaneNumber{1});
    QTest::mouseClick(rig.lanes().viewport(), Qt::LeftButton, {}, {40, rig.lanes().laneRect(2).center().y()});
    CHECK(rig.studio().inHand().heardLane() == LaneNumber{3});
    rig.key(Qt::Key_C);
    CHECK_FALSE(rig.studio().inHand().heardLane());
    CHECK(rig.studio().transport().state().rolling);

    // The view went to the loop that was recorded; back to the whole song.
    rig.key(Qt::Key_0, Qt::ControlModifier | Qt::ShiftModifier);
    // Pick by dragging over a lane, while it plays.
    rig.drag(rig.lanes().viewport(), rig.inLane(1, {240000}), rig.inLane(1, {360000}));
    const auto composite = rig.studio().inHand().composite(rig.track());
    const Piece* piece = composite.pieceAt({300000});
    REQUIRE(piece);
    CHECK(piece->lane == LaneNumber{2});
    CHECK(piece->picked);
    CHECK(rig.studio().desk().history().undoLabel() == "Pick lane 2");
    // And by key: the heard take over the loop.
    rig.key(Qt::Key_1);
    rig.key(Qt::Key_F);
    CHECK(rig.studio().inHand().composite(rig.track()).pieceAt({120000})->lane == LaneNumber{1});
    rig.key(Qt::Key_Space);
    REQUIRE(rig.waitFor([&] { return !rig.studio().transport().state().rolling; }));

    // A join: onto the bench, boundary and crossfade dragged there.
    rig.studio().transport().locate({200000});
    rig.key(Qt::Key_J);
    REQUIRE(rig.studio().inHand().join());
    const Frames before = *rig.studio().inHand().join();
    rig.wait(50);
    auto& picture = rig.window->joinBench().picture();
    REQUIRE(picture.shown());
    rig.drag(&picture, {picture.xOf(before), picture.height() - 8},
             {picture.xOf(before + Frames{600}), picture.height() - 8});
    REQUIRE(rig.studio().inHand().join());
    const Frames after = *rig.studio().inHand().join();
    CHECK(std::abs((after - before).count - 600) < 20);
    const Join join = *rig.studio().inHand().composite(rig.track()).joinAt(after);
    rig.drag(&picture, {picture.xOf(after + join.shape.after), 40}, {picture.xOf(after + Frames{1200}), 40});
    const Join longer = *rig.studio().inHand().composite(rig.track()).joinAt(after);
    CHECK(longer.set);
    CHECK(std::abs(longer.shape.after.count - 1200) < 20);
    CHECK(longer.shape.before == join.shape.before);
    rig.key(Qt::Key_K);
    REQUIRE(rig.waitFor([&] { return rig.studio().transport().state().rolling; }));
    rig.key(Qt::Key_K);

    // Flatten, undo, redo.
    picked = rig.studio().inHand().composite(rig.track()).pieces;
    rig.key(Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
    REQUIRE(rig.waitFor([&] { return rig.track().lanes.size() == 6; }));
    CHECK(rig.studio().inHand().composite(rig.track()).pieces.size() == 1);
    flattened = rig.studio().desk().session();
    rig.key(Qt::Key_Z, Qt::ControlModifier);
    CHECK(rig.studio().inHand().composite(rig.track()).pieces == picked);
    rig.key(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    CHECK(rig.studio().desk().session() == flattened);
    CHECK(rig.window->close());
  }
  // Everything is there again, with the way back.
  WindowRig rig(path, false);
  CHECK(rig.studio().desk().session() == flattened);
  CHECK(rig.window->message().isEmpty());
  rig.key(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.studio().inHand().composite(rig.track()).pieces == picked);
  while (rig.studio().desk().history().undoLabel()) rig.key(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.track().lanes.size() == 3);
}
