// SPDX-License-Identifier: GPL-3.0-or-later
//
// Pages of the bench: what each of their fields sets, and nothing else with it.
#include <QProgressBar>
#include <array>
#include <atomic>
#include "ui/ui_tests.h"

#include "ui/round_rig.h"

namespace {

struct PagesRig : ImpatientRig {
  PagesRig(const fs::path& path, MainWindow::BenchPage page) : ImpatientRig(path) {
    window->bench().setCurrentIndex(page);
    turn();
  }
  template <typename Button>
  Button* called(const QString& text) {
    for (auto* each : window->findChildren<Button*>())
      if (each->text() == text && each->isVisible()) return each;
    FAIL("nothing says " << text.toStdString());
    return nullptr;
  }
  /// The options are then those of before but for that.
  void sets(const std::function<void()>& act, const std::function<void(RecordingOptions&)>& change) {
    RecordingOptions expected = studio().desk().options();
    change(expected);
    REQUIRE_FALSE((expected == studio().desk().options()));
    act();
    turn();
    CHECK((studio().desk().options() == expected));
  }
  void ticks(const QString& text, bool on, const std::function<void(RecordingOptions&)>& change) {
    INFO(text.toStdString());
    auto* box = called<QCheckBox>(text);
    CHECK(box->isChecked() == !on);
    sets([&] { box->click(); }, change);
    CHECK(box->isChecked() == on);
  }
  template <typename Box, typename Value>
  void types(const QString& name, Value value, const std::function<void(RecordingOptions&)>& change) {
    INFO(name.toStdString());
    sets([&] { named<Box>(name)->setValue(value); }, change);
  }
  void chooses(const QString& name, int index, const std::function<void(RecordingOptions&)>& change) {
    INFO(name.toStdString());
    sets([&] { named<QComboBox>(name)->setCurrentIndex(index); }, change);
  }
};

}  // namespace

TEST_CASE("Each option sets what it says and nothing else, and shows what is set elsewhere") {
  const TemporaryFolder temporary;
  PagesRig rig(makeWindowSession(temporary), MainWindow::OptionsPage);
  RecordingOptions plain;
  rig.setOptions([&](RecordingOptions& o) { plain.snap = o.snap; });
  using Options = RecordingOptions;
  rig.types<QDoubleSpinBox>("Pre-roll", 2.5, [](Options& o) { o.preRoll.amount = 2.5; });
  rig.chooses("Pre-roll in", 1, [](Options& o) { o.preRoll.unit = LengthUnit::Seconds; });
  rig.types<QDoubleSpinBox>("Post-roll", 1.5, [](Options& o) { o.postRoll.amount = 1.5; });
  rig.chooses("Post-roll in", 1, [](Options& o) { o.postRoll.unit = LengthUnit::Seconds; });
  rig.types<QSpinBox>("Count-in", 2, [](Options& o) { o.countInBars = 2; });
  rig.types<QSpinBox>("Times round", 7, [](Options& o) { o.passes = 7; });
  rig.chooses("Each pass", 2, [](Options& o) { o.result = PassResult::Overdub; });
  rig.chooses("Each pass", 1, [](Options& o) { o.result = PassResult::Replace; });
  rig.chooses("Earlier takes", 1, [](Options& o) { o.hush = false; });
  rig.ticks("every second time round plays back", true, [](Options& o) { o.playBack = true; });
  rig.ticks("after a punch pass, playing only plays", false, [](Options& o) { o.safeReview = false; });
  rig.ticks("set empty passes and false starts aside", false, [](Options& o) { o.setAside = false; });
  rig.ticks("when recording", true, [](Options& o) { o.click.recording = true; });
  rig.ticks("when playing", true, [](Options& o) { o.click.playing = true; });
  rig.ticks("accent", false, [](Options& o) { o.click.accent = false; });
  rig.types<QSlider>("Level of the click", -20, [](Options& o) { o.click.level = {-20.0}; });
  rig.types<QDoubleSpinBox>("Back up", 4.5, [](Options& o) { o.backUpSeconds = 4.5; });
  rig.types<QDoubleSpinBox>("Lead-in", 1.5, [](Options& o) { o.leadSeconds = 1.5; });
  for (const auto& [index, snap] : {std::pair{1, Snap::Bar},
                                    {2, Snap::Beat},
                                    {3, Snap::Division},
                                    {4, Snap::PhraseEdge},
                                    {5, Snap::ZeroCrossing}})
    rig.chooses("Snap to", index, [snap = snap](Options& o) { o.snap = snap; });
  rig.types<QSpinBox>("Parts of a beat", 3, [](Options& o) { o.divisions = 3; });
  rig.ticks("show bars", false, [](Options& o) { o.grid = false; });
  // No step, and kept with the session.
  CHECK_FALSE(rig.studio().desk().history().undoLabel());
  const Options all = rig.studio().desk().options();
  REQUIRE(rig.studio().desk().flushToDisk());
  CHECK((SessionFolder::open(rig.studio().desk().folderPath(), SessionFolder::Access::Read)
             .session()
             .recording == all));
  // What is set elsewhere is shown, in every field.
  rig.setOptions([&](Options& o) { o = plain; });
  rig.turn();
  CHECK(rig.named<QDoubleSpinBox>("Pre-roll")->value() == 1.0);
  CHECK(rig.named<QComboBox>("Pre-roll in")->currentIndex() == 0);
  CHECK(rig.named<QDoubleSpinBox>("Post-roll")->value() == 0.0);
  CHECK(rig.named<QComboBox>("Post-roll in")->currentIndex() == 0);
  CHECK(rig.named<QSpinBox>("Count-in")->value() == 0);
  CHECK(rig.named<QSpinBox>("Times round")->value() == 0);
  CHECK(rig.named<QComboBox>("Each pass")->currentIndex() == 0);
  CHECK(rig.named<QComboBox>("Earlier takes")->currentIndex() == 0);
  CHECK(rig.named<QSlider>("Level of the click")->value() == -12);
  CHECK(rig.named<QDoubleSpinBox>("Back up")->value() == 3.0);
  CHECK(rig.named<QDoubleSpinBox>("Lead-in")->value() == 3.0);
  CHECK(rig.named<QSpinBox>("Parts of a beat")->value() == 2);
  for (const char* on : {"after a punch pass, playing only plays", "set empty passes and false starts aside",
                         "accent", "show bars"})
    CHECK(rig.called<QCheckBox>(on)->isChecked());
  for (const char* off : {"every second time round plays back", "when recording", "when playing"})
    CHECK_FALSE(rig.called<QCheckBox>(off)->isChecked());
  CHECK((rig.studio().desk().options() == plain));
}

TEST_CASE("Microphones of a set are added, named, placed and removed; each is one step") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  PagesRig rig(path, MainWindow::TrackPage);
  REQUIRE(rig.studio().desk().apply("Add",
                                    [](const Session& s) { return addTrack(s, "Drum", microphonesFor(1)); }));
  rig.studio().inHand().takeTrack(rig.studio().desk().session().tracks.back()->id);
  rig.turn();
  const auto all = [&]() -> const std::vector<Microphone>& { return rig.track().microphones; };
  const int first = all()[0].input;
  rig.called<QPushButton>("Add a microphone")->click();
  rig.turn();
  REQUIRE(all().size() == 2);
  CHECK(all()[1].name == "Microphone 2");
  CHECK(all()[1].input == first + 1);
  auto* table = rig.named<QTableWidget>("Microphones of the track");
  REQUIRE(table->rowCount() == 2);
  table->item(1, 0)->setText("  room ");
  rig.turn();
  CHECK(all()[1].name == "room");
  CHECK(rig.studio().desk().history().undoLabel() == "Rename a microphone");
  const auto in = [&](int column) { return table->cellWidget(1, column); };
  auto* channels = qobject_cast<QComboBox*>(in(2));
  REQUIRE(channels);
  channels->setCurrentIndex(1);
  emit channels->activated(1);
  rig.turn();
  CHECK(all()[1].channels == 2);
  CHECK(all()[0].channels == 1);
  qobject_cast<QSpinBox*>(in(1))->setValue(6);
  rig.turn();
  qobject_cast<QDoubleSpinBox*>(in(3))->setValue(-4.5);
  rig.turn();
  qobject_cast<QSpinBox*>(in(4))->setValue(-30);
  rig.wait(2000);
  CHECK(all()[1].input == 5);
  CHECK(all()[1].gain.value == -4.5);
  CHECK(all()[1].pan.value == Approx(-0.3));
  CHECK(all()[0].input == first);
  CHECK(all()[0].gain.value == 0.0);
  const Microphone before = all()[0];
  rig.called<QPushButton>("Remove the last")->click();
  rig.turn();
  REQUIRE(all().size() == 1);
  CHECK((all()[0] == before));
  rig.studio().desk().undo();
  REQUIRE(all().size() == 2);
  CHECK(all()[1].name == "room");
  CHECK(all()[1].pan.value == Approx(-0.3));
}
