// SPDX-License-Identifier: GPL-3.0-or-later
//
// Markers, track and song pages, the device dialog with its latency test, foot switches, new sessions.
#include <QAbstractItemView>
#include <QSpinBox>
#include "ui/ui_tests.h"

#include "app/bench/setup_bench.h"
#include "core/device/round_trips.h"
#include "device/bad_server.h"

namespace {

QPushButton* buttonIn(QWidget* parent, const QString& text) {
  for (auto* button : parent->findChildren<QPushButton*>())
    if (button->text() == text) return button;
  FAIL("no button " << text.toStdString());
  return nullptr;
}

}  // namespace

TEST_CASE("Markers are dropped while it rolls, listed, renamed, and many removed at once") {
  const TemporaryFolder temporary;
  WindowRig rig(makeWindowSession(temporary));
  rig.key(Qt::Key_Space);
  REQUIRE(rig.waitFor([&] { return rig.studio().transport().state().position.count > 100000; }));
  rig.key(Qt::Key_H);
  rig.wait(100);
  rig.key(Qt::Key_H);
  rig.key(Qt::Key_Space);
  REQUIRE(rig.waitFor([&] { return !rig.studio().transport().state().rolling; }));
  auto markers = [&] { return rig.studio().desk().session().markers; };
  REQUIRE(markers().size() == 2);
  CHECK(markers()[0].at < markers()[1].at);
  rig.key(Qt::Key_F5);
  auto* bench = rig.window->findChild<MarkersBench*>();
  auto* table = bench->findChild<QTableWidget*>();
  REQUIRE(table->rowCount() == 2);
  table->item(0, 2)->setText("breath");
  CHECK(markers()[0].name == "breath");
  table->item(0, 2)->setText("  ");
  CHECK(markers()[0].name == "breath");
  CHECK(rig.window->message().contains("needs a name"));
  const QPoint second = table->visualItemRect(table->item(1, 0)).center();
  QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, second);
  QTest::mouseDClick(table->viewport(), Qt::LeftButton, {}, second);
  CHECK(rig.studio().transport().state().position == markers()[1].at);
  table->clearSelection();
  QTest::mouseClick(buttonIn(bench, "Remove selected"), Qt::LeftButton);
  CHECK(markers().size() == 2);
  table->selectAll();
  QTest::mouseClick(buttonIn(bench, "Remove selected"), Qt::LeftButton);
  CHECK(markers().empty());
  rig.key(Qt::Key_Z, Qt::ControlModifier);
  CHECK(markers().size() == 2);
}

TEST_CASE("The track page names, monitors, chooses inputs and where passes go") {
  const TemporaryFolder temporary;
  WindowRig rig(makeWindowSession(temporary), false);
  rig.key(Qt::Key_F6);
  auto* bench = rig.window->findChild<TrackBench*>();
  auto* name = bench->findChild<QLineEdit*>();
  name->setFocus();
  name->selectAll();
  QTest::keyClicks(name, "Solo viola");
  QTest::keyClick(name, Qt::Key_Return);
  CHECK(rig.track().name == "Solo viola");
  auto combo = [&](const QString& called) {
    for (auto* each : bench->findChildren<QComboBox*>())
      if (each->accessibleName() == called) return each;
    return static_cast<QComboBox*>(nullptr);
  };
  const auto choose = [&](const QString& called, int index) {
    QComboBox* const box = combo(called);
    QTest::mouseClick(box, Qt::LeftButton);
    QAbstractItemView* const list = box->view();
    REQUIRE(list->isVisible());
    QTest::keyClick(list, Qt::Key_Home);
    for (int i = 0; i < index; ++i) QTest::keyClick(list, Qt::Key_Down);
    QTest::keyClick(list, Qt::Key_Return);
    CHECK_FALSE(list->isVisible());
  };
  choose("Monitoring", 2);
  CHECK(rig.track().monitoring == Monitoring::Automatic);
  choose("Passes go into", 2);
  CHECK(rig.track().recordInto == LaneNumber{2});
  CHECK(rig.studio().recording().sentence().contains("lane 2"));
  auto* table = bench->findChild<QTableWidget*>();
  qobject_cast<QSpinBox*>(table->cellWidget(0, 1))->setValue(3);
  CHECK(rig.track().microphones.front().input == 2);
  // A track without takes may get more microphones; one with takes keeps its own.
  CHECK_FALSE(buttonIn(bench, "Add a microphone")->isEnabled());
  rig.studio().desk().apply("Add", [](const Session& s) { return addTrack(s, "Drum", microphonesFor(1)); });
  rig.studio().inHand().takeTrack(rig.studio().desk().session().tracks.back()->id);
  QTest::mouseClick(buttonIn(bench, "Add a microphone"), Qt::LeftButton);
  CHECK(rig.track().microphones.size() == 2);
  CHECK(rig.track().microphones[1].input == 1);
}

TEST_CASE("The device dialog opens devices and measures the round trip, or refuses to") {
  QSettings().remove("latency");
  const TemporaryFolder temporary;
  WindowRig rig(makeWindowSession(temporary));
  rig.window->showDevice();
  auto* dialog = rig.window->findChild<DeviceDialog*>();
  REQUIRE(dialog);
  auto spin = [&](int minimum, int maximum) {
    for (auto* each : dialog->findChildren<QSpinBox*>())
      if (each->minimum() == minimum && each->maximum() == maximum) return each;
    return static_cast<QSpinBox*>(nullptr);
  };
  QSignalSpy measured(&rig.studio().device(), &DeviceDesk::latencyMeasured);
  QTest::mouseClick(buttonIn(dialog, "Measure"), Qt::LeftButton);
  REQUIRE(rig.waitFor([&] { return measured.size() == 1; }));
  CHECK_FALSE(measured.takeFirst().at(0).toBool());  // no cable
  CHECK_FALSE(rig.studio().device().roundTripMeasured());

  spin(0, 48000)->setValue(1234);
  for (QCheckBox* box : dialog->findChildren<QCheckBox*>())
    if (box->text().contains("cable")) box->setChecked(true);
  QTest::mouseClick(buttonIn(dialog, "Use this device"), Qt::LeftButton);
  CHECK(rig.studio().device().choice().patched);
  QTest::mouseClick(buttonIn(dialog, "Measure"), Qt::LeftButton);
  REQUIRE(rig.waitFor([&] { return measured.size() == 1; }));
  CHECK(measured.takeFirst().at(0).toBool());
  CHECK(rig.studio().device().roundTrip() == Frames{1234});
  CHECK(rig.studio().device().roundTripMeasured());
  // Stored for this device, rate and block size.
  DeviceSettings stored = rig.studio().device().device()->settings();
  stored.source = "1234";  // a simulated interface is as many as it has round trips
  CHECK(RoundTrips::ofUser().find(stored, {1234}) == Frames{1234});
  stored.blockFrames = 512;
  CHECK_FALSE(RoundTrips::ofUser().find(stored, {1234}));
  stored.blockFrames = 256;
  stored.rate = {96000};
  CHECK_FALSE(RoundTrips::ofUser().find(stored, {1234}));
  // While it rolls the device is not free for it.
  rig.studio().transport().togglePlay();
  REQUIRE(rig.waitFor([&] { return rig.studio().transport().state().rolling; }));
  rig.studio().device().measureLatency(0);
  REQUIRE(measured.size() == 1);
  CHECK(measured.takeFirst().at(1).toString().contains("Stop the transport"));
  rig.studio().transport().stop();
  QSettings().remove("latency");
  QSettings().remove("device");
}

TEST_CASE("While a server does not answer, another device can be used, and the window can be closed") {
  const TemporaryFolder temporary;
  const TemporaryFolder runtime;
  const QByteArray before = qgetenv("XDG_RUNTIME_DIR");
  const BadServer server(runtime / "pipewire-0", BadServer::Manner::IsSilent);
  qputenv("XDG_RUNTIME_DIR", runtime.path().c_str());
  AudioChoice silent;
  silent.driver = "PipeWire";
  {
    WindowRig rig(makeWindowSession(temporary));
    rig.studio().device().open(silent);
    CHECK(rig.studio().device().opening());
    CHECK(rig.studio().device().name() == "Opening PipeWire…");
    REQUIRE(rig.waitFor([&] { return server.calls() > 0; }));
    AudioChoice simulated;
    simulated.driver = "Simulated";
    rig.studio().device().open(simulated);
    CHECK_FALSE(rig.studio().device().opening());
    rig.studio().recording().toggleRecord();
    REQUIRE(rig.waitFor([&] { return rig.studio().transport().state().position.count > 120000; }));
    rig.studio().transport().stop();
    REQUIRE(rig.waitFor([&] { return rig.track().lanes.size() == 4; }));
    // What comes of the first is heeded no more.
    QTest::qWait(4000);
    CHECK(rig.studio().device().device() != nullptr);
    CHECK(rig.studio().device().choice().driver == "Simulated");
    rig.studio().device().open(silent);
    CHECK(rig.studio().device().opening());
  }
  before.isNull() ? qunsetenv("XDG_RUNTIME_DIR") : qputenv("XDG_RUNTIME_DIR", before);
  const SessionFolder reopened = SessionFolder::open(temporary / "session", SessionFolder::Access::Read);
  CHECK(reopened.session().tracks.front()->lanes.size() == 4);
}

TEST_CASE("A foot switch is learned, does its work, and is remembered") {
  QSettings().remove("controls");
  const TemporaryFolder temporary;
  const ControlMessage pedal{ControlMessage::Kind::Controller, 0, 64, 127};
  {
    WindowRig rig(makeWindowSession(temporary));
    Controls& controls = rig.window->controls();
    controls.learn("record");
    controls.receive({ControlMessage::Kind::Controller, 0, 64, 0});  // let go: does not count
    CHECK(controls.learning() == "record");
    controls.receive(pedal);
    CHECK(controls.learning().isEmpty());
    REQUIRE(controls.binding("record"));
    controls.receive(pedal);
    CHECK(rig.studio().recording().recording());
    controls.receive({ControlMessage::Kind::Controller, 0, 64, 10});
    CHECK(rig.studio().recording().recording());
    controls.receive(pedal);
    REQUIRE(rig.waitFor([&] { return !rig.studio().recording().recording(); }));
    // Bound to something else, it does only that.
    controls.learn("marker");
    controls.receive(pedal);
    CHECK_FALSE(controls.binding("record"));
    controls.receive(pedal);
    CHECK(rig.studio().desk().session().markers.size() == 1);
    CHECK_FALSE(rig.studio().recording().recording());
  }
  const TemporaryFolder other;
  WindowRig rig(makeWindowSession(other), false);
  REQUIRE(rig.window->controls().binding("marker"));
  CHECK(rig.window->controls().binding("marker")->number == 64);
  rig.window->controls().forget("marker");
  CHECK_FALSE(rig.window->controls().binding("marker"));
}

TEST_CASE("A new session asks once for rate, format, tempo and meter, and refuses a folder in use") {
  const TemporaryFolder temporary;
  QSettings().setValue("newSession/place", QString::fromStdString(temporary.path().string()));
  NewSessionDialog dialog;
  auto* make = buttonIn(&dialog, "Make the session");
  CHECK(make->isEnabled());
  auto* name = dialog.findChildren<QLineEdit*>().first();
  name->setText("");
  CHECK_FALSE(make->isEnabled());
  fs::create_directories(temporary / "used" / "x");
  name->setText("used");
  CHECK_FALSE(make->isEnabled());
  name->setText("Ferry");
  CHECK(make->isEnabled());
  // A path without a beginning would lie wherever the program was started.
  auto* place = dialog.findChildren<QLineEdit*>().at(1);
  const QString whole = place->text();
  place->setText("sessions");
  CHECK_FALSE(make->isEnabled());
  place->setText(whole);
  CHECK(make->isEnabled());
  for (auto* combo : dialog.findChildren<QComboBox*>()) {
    if (combo->isEditable()) combo->setEditText("3/4");
    if (combo->findData(96000) >= 0) combo->setCurrentIndex(combo->findData(96000));
  }
  const Session session = dialog.session();
  CHECK(session.name == "Ferry");
  CHECK(session.rate.hertz == 96000);
  CHECK(session.format == SampleFormat::Pcm24);
  CHECK(session.tempo.changes().front().meter == Meter{3, 4});
  SessionFolder::create(dialog.folder().toStdString(), session);
  CHECK(fs::exists(temporary / "Ferry" / "session.json"));
  QSettings().remove("newSession");
}
