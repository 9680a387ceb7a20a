// SPDX-License-Identifier: GPL-3.0-or-later
//
// The window on sessions that are not as one would wish: open elsewhere, cut off, far away, with files that
// take their time.
#include "ui/ui_tests.h"

#include "core/store/recording_note.h"

namespace {

QPushButton* cancelButton(WindowRig& rig) {
  for (QPushButton* button : rig.window->findChildren<QPushButton*>())
    if (button->text() == "Cancel") return button;
  return nullptr;
}

}  // namespace

TEST_CASE("A session that is open elsewhere can be looked at and listened to, and says that it is so") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  const SessionFolder elsewhere = SessionFolder::open(path, SessionFolder::Access::Write);
  const std::string document = content(path / "session.json");
  {
    WindowRig rig(path);
    CHECK(rig.window->message().contains("open in another Yewdrift"));
    CHECK(rig.window->windowTitle().contains("look and listen only"));
    CHECK(rig.studio().recording().sentence().contains("only be looked at"));
    const Session before = rig.studio().desk().session();
    rig.key(Qt::Key_M);
    CHECK(rig.window->message().contains("nothing can be changed"));
    rig.key(Qt::Key_N, Qt::ShiftModifier);
    CHECK(rig.window->message().contains("nothing can be changed"));
    CHECK_FALSE(rig.studio().recording().recording());
    rig.drag(rig.lanes().viewport(), rig.inLane(0, {100000}), rig.inLane(0, {200000}));
    CHECK((rig.studio().desk().session() == before));
    // Played all the same.
    rig.key(Qt::Key_Space);
    CHECK(rig.loudestWithin(500)[0] > 0.1F);
    rig.key(Qt::Key_Space);
    CHECK(rig.window->close());
  }
  CHECK(content(path / "session.json") == document);
  for (const auto& entry : fs::directory_iterator(path / "audio"))
    CHECK(entry.path().filename().string().rfind("lane-", 0) == 0);
}

TEST_CASE("What was recovered is said, and is not undone by a key pressed out of habit") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  writeWave(path / "audio" / "cut.wav", {noise(96000, 9)});
  {
    const SessionFolder folder = SessionFolder::open(path, SessionFolder::Access::Read);
    RecordSetup setup;
    setup.timeline.stopAt = Frames{96000};
    RecordingNote(folder.disk())
        .write(folder.session(), setup,
               {{folder.session().tracks.front()->id, {{"audio/cut.wav", 1, {}}}, std::nullopt}});
  }
  WindowRig rig(path);
  CHECK(rig.window->message().contains("recovered: 0:02.000"));
  REQUIRE(rig.track().lanes.size() == 4);
  rig.key(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.window->message().contains("Undo once more"));
  CHECK(rig.track().lanes.size() == 4);
  rig.key(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.track().lanes.size() == 3);
  rig.key(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
  CHECK(rig.track().lanes.size() == 4);
}

TEST_CASE("An import shows how far it is, and its Cancel leaves nothing of it") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  writeWave(temporary / "long.wav", {noise(12'000'000, 4)}, 96000);
  const auto files = [&] { return std::distance(fs::directory_iterator(path / "audio"), {}); };
  const auto before = files();
  WindowRig rig(path);
  REQUIRE(cancelButton(rig));
  CHECK_FALSE(cancelButton(rig)->isVisible());
  rig.studio().files().importFiles({QString::fromStdString((temporary / "long.wav").string())}, false);
  REQUIRE(rig.waitFor([&] { return cancelButton(rig)->isVisible(); }));
  QTest::mouseClick(cancelButton(rig), Qt::LeftButton);
  REQUIRE(rig.waitFor([&] { return rig.window->message().contains("cancelled"); }));
  CHECK_FALSE(cancelButton(rig)->isVisible());
  CHECK(rig.track().lanes.size() == 3);
  CHECK(files() == before);
}

TEST_CASE("Audio in the folder that nobody needs becomes a take, in one step") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  writeWave(path / "audio" / "left-behind.wav", {noise(9600, 7)}, 48000, SampleFormat::Float32);
  WindowRig rig(path);
  const auto bringIn = [&] {
    for (QAction* each : rig.window->actions())
      if (each->text() == "Bring in unused files") return each->trigger();
    FAIL("there is no such action");
  };
  bringIn();
  const Session& now = rig.studio().desk().session();
  REQUIRE(now.tracks.size() == 2);
  CHECK(now.tracks.back()->name == "left-behind");
  REQUIRE(now.tracks.back()->lanes.size() == 1);
  CHECK(now.tracks.back()->lanes.front()->clips.front().window == Span{{0}, {9600}});
  CHECK(rig.window->message().contains("left-behind"));
  CHECK(rig.studio().desk().history().undoLabel() == "Bring in unused files");
  REQUIRE(rig.studio().desk().flushToDisk());
  bringIn();
  CHECK(rig.window->message().contains("needs every audio file"));
  // What is being captured along is no file that nobody needs.
  rig.key(Qt::Key_Space);
  rig.wait(300);
  REQUIRE(rig.studio().recording().standingBy());
  bringIn();
  CHECK(rig.window->message().contains("still being written"));
  rig.key(Qt::Key_Space);
  CHECK(now.tracks.size() == 2);
  REQUIRE(rig.waitFor([&] { return !rig.studio().recording().hasFilesOfItsOwn(); }));
  bringIn();
  CHECK(rig.window->message().contains("needs every audio file"));
  CHECK(now.tracks.size() == 2);
}
