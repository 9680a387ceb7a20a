// SPDX-License-Identifier: GPL-3.0-or-later
//
// The window on a real sound server: the first start, recording, a microphone that is pulled out and comes
// back, a server that ends and starts again, another default.
#include "device/sound_server_rig.h"
#include "ui/ui_tests.h"

namespace {

fs::path emptySession(const TemporaryFolder& temporary) {
  const fs::path path = temporary / "s";
  Session session;
  session.name = "s";
  session.format = SampleFormat::Float32;
  session = addTrack(std::move(session), "Voice", microphonesFor(2));
  session = setTrackSwitch(session, session.tracks.front()->id, TrackSwitch::Arm, true);
  SessionFolder::create(path, session);
  return path;
}

AudioChoice choiceUnderTest() {
  AudioChoice choice;
  choice.driver = QString::fromStdString(driverUnderTest());
  return choice;
}

void openAndWait(WindowRig& rig, const AudioChoice& choice) {
  rig.studio().device().open(choice);
  REQUIRE(rig.waitFor([&] { return rig.studio().device().device() != nullptr; }, 15000));
}

std::string server(const std::string& what) {
  return "\"$SOUND_SERVER\" " + what;
}

}  // namespace

TEST_CASE("On the first start the best driver that is there is taken, and said") {
  QSettings().remove("device");
  const TemporaryFolder temporary;
  WindowRig rig(emptySession(temporary), false, WindowRig::Mode::Normal);
  openAndWait(rig, savedAudioChoice());
  CHECK(rig.studio().device().choice().driver.toStdString() == driverUnderTest());
  CHECK(rig.window->message().contains("Yewdrift uses"));
  CHECK(rig.window->message().contains(
      QString::fromStdString(rig.studio().device().device()->report().sourceName)));
  CHECK(rig.studio().device().device()->settings().source == "microphone");
  CHECK(rig.studio().device().device()->settings().sink == "speakers");
  CHECK(savedAudioChoice().driver.toStdString() == driverUnderTest());
  QSettings().remove("device");
}

TEST_CASE("The level is seen and a take is recorded with one chord, whole") {
  const std::vector<Samples> signal{noise(4 * 48000, 1, 0.4F), noise(4 * 48000, 2, 0.4F)};
  requireOnce([&] {
    const TemporaryFolder temporary;
    WindowRig rig(emptySession(temporary), false, WindowRig::Mode::Normal);
    AudioChoice choice = choiceUnderTest();
    choice.blockFrames = 1024;
    openAndWait(rig, choice);
    const Player player(temporary.path(), signal, 1.0);
    rig.key(Qt::Key_N, Qt::ShiftModifier);
    REQUIRE(rig.waitFor([&] { return rig.studio().device().inputPeak(1) > 0.3F; }));
    CHECK(rig.studio().recording().recording());
    QTest::qWait(5500);
    rig.key(Qt::Key_Space);
    REQUIRE(rig.waitFor([&] { return !rig.studio().recording().recording(); }));
    REQUIRE(rig.track().lanes.size() == 1);
    REQUIRE(rig.studio().desk().flushToDisk());
    const fs::path folder = rig.studio().desk().folderPath();
    rig.window.reset();
    return differences(laneOf(folder, "Voice", 0), signal);
  });
}

TEST_CASE("A microphone pulled out in mid-pass ends the roll and is taken up again when it returns") {
  const TemporaryFolder temporary;
  WindowRig rig(emptySession(temporary), false, WindowRig::Mode::Normal);
  AudioChoice choice = choiceUnderTest();
  choice.source = "microphone";
  openAndWait(rig, choice);
  rig.key(Qt::Key_N, Qt::ShiftModifier);
  REQUIRE(rig.waitFor([&] {
    return rig.studio().recording().recording() && rig.studio().transport().state().rollFrame > Frames{72000};
  }));
  REQUIRE(shell(server("unplug")).status == 0);
  REQUIRE(rig.waitFor([&] { return !rig.studio().recording().recording() && !rig.track().lanes.empty(); }));
  CHECK(rig.window->message().contains("kept"));
  CHECK_FALSE(rig.track().lanes.front()->setAside);
  CHECK(rig.track().lanes.front()->clips.front().window.length() >= Frames{60000});
  REQUIRE(shell(server("plug")).status == 0);
  REQUIRE(rig.waitFor(
      [&] { return rig.studio().device().device() && rig.studio().device().device()->alive(); }, 15000));
  CHECK(rig.studio().device().device()->settings().source == "microphone");
  rig.key(Qt::Key_N, Qt::ShiftModifier);
  const bool grows = rig.waitFor([&] {
    return !rig.studio().recording().growing().empty() &&
           rig.studio().recording().growing().back().pass.window.length() > Frames{24000};
  });
  CAPTURE(rig.window->message().toStdString(), rig.studio().recording().recording(),
          rig.studio().transport().state().rollFrame.count, rig.track().lanes.size());
  REQUIRE(grows);
  rig.key(Qt::Key_Space);
  REQUIRE(rig.waitFor([&] { return rig.track().lanes.size() == 2; }));
  shell("pactl set-default-source microphone");
}

TEST_CASE("A server that is killed and started again loses nothing and is used again") {
  const TemporaryFolder temporary;
  WindowRig rig(emptySession(temporary), false, WindowRig::Mode::Normal);
  openAndWait(rig, choiceUnderTest());
  rig.key(Qt::Key_N, Qt::ShiftModifier);
  REQUIRE(rig.waitFor([&] {
    return rig.studio().recording().recording() && rig.studio().transport().state().rollFrame > Frames{72000};
  }));
  REQUIRE(shell(server("stop")).status == 0);
  REQUIRE(rig.waitFor([&] { return !rig.studio().recording().recording() && !rig.track().lanes.empty(); },
                      15000));
  CHECK(rig.track().lanes.front()->clips.front().window.length() >= Frames{60000});
  REQUIRE(shell(server("start")).status == 0);
  REQUIRE(rig.waitFor(
      [&] {
        return rig.studio().device().device() && rig.studio().device().device()->alive() &&
               rig.studio().device().device()->settings().source == "microphone";
      },
      20000));
}

TEST_CASE("When the system's default changes it is followed, but never in the middle of a take") {
  const TemporaryFolder temporary;
  WindowRig rig(emptySession(temporary), false, WindowRig::Mode::Normal);
  openAndWait(rig, choiceUnderTest());
  rig.key(Qt::Key_N, Qt::ShiftModifier);
  REQUIRE(rig.waitFor(
      [&] { return rig.studio().recording().recording() && rig.studio().transport().state().rolling; }));
  REQUIRE(shell("pactl set-default-source cable.monitor").status == 0);
  QTest::qWait(1500);
  CHECK(rig.studio().recording().recording());
  CHECK(rig.studio().device().device()->settings().source == "microphone");
  rig.key(Qt::Key_Space);
  CHECK(rig.waitFor(
      [&] {
        return rig.studio().device().device() &&
               rig.studio().device().device()->settings().source == "cable.monitor";
      },
      15000));
  CHECK(rig.track().lanes.size() == 1);
  shell("pactl set-default-source microphone");
}

TEST_CASE("That nothing comes in is noticed and explained, muted and unmuted") {
  const TemporaryFolder temporary;
  WindowRig rig(emptySession(temporary), false, WindowRig::Mode::Normal);
  openAndWait(rig, choiceUnderTest());
  REQUIRE(shell("pactl set-source-mute microphone 1").status == 0);
  REQUIRE(rig.waitFor([&] { return rig.studio().device().nothingComesIn().contains("muted"); }, 10000));
  const QString message = rig.window->message();
  CHECK((message.contains("muted") || message.contains("Nothing comes from")));
  REQUIRE(shell("pactl set-source-mute microphone 0").status == 0);
  CHECK(rig.waitFor([&] { return rig.studio().device().nothingComesIn().contains("Nothing comes from"); },
                    10000));
  const Player player(temporary.path(), {noise(48000, 1), noise(48000, 2)}, 0.0);
  CHECK(rig.waitFor([&] { return rig.studio().device().nothingComesIn().isEmpty(); }, 5000));
}

TEST_CASE(
    "The device dialog offers sources and sinks apart, shows what was granted, and follows what is plugged "
    "in") {
  const TemporaryFolder temporary;
  WindowRig rig(emptySession(temporary), false, WindowRig::Mode::Normal);
  openAndWait(rig, choiceUnderTest());
  rig.window->showDevice();
  auto* dialog = rig.window->findChild<DeviceDialog*>();
  auto box = [&](const char* name) {
    for (auto* each : dialog->findChildren<QComboBox*>())
      if (each->accessibleName() == name) return each;
    FAIL("no box " << name);
    return static_cast<QComboBox*>(nullptr);
  };
  REQUIRE(rig.waitFor([&] { return box("Record from")->findData("microphone") >= 0; }));
  CHECK(box("Play to")->findData("speakers") >= 0);
  CHECK(box("Play to")->findData("cable") >= 0);
  CHECK(box("Play to")->findData("microphone") < 0);
  CHECK(dialog->findChildren<LevelMeter*>().size() == 2);
  REQUIRE(shell("pactl load-module module-null-sink sink_name=late").status == 0);
  CHECK(rig.waitFor([&] { return box("Play to")->findData("late") >= 0; }));
  box("Play to")->setCurrentIndex(box("Play to")->findData("cable"));
  for (auto* button : dialog->findChildren<QPushButton*>())
    if (button->text() == "Use this device") QTest::mouseClick(button, Qt::LeftButton);
  REQUIRE(rig.waitFor(
      [&] {
        return rig.studio().device().device() && rig.studio().device().device()->settings().sink == "cable";
      },
      15000));
  // The test tone goes out to the cable and comes back.
  for (auto* button : dialog->findChildren<QPushButton*>())
    if (button->text() == "Test tone") QTest::mouseClick(button, Qt::LeftButton);
  CHECK(rig.waitFor([&] { return rig.studio().device().inputPeak(0) > 0.09F; }));
  rig.studio().transport().engine().setTestTone(false);
  QSettings().remove("device");
}
