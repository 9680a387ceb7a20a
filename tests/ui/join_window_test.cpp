// SPDX-License-Identifier: GPL-3.0-or-later
//
// The join bench in the window: from the riskiest down, better places, settling; by keys and by mouse.
#include <QListWidget>
#include "ui/ui_tests.h"

#include "ui/round_rig.h"

namespace {

/// Three takes of three phrases of noise: joined within a phrase they sound unlike, between phrases they
/// rest.
struct JoinRig : RoundRig {
  explicit JoinRig(const fs::path& path) : RoundRig(path) {
    // From 3 to 1 in the middle of the second phrase's first 60 ms, and back in a rest.
    studio().desk().apply("Pick", [id = track().id](const Session& s) {
      return pick(s, id, {{194000}, {300000}}, LaneNumber{1});
    });
    turn();
  }
  QListWidget& list() { return *named<QListWidget>("Joins, riskiest first"); }
  bool listened() {
    return waitFor(
        [&] { return !studio().joins().looking() && studio().joins().joins().size() == joins().size(); });
  }
  const Join& join(std::size_t index) { return studio().inHand().composite(track()).joins.at(index); }
};

}  // namespace

TEST_CASE("The riskiest join is taken in hand, improved, heard and settled: by keys alone") {
  const TemporaryFolder temporary;
  JoinRig rig(makePhrases(temporary));
  rig.press(Qt::Key_Q, Qt::ShiftModifier);
  REQUIRE(rig.listened());
  rig.press(Qt::Key_Q, Qt::ShiftModifier);
  CHECK(rig.window->bench().currentIndex() == MainWindow::JoinPage);
  REQUIRE(rig.studio().inHand().join() == Frames{194000});
  REQUIRE(rig.listened());
  REQUIRE(rig.list().count() == 2);
  CHECK(rig.list().currentRow() == 0);
  CHECK(rig.named<QLabel>("What the join sounds like")->text() != "Clean: both takes rest.");
  REQUIRE(!rig.studio().joins().findings().empty());

  // Into the rest before the phrase, which begins at 192,000.
  const JoinFinding best = rig.studio().joins().findings().front();
  CHECK(best.at < Frames{192000});
  rig.press(Qt::Key_J, Qt::ControlModifier);
  CHECK(rig.joins() == std::vector{best.at, Frames{300000}});
  CHECK(rig.join(0).shape == best.shape);
  CHECK(rig.join(0).found);
  CHECK(rig.studio().inHand().join() == best.at);
  CHECK(rig.window->message().contains("In the rest before"));
  CHECK(rig.studio().desk().history().undoLabel() == "A better place for a join");
  REQUIRE(rig.listened());
  CHECK(rig.named<QLabel>("What the join sounds like")->text() == "Clean: both takes rest.");
  // There is nothing better than that.
  rig.press(Qt::Key_J, Qt::ControlModifier);
  CHECK(rig.window->message().contains("plainly better"));
  CHECK(rig.joins().front() == best.at);

  // Settled, it leaves the list when another one is in hand; the last one too.
  rig.press(Qt::Key_H, Qt::ShiftModifier);
  CHECK(rig.join(0).settled);
  REQUIRE(rig.listened());
  CHECK(rig.list().count() == 2);
  rig.press(Qt::Key_Q, Qt::ShiftModifier);
  CHECK(rig.studio().inHand().join() == Frames{300000});
  REQUIRE(rig.listened());
  CHECK(rig.list().count() == 1);
  rig.press(Qt::Key_H, Qt::ShiftModifier);
  REQUIRE(rig.listened());
  rig.press(Qt::Key_Q, Qt::ShiftModifier);
  CHECK(rig.window->message().contains("All joins are settled"));
  // Taken up again.
  rig.press(Qt::Key_H, Qt::ShiftModifier);
  CHECK(!rig.join(1).settled);

  // All of it undone, step by step.
  for (int i = 0; i < 4; ++i) rig.press(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.joins() == std::vector{Frames{194000}, Frames{300000}});
  CHECK(!rig.join(0).found);
}
