// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/core_tests.h"

using Access = SessionFolder::Access;

TEST_CASE("The whole history is there after reopening, and goes on") {
  const TemporaryFolder temporary;
  std::vector<Session> values;
  {
    SessionFolder folder = sessionWithLanes(temporary / "s", {noise(9000, 1), noise(9000, 2)});
    const TrackId id = folder.session().tracks.front()->id;
    values.push_back(folder.session());
    for (int i = 0; i < 25; ++i) {
      folder.commit("Pick " + std::to_string(i),
                    pick(folder.session(), id, {{i * 300}, {i * 300 + 200}}, LaneNumber{1}));
      values.push_back(folder.session());
    }
    for (int i = 0; i < 5; ++i) folder.editHistory().undo();
    folder.save();
  }
  {
    SessionFolder folder = SessionFolder::open(temporary / "s", Access::Write);
    CHECK(folder.session() == values[20]);
    CHECK(folder.history().undoLabel() == "Pick 19");
    CHECK(folder.history().redoLabel() == "Pick 20");
    folder.editHistory().redo();
    CHECK(folder.session() == values[21]);
    for (std::size_t i = 21; i-- > 0;) {
      folder.editHistory().undo();
      REQUIRE(folder.session() == values[i]);
    }
    for (std::size_t i = 1; i <= 10; ++i) {
      folder.editHistory().redo();
      REQUIRE(folder.session() == values[i]);
    }
    // A new step after reopening, in the middle of the history.
    folder.commit("Loop", setLoop(folder.session(), Span{{0}, {1000}}));
    CHECK_FALSE(folder.history().redoLabel());
  }
  SessionFolder folder = SessionFolder::open(temporary / "s", Access::Write);
  CHECK(folder.history().undoLabel() == "Loop");
  folder.editHistory().undo();
  CHECK(folder.session() == values[10]);
}

TEST_CASE("However fast it was done, undone and done again between two saves, all of it is saved") {
  // Work is saved on a thread of its own, always the newest: what lay between two saves was never saved by
  // itself.
  std::mt19937 random(4);
  for (int trial = 0; trial < 60; ++trial) {
    INFO("trial " << trial);
    const TemporaryFolder temporary;
    std::vector<std::string> labels;
    std::size_t done = 0;
    Session now;
    {
      SessionFolder folder = sessionWithLanes(temporary / "s", {noise(9000, 1), noise(9000, 2)});
      const TrackId id = folder.session().tracks.front()->id;
      for (int step = 0; step < 40; ++step) {
        History& history = folder.editHistory();
        switch (random() % 5) {
          case 0:
          case 1: {
            const Frames at{static_cast<std::int64_t>(random() % 8000)};
            history.commit("Step " + std::to_string(step),
                           pick(history.now(), id, {at, at + Frames{500}}, LaneNumber{1}));
            break;
          }
          case 2:
            if (history.doneCount() > 1) history.undo();
            break;
          case 3:
            if (history.redoLabel()) history.redo();
            break;
          default:
            REQUIRE_NOTHROW(folder.save());
        }
      }
      REQUIRE_NOTHROW(folder.save());
      now = folder.session();
      for (const auto& each : folder.history().steps()) labels.push_back(each->label());
      done = folder.history().doneCount();
    }
    SessionFolder folder = SessionFolder::open(temporary / "s", Access::Write);
    REQUIRE(folder.session() == now);
    REQUIRE(folder.notices().empty());
    std::vector<std::string> read;
    for (const auto& each : folder.history().steps()) read.push_back(each->label());
    REQUIRE(read == labels);
    REQUIRE(folder.history().doneCount() == done);
    // And every one of them can be gone to and come back from.
    while (folder.history().redoLabel()) folder.editHistory().redo();
    const Session last = folder.session();
    while (folder.history().undoLabel()) folder.editHistory().undo();
    while (folder.history().redoLabel()) folder.editHistory().redo();
    REQUIRE(folder.session() == last);
  }
}
