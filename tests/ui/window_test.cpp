// SPDX-License-Identifier: GPL-3.0-or-later
#include <QMessageBox>
#include <QTimer>
#include "ui/ui_tests.h"

#include "app/bench/record_bench.h"

TEST_CASE(
    "What cannot be opened throws a sentence; a missing file is said in the window and nothing is lost") {
  const TemporaryFolder temporary;
  CHECK_THROWS_AS(Studio(temporary / "nowhere"), Error);
  const fs::path path = makeWindowSession(temporary);
  fs::remove(path / "audio/lane-001.wav");
  WindowRig rig(path, false);
  CHECK(rig.window->message().contains("lane-001.wav"));
  CHECK(rig.track().lanes.size() == 3);
  rig.wait(100);
  // Flattening what is missing is refused; the session stays.
  rig.drag(rig.lanes().viewport(), rig.inLane(0, {100000}), rig.inLane(0, {200000}));
  rig.key(Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
  REQUIRE(rig.waitFor([&] { return rig.window->message().contains("missing"); }));
  CHECK(rig.track().lanes.size() == 3);
}

TEST_CASE("A disk that does not take the session is said, and closing waits for a second word") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  WindowRig rig(path, false);
  {
    const FullDisk full;
    rig.key(Qt::Key_M);
    REQUIRE(rig.waitFor([&] { return rig.window->message().contains("cannot be written"); }));
    CHECK_FALSE(rig.window->close());
    CHECK_FALSE(rig.studio().desk().saved());
    // Nothing is shown before that, whatever is answered or goes wrong meanwhile.
    rig.studio().messages().warn("Something else went wrong.");
    rig.studio().messages().say("An answer.");
    rig.turn();
    CHECK_THAT(rig.window->message().toStdString(), Catch::Contains("could not be saved"));
    CHECK(rig.studio().desk().apply("Loop", [](const Session& s) { return setLoop(s, Span{{0}, {9600}}); }));
    CHECK_FALSE(rig.studio().desk().flushToDisk());
    CHECK(rig.studio().desk().unsavedSteps() == std::vector<std::string>{"Arm a track", "Loop"});
  }
  // Once there is room it is saved, at once where somebody closes.
  CHECK(rig.studio().desk().flushToDisk());
  CHECK(rig.studio().desk().unsavedSteps().empty());
  CHECK(rig.waitFor([&] { return rig.window->message() == "An answer."; }));
  const SessionFolder saved = SessionFolder::open(path, SessionFolder::Access::Read);
  CHECK((saved.session() == rig.studio().desk().session()));
  CHECK(saved.history().undoLabel());
}

TEST_CASE("Made while the disk was full and closed once there is room, a change is saved by the end") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  {
    WindowRig rig(path, false);
    {
      const FullDisk full;
      CHECK(rig.studio().desk().apply("Loop", [](const Session& s) {
        return setLoop(s, Span{{0}, {9600}});
      }));
      CHECK_FALSE(rig.studio().desk().flushToDisk());
    }
  }
  CHECK(SessionFolder::open(path, SessionFolder::Access::Read).session().loop == Span{{0}, {9600}});
}

TEST_CASE("A second word closes what cannot be saved, and is asked for again where more was done meanwhile") {
  const TemporaryFolder temporary;
  WindowRig rig(makeWindowSession(temporary), false);
  const FullDisk full;
  rig.key(Qt::Key_M);
  REQUIRE(rig.waitFor([&] { return rig.window->message().contains("cannot be written"); }));
  CHECK_FALSE(rig.window->close());
  rig.key(Qt::Key_M);
  CHECK_FALSE(rig.window->close());  // what was done since is not given up by a word said before
  CHECK(rig.window->isVisible());
  CHECK(rig.studio().desk().apply("Loop", [](const Session& s) { return setLoop(s, Span{{0}, {9600}}); }));
  CHECK_FALSE(rig.window->close());
  // Then it is asked, and told what is lost; to stay is what Escape does.
  QString asked;
  const auto closeWith = [&](const QString& answer) {
    QTimer::singleShot(0, rig.window.get(), [&, answer] {
      auto* const box = rig.window->findChild<QMessageBox*>();
      REQUIRE(box);
      asked = box->text();
      for (QAbstractButton* each : box->buttons())
        if (each->text() == answer) return each->click();
      QTest::keyClick(box, Qt::Key_Escape);
    });
    return rig.window->close();
  };
  CHECK_FALSE(closeWith("by Escape"));
  CHECK(asked.contains("Loop"));
  CHECK_FALSE(closeWith("Keep it open"));
  CHECK(rig.window->isVisible());
  CHECK(closeWith("Close and lose it"));
  CHECK_FALSE(rig.window->isVisible());
}
