// SPDX-License-Identifier: GPL-3.0-or-later
//
// Every way to record, in the window, by mouse and keys.
#include <QDoubleSpinBox>
#include <QSpinBox>
#include "ui/ui_tests.h"

#include "app/bench/options_bench.h"
#include "recording_rig.h"

TEST_CASE("Punch spans are drawn, dragged by edge and whole, taken from a selection, typed and removed") {
  const TemporaryFolder temporary;
  RecordingRig rig(makeWindowSession(temporary));
  QWidget* view = rig.lanes().viewport();
  QTest::mouseClick(view, Qt::LeftButton, {}, rig.punchRow(130000));
  CHECK(rig.punches().empty());  // a click makes nothing
  rig.drag(view, rig.punchRow(96000), rig.punchRow(144000));
  REQUIRE(rig.punches() == std::vector<Punch>{{Frames{96000}, Frames{144000}}});
  QTest::mouseClick(view, Qt::LeftButton, {}, rig.punchRow(120000));
  CHECK(rig.punches().size() == 1);  // and destroys nothing
  rig.drag(view, rig.punchRow(144000), rig.punchRow(168000));
  CHECK(rig.punches().front() == Punch{Frames{96000}, Frames{168000}});
  rig.drag(view, rig.punchRow(130000), rig.punchRow(154000), Qt::ControlModifier);
  CHECK(rig.punches().front() == Punch{Frames{120000}, Frames{192000}});
  // A second one; an edge stops at its neighbour.
  rig.drag(view, rig.punchRow(240000), rig.punchRow(288000));
  REQUIRE(rig.punches().size() == 2);
  rig.drag(view, rig.punchRow(240000), rig.punchRow(60000));
  CHECK(rig.punches()[1].in == Frames{192000});
  rig.key(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.punches()[1].in == Frames{240000});
  // From a selection, in one gesture; touching spans become one.
  rig.drag(view, rig.inLane(0, {288000}), rig.inLane(0, {336000}), Qt::ShiftModifier);
  REQUIRE(rig.studio().inHand().selection() == Span{{288000}, {336000}});
  rig.key(Qt::Key_U);
  CHECK(rig.punches()[1] == Punch{Frames{240000}, Frames{336000}});
  rig.key(Qt::Key_L, Qt::ShiftModifier);
  CHECK(*rig.studio().desk().session().loop == Span{{288000}, {336000}});
  rig.key(Qt::Key_A, Qt::ShiftModifier);  // a bar of air on either side
  CHECK(*rig.studio().desk().session().loop == Span{{192000}, {432000}});
  // In and out alone, at the playhead.
  rig.studio().transport().locate({384000});
  rig.key(Qt::Key_W, Qt::ShiftModifier);
  CHECK(rig.punches().back() == Punch{Frames{384000}, std::nullopt});
  rig.studio().transport().locate({400000});
  rig.key(Qt::Key_R, Qt::ShiftModifier);
  CHECK(rig.punches().back() == Punch{Frames{384000}, Frames{400000}});
  // On the song strip too.
  auto& song = rig.window->song();
  auto x = [&](std::int64_t frame) {
    return song.left() + static_cast<int>(std::lround(song.scale().x({frame})));
  };
  rig.drag(&song, {x(384000) + 6, song.punchRowY()}, {x(432000) + 6, song.punchRowY()}, Qt::ControlModifier);
  CHECK(*rig.punches().back().in == Frames{432000});

  // Typed, on the bench.
  rig.key(Qt::Key_F4);
  auto* bench = rig.window->findChild<SpansBench*>();
  auto* table = bench->findChild<QTableWidget*>();
  REQUIRE(table->rowCount() == static_cast<int>(rig.punches().size()) + 1);
  table->item(0, 1)->setText("2|1");
  table->item(0, 2)->setText("2.5s");
  CHECK(rig.punches()[0] == Punch{Frames{96000}, Frames{120000}});
  table->item(0, 1)->setText("nonsense");
  CHECK(rig.window->message().contains("not a position"));
  CHECK(rig.punches()[0].in == Frames{96000});
  table->item(0, 2)->setText("9|1");
  CHECK(rig.window->message().contains("overlap"));
  table->selectAll();
  for (auto* button : bench->findChildren<QPushButton*>())
    if (button->text() == "Remove selected") QTest::mouseClick(button, Qt::LeftButton);
  CHECK(rig.punches().empty());
}

TEST_CASE("The sentence and the state say what record will do; automatic punch stands down after a pass") {
  const TemporaryFolder temporary;
  RecordingRig rig(makeWindowSession(temporary));
  rig.setOptions([](RecordingOptions& o) {
    o.loop = false;
    o.click.recording = false;
  });
  rig.drag(rig.lanes().viewport(), rig.punchRow(96000), rig.punchRow(120000));
  rig.studio().transport().locate({84000});
  CHECK(rig.studio().recording().sentence().contains("in 2|1 to 2|2"));
  REQUIRE(rig.studio().recording().autoPunchStandsBy());
  rig.key(Qt::Key_Space);  // playing records the punch
  REQUIRE(rig.studio().recording().recording());
  REQUIRE(rig.settled());
  REQUIRE(rig.track().lanes.size() == 4);
  CHECK(rig.track().lane({4})->clips.front().window == Span{{96000}, {120000}});
  CHECK(rig.samplesOf({4}) == performance(0, 96000, 24000));
  CHECK_FALSE(rig.studio().recording().autoPunchStandsBy());
  rig.studio().transport().locate({84000});
  rig.key(Qt::Key_Space);  // and now only plays
  REQUIRE(rig.rollTo(100000));
  CHECK_FALSE(rig.studio().recording().recording());
  rig.key(Qt::Key_Space);
  REQUIRE(rig.settled());
  CHECK(rig.track().lanes.size() == 4);
  // Discarded without a question, and brought back.
  CHECK(rig.studio().recording().lastRecorded().size() == 1);
  rig.key(Qt::Key_Backspace, Qt::ControlModifier);
  CHECK(rig.track().lanes.size() == 3);
  rig.key(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.track().lanes.size() == 4);
}

TEST_CASE("Back up and pick up, over and over with one key: the slip goes, the rest stays") {
  const TemporaryFolder temporary;
  RecordingRig rig(makeWindowSession(temporary));
  rig.setOptions([](RecordingOptions& o) {
    o.loop = false;
    o.preRoll.amount = 0;
    o.backUpSeconds = 0.5;
    o.leadSeconds = 0.25;
    o.click.recording = false;
  });
  rig.studio().transport().locate({});
  rig.key(Qt::Key_N, Qt::ShiftModifier);
  REQUIRE(rig.rollTo(120000));
  rig.key(Qt::Key_Backspace);  // slipped: back half a second, and on from there
  REQUIRE(rig.waitFor([&] { return rig.track().lanes.size() == 4 && rig.studio().recording().recording(); }));
  const Frames first = rig.track().lane({4})->clips.front().window.end;
  REQUIRE(rig.waitFor([&] { return rig.studio().transport().state().position < first; }));
  REQUIRE(rig.rollTo(first.count + 60000));
  rig.key(Qt::Key_Backspace);
  REQUIRE(rig.waitFor([&] { return rig.track().lanes.size() == 5 && rig.studio().recording().recording(); }));
  REQUIRE(rig.rollTo(rig.track().lane({5})->clips.front().window.end.count + 110000));
  rig.key(Qt::Key_Space);
  REQUIRE(rig.settled());
  REQUIRE(rig.track().lanes.size() == 6);
  const auto composite = rig.studio().inHand().composite(rig.track());
  REQUIRE(composite.pieces.size() >= 3);
  CHECK(composite.pieces[0].lane == LaneNumber{4});
  CHECK(composite.pieces[1].lane == LaneNumber{5});
  CHECK(composite.pieces[2].lane == LaneNumber{6});
  CHECK(composite.joins.at(0).shape.before.count > 0);  // a crossfade was made for each
  CHECK(composite.joins.at(0).at == rig.track().lane({5})->clips.front().window.start);
  // The slip is not lost: it lies in the handle.
  CHECK(rig.track().lane({4})->clips.front().extent().end > rig.track().lane({4})->clips.front().window.end);
}

TEST_CASE("An input the device does not have is refused with a sentence, or the device is opened wider") {
  const TemporaryFolder temporary;
  RecordingRig rig(makeWindowSession(temporary));
  const TrackId id = rig.track().id;
  rig.studio().desk().apply("Input", [id](const Session& s) {
    return setMicrophones(s, id, {{"Far", 6, 1, {}, {}}});
  });
  rig.key(Qt::Key_N, Qt::ShiftModifier);
  CHECK(rig.studio().recording().recording());  // as many inputs as the tracks ask for was the choice
  rig.key(Qt::Key_Space);
  REQUIRE(rig.settled());
  AudioChoice narrow;
  narrow.inputs = 2;
  rig.studio().device().open(narrow);
  rig.key(Qt::Key_N, Qt::ShiftModifier);
  CHECK_FALSE(rig.studio().recording().recording());
  CHECK(rig.window->message().contains("records from input 7"));
}

TEST_CASE("A broken-off pass is set aside, seen and brought back") {
  const TemporaryFolder temporary;
  RecordingRig rig(makeWindowSession(temporary));
  rig.setOptions([](RecordingOptions& o) { o.preRoll.amount = 0; });
  rig.studio().transport().locate({96000});
  rig.key(Qt::Key_N, Qt::ShiftModifier);
  REQUIRE(rig.rollTo(100000));
  rig.key(Qt::Key_Space);
  REQUIRE(rig.settled());
  REQUIRE(rig.track().lanes.size() == 4);
  CHECK(rig.track().lane({4})->setAside);
  CHECK(rig.window->message().contains("set aside"));
  CHECK(rig.studio().inHand().composite(rig.track()).pieces.front().lane == LaneNumber{3});
  CHECK(rig.lanes().rows().size() == 3);
  QTest::mouseClick(rig.lanes().viewport(), Qt::LeftButton, {}, rig.lanes().setAsideRect().center());
  REQUIRE(rig.lanes().rows().size() == 4);
  QTest::mouseClick(rig.lanes().viewport(), Qt::LeftButton, {}, {40, rig.lanes().laneRect(0).center().y()});
  CHECK_FALSE(rig.track().lane({4})->setAside);
  CHECK(rig.lanes().setAsideRect().height() == 0);
}
