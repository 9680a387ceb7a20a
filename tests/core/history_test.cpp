// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/history.h"

#include <catch2/catch.hpp>
#include <fstream>

#include "core/edit/edit.h"
#include "core/error.h"
#include "support.h"

using namespace yewdrift;
using namespace yewdrift::test;
using Access = SessionFolder::Access;

TEST_CASE("Undo and redo name what they do, and a new step cuts off what was undone") {
  History history(Session{});
  CHECK_FALSE(history.undoLabel());
  CHECK_THROWS_AS(history.undo(), Error);
  history.commit("Add a track", addTrack(Session{}, "Viola", microphonesFor(1)));
  history.commit("Nothing", history.now());
  CHECK(history.done().size() == 1);
  CHECK(history.undo() == "Add a track");
  CHECK(history.redoLabel() == "Add a track");
  history.commit("Add another", addTrack(Session{}, "Drum", microphonesFor(1)));
  CHECK_THROWS_AS(history.redo(), Error);
}

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

TEST_CASE("A damaged history is said; the session itself opens and can be worked on") {
  const TemporaryFolder temporary;
  Session kept;
  {
    SessionFolder folder = sessionWithLanes(temporary / "s", {noise(9000, 1)});
    kept = folder.session();
  }
  std::ofstream(temporary / "s/history.log", std::ios::trunc) << "gone";
  SessionFolder folder = SessionFolder::open(temporary / "s", Access::Write);
  CHECK(folder.session() == kept);
  REQUIRE(folder.notices().size() == 1);
  CHECK_THAT(folder.notices().front(), Catch::Contains("history"));
  folder.commit("Loop", setLoop(folder.session(), Span{{0}, {1000}}));
  folder.editHistory().undo();
  CHECK(folder.session() == kept);
}
