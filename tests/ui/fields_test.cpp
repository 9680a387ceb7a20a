// SPDX-License-Identifier: GPL-3.0-or-later
//
// Edits in fields belong to what they were begun on, and are one step each; what nobody touched follows the
// session. Messages, jobs and devices while hands are busy.
#include "ui/ui_tests.h"

#include "ui/impatient_rig.h"

TEST_CASE("A gain that is typed, stepped or dragged is one step of the history") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  rig.press(Qt::Key_F6);
  auto* gain = rig.named<QDoubleSpinBox>("Gain of Microphone");
  const auto now = [&] { return rig.track().microphones.front().gain.value; };
  gain->setFocus();
  gain->selectAll();
  rig.type("-12.5");
  CHECK(now() == 0.0);
  rig.press(Qt::Key_Return);
  CHECK(now() == -12.5);
  CHECK(rig.steps() == 1);
  gain->setFocus();
  for (int i = 0; i < 4; ++i) rig.press(Qt::Key_Up);
  CHECK(now() == -8.5);  // heard while it is stepped through
  CHECK(rig.steps() == 1);
  REQUIRE(comesTrueInWindow([&] { return rig.steps() == 2; }, 3000));
  rig.press(Qt::Key_Up);
  rig.lanes().setFocus();  // left
  CHECK(rig.steps() == 3);
  CHECK(now() == -7.5);
  // While it is held, undo takes back that, and the field shows it.
  gain->setFocus();
  rig.press(Qt::Key_Down);
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  CHECK(now() == -7.5);
  CHECK(gain->value() == -7.5);
  CHECK(rig.steps() == 3);
  // A value that was typed and not confirmed goes with Escape.
  gain->selectAll();
  rig.type("3");
  rig.press(Qt::Key_Escape);
  CHECK(gain->value() == -7.5);
  CHECK(gain->text().contains("7.5"));
  CHECK(now() == -7.5);
  // The fader of the track: pressed keys, and a drag.
  auto* fader = rig.named<QSlider>("Gain of Viola");
  fader->setFocus();
  for (int i = 0; i < 5; ++i) rig.press(Qt::Key_Left);
  rig.lanes().setFocus();
  CHECK(rig.track().gain.value == Approx(-0.5));
  CHECK(rig.steps() == 4);
}

TEST_CASE("What was said stays until it is seen, in a row that is always there, and in a list") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  rig.turn();
  const QRect composite = rig.lanes().compositeRect();
  const QRect lanes = rig.lanes().geometry().lanesArea();
  const int top = rig.lanes().mapTo(rig.window.get(), QPoint()).y();
  rig.studio().messages().warn("The disk is full.");
  rig.studio().messages().tell("Imported.");
  rig.window->say("Snaps to beats.");
  rig.turn();
  CHECK(rig.lanes().compositeRect() == composite);
  CHECK(rig.lanes().geometry().lanesArea() == lanes);
  CHECK(rig.lanes().mapTo(rig.window.get(), QPoint()).y() == top);
  CHECK(rig.window->message() == "Snaps to beats.");
  const auto button = [&](const QString& text) {
    for (auto* each : rig.window->findChildren<QPushButton*>())
      if (each->text() == text && each->isVisible()) return each;
    return static_cast<QPushButton*>(nullptr);
  };
  REQUIRE(button("Put away"));
  CHECK(button("2 more"));
  QTest::mouseClick(button("Put away"), Qt::LeftButton);
  CHECK(rig.window->message() == "The disk is full.");
  QTest::mouseClick(button("1 more"), Qt::LeftButton);
  CHECK(rig.window->bench().currentIndex() == MainWindow::MessagesPage);
  auto* table = rig.named<QTableWidget>("All messages");
  REQUIRE(table->rowCount() >= 3);
  CHECK(table->item(0, 1)->text() == "Snaps to beats.");
  CHECK(table->item(1, 1)->text() == "Imported.");
  CHECK(table->item(2, 1)->text() == "The disk is full.");
  QTest::mouseClick(button("Put away"), Qt::LeftButton);
  CHECK(rig.window->message() == "Imported.");
  QTest::mouseClick(button("Put away"), Qt::LeftButton);
  CHECK(rig.window->message().isEmpty());
  CHECK_FALSE(button("Put away"));
}

TEST_CASE("A device that cannot be opened leaves the one before; only one that opened is remembered") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  AudioChoice good;
  good.driver = "Simulated";
  good.blockFrames = 512;
  rig.studio().device().choose(good);
  REQUIRE(rig.studio().device().alive());
  CHECK(savedAudioChoice().blockFrames == 512);
  AudioChoice bad;
  bad.driver = "ALSA";
  bad.source = bad.sink = "no such thing";
  rig.studio().device().choose(bad);
  REQUIRE(rig.waitFor([&] { return rig.window->message().contains("The device before it is used again"); }));
  REQUIRE(rig.waitFor([&] { return rig.studio().device().alive(); }));
  CHECK(rig.studio().device().choice() == good);
  CHECK(savedAudioChoice() == good);
  rig.press(Qt::Key_Space);
  CHECK(rig.studio().transport().state().rolling);
  rig.press(Qt::Key_Space);
  // While it is recorded no other is taken, and none remembered.
  rig.press(Qt::Key_N, Qt::ShiftModifier);
  REQUIRE(rig.studio().recording().recording());
  AudioChoice other = good;
  other.blockFrames = 64;
  rig.studio().device().choose(other);
  CHECK(rig.window->message().contains("Stop recording"));
  CHECK(savedAudioChoice() == good);
  CHECK(rig.studio().recording().recording());
  QSettings().clear();
}

TEST_CASE("A lost device ends the roll, is told in large letters, and the keys say what they cannot do") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  rig.press(Qt::Key_N, Qt::ShiftModifier);
  REQUIRE(rig.waitFor([&] {
    return !rig.studio().recording().growing().empty() &&
           rig.studio().recording().growing().back().pass.window.length() > Frames{9600};
  }));
  rig.studio().device().unplugForTest();
  REQUIRE(rig.waitFor([&] { return !rig.studio().recording().recording(); }));
  rig.turn();
  auto* state = rig.window->findChild<RecordState*>();
  REQUIRE(state);
  CHECK(state->words().word == "No audio device");
  CHECK(state->words().detail.contains("Ctrl+D"));
  CHECK(rig.track().lanes.size() == 4);
  rig.press(Qt::Key_Space);
  CHECK(rig.window->message().contains("No audio device is open"));
  CHECK_FALSE(rig.studio().transport().state().rolling);
  rig.press(Qt::Key_N, Qt::ShiftModifier);
  CHECK(rig.window->message().contains("No audio device is open"));
  rig.press(Qt::Key_D);
  CHECK(rig.studio().inHand().heardLane());
  rig.press(Qt::Key_Right);
  CHECK(rig.studio().transport().state().position > Frames{});
}

namespace {

/// A window on the first of two sessions, in which a loop is drawn.
struct TwoSessions {
  TwoSessions() {
    sessionWithLanes(second, {noise(9600, 4)});
    windows.open(QString::fromStdString(first.string()), std::nullopt);
  }
  void drawLoop() {
    windows.window()->studio().desk().apply("Loop", [](const Session& s) {
      return setLoop(s, Span{{0}, {4800}});
    });
  }
  void ask(const fs::path& session) {
    emit windows.window()->sessionAsked(QString::fromStdString(session.string()), std::nullopt);
  }
  const TemporaryFolder temporary;
  const fs::path first = makeWindowSession(temporary);
  const fs::path second = temporary / "second";
  SessionWindows windows{DeviceDesk::Mode::Absent};
};

}  // namespace

TEST_CASE("Another session closes the present one first; one that cannot be opened brings it back") {
  TwoSessions two;
  const TemporaryFolder& temporary = two.temporary;
  const fs::path& first = two.first;
  const fs::path& second = two.second;
  SessionWindows& windows = two.windows;
  two.drawLoop();
  const auto there = [&](const fs::path& path) {
    return windows.window() && windows.window()->studio().desk().folderPath() == path;
  };
  two.ask(second);
  REQUIRE(comesTrueInWindow([&] { return there(second); }, 5000));
  // The first is closed and saved: it can be opened to be written to.
  {
    const SessionFolder folder = SessionFolder::open(first, SessionFolder::Access::Write);
    CHECK(folder.session().loop == Span{{0}, {4800}});
  }
  two.ask(temporary / "none");
  REQUIRE(comesTrueInWindow([&] { return there(second) && !windows.window()->message().isEmpty(); }, 5000));
  CHECK(windows.window()->message().contains("not a session folder"));
  CHECK(windows.window()->studio().desk().writable());
  // And the same one again.
  two.ask(second);
  QTest::qWait(50);
  REQUIRE(comesTrueInWindow([&] { return there(second); }, 5000));
  CHECK(windows.window()->studio().desk().writable());
}

TEST_CASE("Numbers are typed and shown as they are written here, and a point is understood everywhere") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  QLocale::setDefault(QLocale(QLocale::German));
  {
    ImpatientRig rig(path);
    rig.press(Qt::Key_F7);
    auto* tempo = rig.named<QTableWidget>("Tempo and meter");
    const auto now = [&] { return rig.studio().desk().session().tempo.changes().front().beatsPerMinute; };
    tempo->item(0, 1)->setText("98,5");
    CHECK(now() == 98.5);
    CHECK(tempo->item(0, 1)->text() == "98,5");
    tempo->item(0, 1)->setText("120.5");
    CHECK(now() == 120.5);
    tempo->item(0, 1)->setText("fast");
    CHECK(now() == 120.5);
    CHECK(tempo->item(0, 1)->text() == "120,5");
    rig.press(Qt::Key_F4);
    auto* from = rig.named<QLineEdit>("Loop from");
    from->setFocus();
    from->selectAll();
    rig.type("1,5s");
    rig.press(Qt::Key_Return);
    CHECK(rig.studio().desk().session().loop->start == Frames{72000});
  }
  QLocale::setDefault(QLocale::c());
}
