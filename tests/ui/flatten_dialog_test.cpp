// SPDX-License-Identifier: GPL-3.0-or-later
//
// What of a composite is flattened, and what becomes of its takes, chosen in the window.
#include <QRadioButton>
#include "ui/ui_tests.h"

#include "app/dialogs/flatten_dialog.h"
#include "ui/impatient_rig.h"

namespace {

struct FlattenRig : ImpatientRig {
  explicit FlattenRig(const fs::path& path) : ImpatientRig(path) {
    studio().desk().apply("Pick", [id = studio().inHand().trackId()](const Session& s) {
      return pick(s, id, Span{{100000}, {200000}}, LaneNumber{1});
    });
    before = studio().desk().session();
    sound = rendered(before);
  }
  /// Dialogs take the keys with them for a while.
  void inFront() {
    window->activateWindow();
    REQUIRE(QTest::qWaitForWindowActive(window.get()));
  }
  FlattenDialog& open() {
    inFront();
    key(Qt::Key_F, Qt::ControlModifier | Qt::AltModifier | Qt::ShiftModifier);
    auto* dialog = window->findChild<FlattenDialog*>();
    REQUIRE(dialog);
    REQUIRE(dialog->isVisible());
    return *dialog;
  }
  template <class Button>
  static Button& button(FlattenDialog& dialog, const QString& begins) {
    for (auto* each : dialog.findChildren<Button*>())
      if (each->text().startsWith(begins)) return *each;
    FAIL("There is no " << begins.toStdString());
    throw 0;
  }
  static QRadioButton& choice(FlattenDialog& dialog, const QString& begins) {
    return button<QRadioButton>(dialog, begins);
  }
  void flatten(FlattenDialog& dialog) {
    button<QPushButton>(dialog, "Flatten").click();
    REQUIRE(waitFor([&] { return !studio().jobs().busy() && !(studio().desk().session() == before); }));
  }
  Samples rendered(const Session& session) {
    return renderTrack(studio().desk().disk(), session, "Viola").front();
  }
  Session before;
  Samples sound;
};

}  // namespace

TEST_CASE("The whole composite is flattened, and its takes are set aside, or leave; Undo goes back") {
  for (const bool leave : {false, true}) {
    const TemporaryFolder temporary;
    FlattenRig rig(makeWindowSession(temporary));
    FlattenDialog& dialog = rig.open();
    CHECK(dialog.windowTitle() == "Flatten Viola");
    CHECK(rig.choice(dialog, "the whole composite").isChecked());
    CHECK_FALSE(rig.choice(dialog, "the selection").isEnabled());
    CHECK(rig.choice(dialog, "stay as lanes").isChecked());
    bool told = false;
    for (const auto* label : dialog.findChildren<QLabel*>())
      told = told || label->text().startsWith("0:10.000 of audio, 1.83 MiB.");
    CHECK(told);  // 480,000 frames of four bytes
    rig.choice(dialog, leave ? "leave the session" : "are set aside").click();
    rig.flatten(dialog);
    const Track& track = rig.track();
    REQUIRE(track.lanes.size() == (leave ? 1 : 4));
    for (const auto& lane : track.lanes) CHECK(lane->setAside == (lane->number.value < 4));
    CHECK(rig.rendered(rig.studio().desk().session()) == rig.sound);
    CHECK(rig.window->message().contains(leave ? "gone from the session" : "are set aside"));
    CHECK(rig.window->message().contains("bit for bit"));
    rig.inFront();
    rig.key(Qt::Key_Z, Qt::ControlModifier);
    CHECK(rig.track() == *rig.before.tracks.front());
  }
}

TEST_CASE("What is cut off at full scale is told, and stays to be read; what is exact passes by") {
  for (const double gain : {0.0, 12.0}) {
    const TemporaryFolder temporary;
    const fs::path path = makeWindowSession(temporary);
    {
      SessionFolder folder = SessionFolder::open(path, SessionFolder::Access::Write);
      Session session = folder.session();
      session.format = SampleFormat::Pcm24;  // floats hold what is beyond
      folder.editHistory().replacePresent(session);
      folder.save();
    }
    FlattenRig rig(path);
    rig.studio().desk().apply("Louder", [&](const Session& s) {
      LaneChange change;
      change.gain = Decibels{gain};
      return changeLane(s, rig.track().id, LaneNumber{1}, change);
    });
    rig.before = rig.studio().desk().session();
    rig.flatten(rig.open());
    CHECK(rig.window->message().contains("lay beyond full scale and were cut off there.") == (gain > 0.0));
    const auto* const shown = rig.studio().messages().queue().shown();
    REQUIRE(shown);
    CHECK((shown->weight == Weight::Urgent) == (gain > 0.0));
  }
}

TEST_CASE("Cancelled it does nothing; where the track goes, so does the question") {
  const TemporaryFolder temporary;
  FlattenRig rig(makeWindowSession(temporary));
  rig.button<QPushButton>(rig.open(), "Cancel").click();
  rig.wait(60);
  CHECK_FALSE(rig.window->findChild<FlattenDialog*>());
  CHECK((rig.studio().desk().session() == rig.before));
  rig.open();
  rig.studio().desk().apply(
      "Remove", [id = rig.studio().inHand().trackId()](const Session& s) { return removeTrack(s, id); });
  CHECK(rig.waitFor([&] { return rig.window->findChild<FlattenDialog*>() == nullptr; }));
}
