// SPDX-License-Identifier: GPL-3.0-or-later
//
// Closing the window in the middle of things; and what hands do beside: wheels, menus of amounts, lamps.
#include "ui/ui_tests.h"

#include "ui/round_rig.h"

TEST_CASE("Closed while it records, the take is kept, and then the window goes") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  Samples kept;
  {
    ImpatientRig rig(path);
    rig.setOptions([](RecordingOptions& o) {
      o.loop = false;
      o.preRoll.amount = 0;
    });
    rig.studio().transport().locate({});
    rig.press(Qt::Key_N, Qt::ShiftModifier);
    REQUIRE(rig.rollTo(60000));
    CHECK_FALSE(rig.window->close());
    CHECK(rig.window->isVisible());
    CHECK(rig.window->message().contains("stopped and kept"));
    REQUIRE(rig.waitFor([&] { return !rig.window->isVisible(); }));
    REQUIRE(rig.track().lanes.size() == 4);
    kept = rig.samplesOf({4});
    CHECK(kept.size() >= 55000);
    CHECK(kept == performance(0, 0, static_cast<std::int64_t>(kept.size())));
  }
  const SessionFolder again = SessionFolder::open(path, SessionFolder::Access::Write);
  CHECK(again.notices().empty());
  REQUIRE(again.session().tracks.front()->lanes.size() == 4);
  CHECK(again.session().tracks.front()->lanes.back()->clips.front().window.length().count ==
        static_cast<std::int64_t>(kept.size()));
}

TEST_CASE(
    "Closed while something is done that cannot be done again, it waits for that and for nothing else") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  std::atomic<bool> goesOn{true};
  std::atomic<bool> cancelled{false};
  rig.studio().jobs().start("Writing", Jobs::Cancel::Never, [&](Jobs::Run&) {
    while (goesOn) QThread::msleep(1);
  });
  rig.studio().jobs().start("Looking", Jobs::Cancel::Possible, [&](Jobs::Run& job) {
    while (job.tell(0.5)) QThread::msleep(1);
    cancelled = job.cancelled();
  });
  CHECK_FALSE(rig.window->close());
  CHECK(rig.window->message().contains("Writing: the window closes"));
  rig.wait(500);
  CHECK(rig.window->isVisible());
  goesOn = false;
  REQUIRE(rig.waitFor([&] { return !rig.window->isVisible(); }));
  CHECK(cancelled);
}
