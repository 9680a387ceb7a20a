// SPDX-License-Identifier: GPL-3.0-or-later
//
// The take that is heard: what is said of it, how it sounds, where it lies; by the bench page and by keys.
#include "ui/ui_tests.h"

#include "core/plan/pitched_files.h"
#include "ui/impatient_rig.h"

namespace {

struct TakeRig : ImpatientRig {
  explicit TakeRig(const fs::path& path) : ImpatientRig(path) {
    window->bench().setCurrentIndex(MainWindow::TakePage);
    turn();
  }
  const Lane& lane(int number) { return *track().lane({number}); }
  std::vector<int> order() {
    std::vector<int> numbers;
    for (const auto& each : track().lanes) numbers.push_back(each->number.value);
    return numbers;
  }
};

}  // namespace

TEST_CASE(
    "What is typed of a take belongs to the take it was begun on, one step each, and is there after "
    "reopening") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  {
    TakeRig rig(path);
    rig.press(Qt::Key_1);
    auto* name = rig.named<QLineEdit>("Name of the take");
    auto* note = rig.named<QLineEdit>("Note on the take");
    CHECK(name->text() == QString::fromStdString(rig.lane(1).name));
    const std::size_t before = rig.steps();
    name->setFocus();
    name->selectAll();
    rig.type("Warm one");
    rig.press(Qt::Key_Return);
    CHECK(rig.lane(1).name == "Warm one");
    CHECK(rig.steps() == before + 1);
    // Typed for the first, then another take is heard by a click: it stays the first one's.
    note->setFocus();
    rig.type("ribbon");
    rig.studio().inHand().hear(LaneNumber{2});
    rig.turn();
    CHECK(rig.lane(1).note == "ribbon");
    CHECK(rig.lane(2).note.empty());
    CHECK(note->text().isEmpty());
    CHECK(name->text() == QString::fromStdString(rig.lane(2).name));
    auto* gain = rig.named<QDoubleSpinBox>("Gain of the take");
    gain->setFocus();
    gain->setValue(-6.5);
    rig.lanes().setFocus();
    rig.turn();
    CHECK(rig.lane(2).gain.value == -6.5);
    CHECK(rig.steps() == before + 3);
    auto* rating = rig.named<QComboBox>("Rating of the take");
    rating->setCurrentIndex(4);
    emit rating->activated(4);
    auto* colour = rig.named<QComboBox>("Colour and mark of the take");
    colour->setCurrentIndex(7);
    emit colour->activated(7);
    auto* shows = rig.named<QComboBox>("The lane shows");
    shows->setCurrentIndex(3);
    emit shows->activated(3);
    rig.turn();
    CHECK(rig.lane(2).rating == 4);
    CHECK(rig.lane(2).palette == 7);
    CHECK(rig.lane(2).colour() == 7);
    CHECK(rig.lane(2).picture == LanePicture::Pitch);
    // What the lane shows then is measured, and painted.
    CHECK(rig.waitFor([&] { return rig.studio().analysis().share() == 1.0; }));
    rig.window->grab();
    rig.press(Qt::Key_Z, Qt::ControlModifier);
    CHECK(rig.lane(2).picture == LanePicture::Waveform);
  }
  TakeRig again(path);
  CHECK(again.lane(1).name == "Warm one");
  CHECK(again.lane(1).note == "ribbon");
  CHECK(again.lane(2).gain.value == -6.5);
  CHECK(again.lane(2).palette == 7);
}

TEST_CASE("A take at another pitch is made in the background, plays plain until then, and can be cancelled") {
  const TemporaryFolder temporary;
  TakeRig rig(makeWindowSession(temporary));
  rig.press(Qt::Key_1);
  auto* pitch = rig.named<QDoubleSpinBox>("Pitch of the take");
  pitch->setFocus();
  pitch->setValue(35.0);
  rig.lanes().setFocus();
  rig.turn();
  CHECK(rig.lane(1).pitch.value == 35.0);
  CHECK(rig.studio().pitch().busy());
  CHECK(rig.studio().transport().playsPlain(rig.lane(1)));
  CHECK_FALSE(rig.studio().transport().playsPlain(rig.lane(2)));
  REQUIRE(rig.studio().jobs().all().size() == 1);
  CHECK(rig.studio().jobs().all()[0].label.contains("35 cents"));
  REQUIRE(rig.waitFor([&] { return !rig.studio().pitch().busy(); }));
  CHECK_FALSE(rig.studio().transport().playsPlain(rig.lane(1)));
  const PoolFile file = (*rig.studio().desk().session().pool)[0];
  CHECK(PitchedFiles::isMade(rig.studio().desk().disk(), {file, {35.0}}));

  // Another one, cancelled: it plays plain, says so, and is not begun again by itself.
  REQUIRE(rig.studio().desk().apply("Pitch", [id = rig.track().id](const Session& s) {
    return changeLane(s, id, LaneNumber{2}, LaneChange{.pitch = Cents{-50.0}});
  }));
  rig.studio().jobs().cancelAll();
  REQUIRE(rig.waitFor([&] { return !rig.studio().pitch().busy(); }));
  CHECK(rig.studio().transport().playsPlain(rig.lane(2)));
  rig.wait(200);
  CHECK_FALSE(rig.studio().jobs().busy());
  // Set again, it is tried again; taken back, there is nothing to do.
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  CHECK_FALSE(rig.studio().transport().playsPlain(rig.lane(2)));
  rig.press(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
  REQUIRE(rig.waitFor(
      [&] { return !rig.studio().pitch().busy() && !rig.studio().transport().playsPlain(rig.lane(2)); }));
}
