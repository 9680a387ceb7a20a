// SPDX-License-Identifier: GPL-3.0-or-later
//
// Keys as the window system brings them: who gets them, what held keys do, and what those say that can do
// nothing.
#include <QMenuBar>
#include "ui/ui_tests.h"

#include "app/window/keys_by_focus.h"
#include "ui/impatient_rig.h"

TEST_CASE("Held keys do once what is done once; steps, zoom and undo go on") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  rig.setOptions([](RecordingOptions& o) {
    o.preRoll = {};
    o.loop = false;
    o.click.recording = false;
  });
  int changes = 0;
  bool rolled = false;
  QObject::connect(&rig.studio().transport(), &Transport::changed, [&] {
    const bool now = rig.studio().transport().state().rolling;
    if (now != std::exchange(rolled, now)) ++changes;
  });
  rig.press(Qt::Key_H, {}, 10);
  CHECK(rig.markers() == 1);
  rig.press(Qt::Key_Space, {}, 12);
  CHECK(changes == 1);
  CHECK(rolled);
  rig.press(Qt::Key_Space);
  REQUIRE(rig.settled());
  rig.press(Qt::Key_N, Qt::ShiftModifier, 40);
  CHECK(rig.studio().recording().recording());
  CHECK(changes == 3);
  rig.press(Qt::Key_Space);
  REQUIRE(rig.settled());
  CHECK(rig.track().lanes.size() == 4);
  // N punches once in, and once out.
  rig.press(Qt::Key_Space);
  rig.wait(200);
  rig.press(Qt::Key_N, {}, 30);
  rig.wait(200);
  CHECK(rig.studio().transport().state().recording);
  rig.press(Qt::Key_N);
  rig.wait(200);
  CHECK_FALSE(rig.studio().transport().state().recording);
  rig.press(Qt::Key_Space);
  REQUIRE(rig.settled());
  REQUIRE(rig.track().lanes.size() == 5);
  CHECK(rig.track().lanes.back()->clips.size() == 1);
  // Back up and pick up: one step back, however long it is held.
  rig.press(Qt::Key_N, Qt::ShiftModifier);
  rig.wait(1200);
  rig.press(Qt::Key_Backspace, {}, 30);
  rig.wait(500);
  rig.press(Qt::Key_Space);
  REQUIRE(rig.settled());
  CHECK(rig.track().lanes.size() == 6);  // what followed the pick-up was stopped before it came to anything
  const bool armed = rig.track().armed;
  rig.press(Qt::Key_M, {}, 9);
  CHECK(rig.track().armed != armed);

  const std::size_t steps = rig.steps();
  rig.press(Qt::Key_Z, Qt::ControlModifier, 3);
  CHECK(rig.steps() == steps - 3);
  rig.press(Qt::Key_D, {}, 4);
  CHECK(rig.studio().inHand().heardLane());
  CHECK(rig.studio().inHand().heardLane()->value >= 3);
}

TEST_CASE("From a standstill no single key records; the chord does") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  for (int key = Qt::Key_Space; key <= Qt::Key_Z; ++key) {
    INFO("key " << key);
    rig.press(key);
    CHECK_FALSE(rig.studio().recording().recording());
    if (rig.studio().transport().state().rolling) {
      rig.studio().transport().stop();
      REQUIRE(rig.settled());
    }
  }
  rig.lanes().setFocus();
  if (!rig.track().armed) rig.press(Qt::Key_M);
  rig.press(Qt::Key_Backspace);
  CHECK_FALSE(rig.studio().recording().recording());
  CHECK(rig.window->message().contains("Shift+Backspace"));
  rig.press(Qt::Key_N);
  CHECK(rig.window->message().contains("Shift+N"));
  CHECK_FALSE(rig.studio().transport().state().rolling);
  rig.press(Qt::Key_N, Qt::ShiftModifier);
  CHECK(rig.studio().recording().recording());
}

TEST_CASE("What the focused control uses goes to it, everything else to the application") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  const auto rolling = [&] { return rig.studio().transport().state().rolling; };
  const auto heard = [&] { return rig.studio().inHand().heardLane(); };
  auto* mute = rig.named<QToolButton>("Mute Viola");
  mute->setFocus();
  rig.press(Qt::Key_Space);
  QTest::keyRelease(mute, Qt::Key_Space);
  CHECK(rig.track().muted);
  CHECK_FALSE(rolling());
  rig.press(Qt::Key_D);
  CHECK(heard());
  rig.press(Qt::Key_C);
  CHECK_FALSE(heard());

  rig.press(Qt::Key_F3);
  auto* pass = rig.named<QComboBox>("Each pass");
  pass->setFocus();
  rig.press(Qt::Key_Down);
  CHECK(pass->currentIndex() == 1);
  CHECK_FALSE(heard());
  rig.press(Qt::Key_Up);
  CHECK(pass->currentIndex() == 0);
  auto* back = rig.named<QDoubleSpinBox>("Back up");
  back->setFocus();
  const double before = back->value();
  rig.press(Qt::Key_Up);
  CHECK(back->value() == before + 1.0);
  CHECK_FALSE(heard());
  rig.press(Qt::Key_Space);
  CHECK(rolling());
  rig.press(Qt::Key_Space);
  REQUIRE(rig.settled());
  rig.press(Qt::Key_E);
  CHECK(heard());
  rig.press(Qt::Key_C);
  auto* level = rig.named<QSlider>("Level of the click");
  level->setFocus();
  const int was = level->value();
  rig.press(Qt::Key_Left);
  CHECK(level->value() == was - 1);
  const Frames at = rig.studio().transport().state().position;
  rig.press(Qt::Key_Home);
  CHECK(level->value() == level->minimum());
  CHECK(rig.studio().transport().state().position == at);
  auto* tabs = rig.window->bench().tabBar();
  tabs->setFocus();
  rig.press(Qt::Key_Right);
  CHECK(tabs->currentIndex() == MainWindow::SpansPage);
  CHECK(rig.studio().transport().state().position == at);
  // In a field of text letters are text.
  rig.press(Qt::Key_F6);
  auto* name = rig.named<QLineEdit>("Name of the track");
  name->setFocus();
  name->selectAll();
  rig.type("mender");
  QTest::keyClick(name, Qt::Key_Backspace);
  QTest::keyClick(name, Qt::Key_Backspace);
  CHECK(name->text() == "mend");
  CHECK(rig.markers() == 0);
  // Escape gives up what was typed, and the focus.
  rig.press(Qt::Key_Escape);
  CHECK(rig.lanes().hasFocus());
  CHECK(rig.track().name == "Viola");
  CHECK(name->text() == "Viola");
  name->setFocus();
  name->selectAll();
  rig.type("Low");
  rig.press(Qt::Key_Return);
  QCoreApplication::processEvents();
  CHECK(rig.track().name == "Low");
  CHECK(rig.lanes().hasFocus());
}

TEST_CASE("Tables: digits, F2 and Delete are theirs, Enter goes there, Tab leaves") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  REQUIRE(rig.studio().desk().apply("Markers", [](const Session& s) {
    return addMarker(addMarker(addMarker(s, {1000}, "a"), {20000}, "b"), {40000}, "c");
  }));
  rig.press(Qt::Key_F5);
  auto* table = rig.named<QTableWidget>("Markers");
  table->setFocus();
  table->setCurrentCell(0, 0);
  rig.press(Qt::Key_Down);
  CHECK(table->currentRow() == 1);
  CHECK_FALSE(rig.studio().inHand().heardLane());
  rig.press(Qt::Key_Return);
  CHECK(rig.studio().transport().state().position == Frames{20000});
  table->setCurrentCell(1, 2);
  rig.press(Qt::Key_F2);
  CHECK(rig.window->bench().currentIndex() == MainWindow::MarkersPage);
  REQUIRE(table->findChild<QLineEdit*>());
  QApplication::sendEvent(
      table->findChild<QLineEdit*>(),
      std::make_unique<QKeyEvent>(QEvent::KeyPress, Qt::Key_Escape, Qt::NoModifier).get());
  table->setFocus();
  table->selectRow(1);
  rig.press(Qt::Key_Delete);
  REQUIRE(rig.markers() == 2);
  CHECK(rig.studio().desk().session().markers[1].name == "c");
  table->selectRow(1);
  rig.press(Qt::Key_Backspace);
  CHECK(rig.markers() == 1);
  CHECK_FALSE(rig.studio().recording().recording());
  table->setFocus();
  QTest::keyClick(table, Qt::Key_Tab);
  CHECK_FALSE(table->hasFocus());
  table->setFocus();
  QTest::keyClick(table, Qt::Key_Backtab, Qt::ShiftModifier);
  CHECK_FALSE(table->hasFocus());

  rig.press(Qt::Key_F4);
  auto* punches = rig.named<QTableWidget>("Punch spans");
  punches->setFocus();
  punches->setCurrentCell(0, 1);
  QTest::keyClick(punches, Qt::Key_3);
  REQUIRE(punches->findChild<QLineEdit*>());
  QTest::keyClicks(punches->findChild<QLineEdit*>(), "|1");
  QTest::keyClick(punches->findChild<QLineEdit*>(), Qt::Key_Return);
  QCoreApplication::processEvents();
  CHECK_FALSE(rig.studio().inHand().heardLane());
  REQUIRE(rig.punches().size() == 1);
  CHECK(rig.punches()[0].in == Frames{192000});
}

TEST_CASE("A key that can do nothing here says why") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  const auto says = [&](int key, Qt::KeyboardModifiers modifiers = {}) {
    rig.studio().messages().putAway();
    rig.press(key, modifiers);
    return rig.window->message();
  };
  CHECK(says(Qt::Key_F).contains("Hear a take first"));
  CHECK(says(Qt::Key_9).contains("no lane 9"));
  CHECK(says(Qt::Key_J).contains("no joins"));
  CHECK(says(Qt::Key_K).contains("No join is in hand"));
  CHECK(says(Qt::Key_U, Qt::ControlModifier).contains("no punch spans"));
  CHECK(says(Qt::Key_L, Qt::ShiftModifier).contains("Select a stretch"));
  CHECK(says(Qt::Key_Backspace, Qt::ControlModifier).contains("no recording to discard"));
  CHECK(says(Qt::Key_Z, Qt::ControlModifier).contains("nothing to undo"));
  CHECK(says(Qt::Key_W).contains("Hear a take first"));
  CHECK(says(Qt::Key_PageDown).contains("only this one track"));
  rig.press(Qt::Key_M);
  CHECK(says(Qt::Key_K, Qt::ControlModifier).contains("No track is armed"));
  CHECK(says(Qt::Key_N, Qt::ShiftModifier).contains("No track is armed"));
  rig.press(Qt::Key_M);
  rig.press(Qt::Key_N, Qt::ShiftModifier);
  REQUIRE(rig.studio().recording().recording());
  CHECK(says(Qt::Key_Z, Qt::ControlModifier).contains("Stop recording first"));
  for (const int key : {Qt::Key_Home, Qt::Key_M, Qt::Key_Right, Qt::Key_F}) {
    INFO("key " << key);
    CHECK(says(key).contains("stop first"));
  }
  CHECK(says(Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier).contains("stop first"));
  rig.studio().messages().putAway();
  rig.drag(rig.view(), rig.inLane(0, {100000}), rig.inLane(0, {200000}));
  CHECK(rig.window->message().contains("stop first"));
  rig.studio().messages().putAway();
  QTest::mouseClick(rig.view(), Qt::LeftButton, {}, {rig.lanes().geometry().headWidth + 200, 12});
  CHECK(rig.window->message().contains("stop first"));
  rig.press(Qt::Key_Space);
  REQUIRE(rig.settled());
}

TEST_CASE(
    "No key is taken twice, by another action or by a menu; the edges of a take are pulled by W and R") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  std::map<QString, QString> taken;
  for (const QAction* menu : rig.window->menuBar()->actions())
    taken[QKeySequence::mnemonic(menu->text()).toString()] = menu->text();
  CHECK(taken.size() == static_cast<std::size_t>(rig.window->menuBar()->actions().size()));
  for (const QAction* each : rig.window->keyedActions())
    for (const QKeySequence& key : each->shortcuts()) {
      INFO(key.toString().toStdString() << " for " << each->text().toStdString());
      CHECK(taken.emplace(key.toString(), each->text()).second);
    }
  rig.press(Qt::Key_1);
  rig.studio().transport().locate({48000});
  rig.press(Qt::Key_W);
  CHECK(rig.track().lanes.front()->clips.front().window.start == Frames{48000});
  rig.studio().transport().locate({240000});
  rig.press(Qt::Key_R);
  CHECK(rig.track().lanes.front()->clips.front().window.end == Frames{240000});
}
