// SPDX-License-Identifier: GPL-3.0-or-later
//
// Tracks in the window: moved, named in place, doubled, removed, spread and gathered; forty of them.

#include "ui/ui_tests.h"

#include "ui/impatient_rig.h"

namespace {

struct TracksRig : ImpatientRig {
  explicit TracksRig(const fs::path& path) : ImpatientRig(path) { addSecondTrack(); }
  TrackList& list() { return *window->findChild<TrackList*>(); }
  TrackRow& row(int index) {
    std::vector<TrackRow*> shown;
    for (auto* each : list().findChildren<TrackRow*>())
      if (studio().desk().session().track(each->track()) && each->isVisible()) shown.push_back(each);
    std::sort(shown.begin(), shown.end(), [](TrackRow* a, TrackRow* b) { return a->y() < b->y(); });
    return *shown.at(static_cast<std::size_t>(index));
  }
  QStringList names() {
    QStringList names;
    for (const auto& each : studio().desk().session().tracks) names << QString::fromStdString(each->name);
    return names;
  }
};

}  // namespace

TEST_CASE("A track is dragged to another place in the list; Escape takes it back, a click moves nothing") {
  const TemporaryFolder temporary;
  TracksRig rig(makeWindowSession(temporary));
  REQUIRE(rig.studio().desk().apply(
      "Add", [](Session s) { return addTrack(std::move(s), "Third", microphonesFor(1)); }));
  rig.turn();
  const QStringList before = rig.names();
  REQUIRE(before.size() == 3);
  const std::size_t steps = rig.steps();
  TrackRow* const dragged = &rig.row(0);
  const auto to = [&](int index) {
    TrackRow& over = rig.row(index);
    return dragged->mapFromGlobal(over.mapToGlobal(QPoint(30, over.height() - 3)));
  };
  const QPoint from(30, 8);
  rig.press(dragged, from);
  rig.move(dragged, to(1));
  rig.turn();
  CHECK(rig.names() == QStringList{before[1], before[0], before[2]});
  CHECK(&rig.row(1) == dragged);  // the mouse holds it still
  rig.move(dragged, to(2));
  rig.turn();
  CHECK(rig.names() == QStringList{before[1], before[2], before[0]});
  CHECK(rig.steps() == steps);
  rig.release(dragged, from);
  rig.turn();
  CHECK(rig.names() == QStringList{before[1], before[2], before[0]});
  CHECK(rig.steps() == steps + 1);
  CHECK(rig.studio().desk().history().undoLabel() == "Move a track");
  // Tab goes through the rows as they stand.
  const auto last = rig.row(0).controls().back();
  CHECK(last->nextInFocusChain() == rig.row(1).controls().front());
  CHECK(rig.row(1).controls().back()->nextInFocusChain() == rig.row(2).controls().front());
  rig.studio().desk().undo();
  rig.turn();
  CHECK(rig.names() == before);
  rig.press(dragged, from);
  rig.move(dragged, to(2));
  CHECK(rig.names() == QStringList{before[1], before[2], before[0]});
  rig.press(Qt::Key_Escape);
  CHECK(rig.names() == before);
  rig.move(dragged, to(2));
  rig.release(dragged, from);
  CHECK(rig.names() == before);
  rig.press(&rig.row(1), from);
  rig.release(&rig.row(1), from);
  CHECK(rig.names() == before);
  CHECK(rig.studio().inHand().trackId() == rig.row(1).track());
  CHECK(rig.steps() == steps);
}
