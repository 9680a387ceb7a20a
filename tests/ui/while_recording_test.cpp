// SPDX-License-Identifier: GPL-3.0-or-later
//
// What a hand may do while it is recorded, and that none of it is a way out of the roll.
#include "ui/ui_tests.h"

#include "ui/impatient_rig.h"

namespace {

/// Without loop, click or pre-roll; half a second of it has passed.
void recordFromTheStart(RecordingRig& rig) {
  rig.setOptions([](RecordingOptions& o) {
    o.loop = false;
    o.click.recording = false;
    o.preRoll = {};
  });
  rig.key(Qt::Key_Home);
  rig.key(Qt::Key_N, Qt::ShiftModifier);
  REQUIRE(rig.rollTo(24000));
}

}  // namespace

TEST_CASE(
    "While it records nobody goes elsewhere: keys and clicks leave the roll where it is, and the take "
    "whole") {
  const TemporaryFolder temporary;
  RecordingRig rig(makeWindowSession(temporary));
  recordFromTheStart(rig);
  REQUIRE(rig.studio().recording().recording());
  QWidget* view = rig.lanes().viewport();
  Frames last = rig.studio().transport().state().position;
  const auto goesOn = [&] {
    rig.wait(200);
    const EngineState state = rig.studio().transport().state();
    CHECK(state.rolling);
    CHECK(rig.studio().recording().recording());
    const Frames passed = state.position - last;
    CHECK(passed > Frames{4800});
    CHECK(passed < Frames{24000});
    last = state.position;
  };
  goesOn();
  rig.key(Qt::Key_Home);
  goesOn();
  rig.key(Qt::Key_PageDown);
  rig.key(Qt::Key_PageUp);
  rig.key(Qt::Key_Left);
  rig.key(Qt::Key_Right);
  goesOn();
  QTest::mouseClick(view, Qt::LeftButton, {}, {rig.lanes().xOf({300000}), 5});  // on the ruler
  goesOn();
  QTest::mouseClick(view, Qt::LeftButton, {}, rig.inLane(1, {10000}));
  goesOn();
  QTest::mouseClick(view, Qt::LeftButton, {}, rig.inComposite({240000}));
  goesOn();
  auto& song = rig.window->song();
  QTest::mouseClick(&song, Qt::LeftButton, {},
                    {song.left() + static_cast<int>(song.scale().x({400000})), song.height() / 2});
  goesOn();
  rig.studio().transport().locate({1000});
  goesOn();
  rig.key(Qt::Key_Space);
  REQUIRE(rig.settled());
  REQUIRE(rig.track().lanes.size() == 4);
  const Clip& clip = rig.track().lane({4})->clips.front();
  CHECK(clip.window.start == Frames{});
  CHECK(clip.window.length() > Frames{48000});
  CHECK((rig.samplesOf({4}) == performance(0, 0, clip.window.length().count)));
}

TEST_CASE(
    "A disk that takes no more while it is recorded is said; what it took before is a take, and stays") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  {
    RecordingRig rig(path);
    rig.setOptions([](RecordingOptions& o) {
      o.loop = false;
      o.click.recording = false;
      o.preRoll = {};
    });
    rig.key(Qt::Key_Home);
    rig.key(Qt::Key_N, Qt::ShiftModifier);
    REQUIRE(rig.rollTo(48000));
    {
      const FullDisk full(100'000);  // about 33,000 frames of 24 bit fit
      REQUIRE(rig.waitFor([&] { return !rig.studio().recording().recording(); }));
      REQUIRE(rig.waitFor([&] { return rig.window->message().contains("disk"); }));
    }
    INFO(rig.window->message().toStdString());
    REQUIRE(rig.settled());
    REQUIRE(rig.track().lanes.size() == 4);
    // It can be recorded again, and saved, as soon as there is room.
    REQUIRE(rig.waitFor([&] { return rig.studio().desk().saved(); }, 15000));
    rig.key(Qt::Key_Home);
    rig.key(Qt::Key_N, Qt::ShiftModifier);
    REQUIRE(rig.rollTo(24000));
    rig.key(Qt::Key_Space);
    REQUIRE(rig.settled());
    REQUIRE(rig.track().lanes.size() == 5);
    const Span kept = rig.track().lane({4})->clips.front().window;
    CHECK(kept.length() > Frames{24000});
    CHECK((rig.samplesOf({4}) == performance(0, 0, kept.length().count)));
    REQUIRE(rig.studio().desk().flushToDisk());
  }
  const SessionFolder again = SessionFolder::open(path, SessionFolder::Access::Read);
  CHECK(again.session().tracks.front()->lanes.size() == 5);
  CHECK(again.recovered().empty());
}

TEST_CASE(
    "While it records takes and tracks stay in their places, and the composite's ends as they are; it is "
    "said") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  rig.addSecondTrack();
  recordFromTheStart(rig);
  const Session before = rig.studio().desk().session();
  const auto untouched = [&] {
    const MessageQueue::Said* const said = rig.studio().messages().queue().shown();
    CHECK((said && said->sentence == "This is being recorded: stop first, then drag."));
    rig.studio().messages().putAway();
    CHECK(rig.studio().desk().session() == before);
    CHECK(rig.studio().recording().recording());
  };
  const auto head = [&](int row) { return QPoint(60, rig.lanes().laneRect(row).center().y()); };
  rig.drag(rig.view(), head(0), head(2));
  untouched();
  const int top = rig.lanes().compositeRect().top() + 5;
  rig.drag(rig.view(), {rig.lanes().xOf({}), top}, {rig.lanes().xOf({96000}), top});
  untouched();
  auto* row = rig.window->findChild<TrackList*>()->findChildren<TrackRow*>().front();
  rig.drag(row, {30, 8}, {30, 300});
  untouched();
  rig.key(Qt::Key_Space);
  REQUIRE(rig.settled());
  REQUIRE(rig.track().lanes.size() == 4);
}
