// SPDX-License-Identifier: GPL-3.0-or-later
//
// The studio without a window: what the views rely on.
#include <QDialog>
#include "ui/ui_tests.h"

#include "app/desk/held_edit.h"
#include "app/views/time_scale.h"

TEST_CASE("An edit that cannot be made is said and changes nothing") {
  const TemporaryFolder temporary;
  Studio studio(makeWindowSession(temporary));
  QSignalSpy said(&studio.messages(), &Messages::said);
  const Session before = studio.desk().session();
  CHECK_FALSE(studio.desk().apply("Pick", [](const Session& s) {
    return pick(s, s.tracks.front()->id, {{5}, {5}}, LaneNumber{1});
  }));
  CHECK(said.size() == 1);
  CHECK(studio.desk().session() == before);
  CHECK_FALSE(studio.desk().history().undoLabel());
}

TEST_CASE("A drag lies over the present: what is done meanwhile goes beneath it, and neither is lost") {
  const TemporaryFolder temporary;
  Studio studio(makeWindowSession(temporary));
  SessionDesk& desk = studio.desk();
  const Session before = desk.session();
  const TrackId id = before.tracks.front()->id;
  const auto gain = [&] { return desk.session().track(id)->gain.value; };
  const auto drag = [=](double db) { return [=](const Session& s) { return setTrackMix(s, id, {db}, {}); }; };
  HeldEdit held(desk);
  held.begin("Set a gain");
  held.show(drag(-6.0));
  CHECK(gain() == -6.0);
  CHECK(desk.present() == before);
  // A pass arrives while the fader is held.
  REQUIRE(desk.bringIn("Arrive", [=](const Session& s) { return addLane(s, id, {}); }));
  CHECK(desk.session().track(id)->lanes.size() == 4);
  CHECK(gain() == -6.0);
  CHECK(desk.present().track(id)->gain.value == 0.0);
  CHECK(held.held());
  held.show(drag(-9.0));
  CHECK(desk.session().track(id)->lanes.size() == 4);
  held.keep();
  CHECK(gain() == -9.0);
  CHECK(desk.session().track(id)->lanes.size() == 4);
  REQUIRE(desk.history().doneCount() == 2);
  desk.undo();
  CHECK(gain() == 0.0);
  CHECK(desk.session().track(id)->lanes.size() == 4);
  desk.undo();
  CHECK(desk.session() == before);

  // What is dragged goes away meanwhile: there is nothing to finish, and nothing to say.
  QSignalSpy said(&studio.messages(), &Messages::said);
  held.begin("Pull a take's edge");
  held.show([id](const Session& s) { return pullWindow(s, id, {3}, {{1000}, {2000}}); });
  REQUIRE_FALSE(desk.session() == before);
  REQUIRE(desk.bringIn("Remove", [=](const Session& s) { return removeLane(s, id, {3}); }));
  const Session removed = desk.present();
  CHECK(removed.track(id)->lanes.size() == 2);
  CHECK(desk.session() == removed);
  held.keep();
  CHECK(desk.session() == removed);
  CHECK(desk.history().doneCount() == 1);
  CHECK(said.isEmpty());
  desk.undo();
  CHECK(desk.session() == before);
}

TEST_CASE("Files are imported as takes in the background; those that do not fit are named, and why") {
  const TemporaryFolder temporary;
  Studio studio(makeWindowSession(temporary));
  QSignalSpy said(&studio.messages(), &Messages::said);
  writeWave(temporary / "good.wav", {noise(2000, 5)}, 44100);
  std::ofstream(temporary / "bad.wav") << "no";
  writeWave(temporary / "trio.wav", {noise(2000, 5), noise(2000, 6), noise(2000, 7)});
  writeWave(temporary / "pair.wav", {noise(2000, 5), noise(2000, 6)});
  const std::vector<Microphone> microphones = studio.inHand().track()->microphones;
  QStringList files;
  for (const char* name : {"trio.wav", "good.wav", "bad.wav", "pair.wav"})
    files << QString::fromStdString(temporary / name);
  studio.files().importFiles(files);
  REQUIRE(comesTrueInWindow([&] { return said.size() == 1; }, 5000));
  const QString what = said.first().first().toString();
  CHECK(what.contains("bad.wav"));
  CHECK(what.contains("trio.wav was not taken."));
  CHECK(what.contains("\"pair.wav\" is stereo"));
  // What the track records is what it was.
  CHECK(studio.inHand().track()->microphones == microphones);
  REQUIRE(studio.inHand().track()->lanes.size() == 5);
  CHECK(studio.inHand().track()->lanes[3]->name == "good");
  CHECK(studio.inHand().track()->lanes[4]->name == "pair");
  CHECK(studio.desk().session().pool->size() == 5);
  // Where none fits there is nothing to undo, and no file stays.
  said.clear();
  const std::size_t steps = studio.desk().history().doneCount();
  studio.files().importFiles({files[0]});
  REQUIRE(comesTrueInWindow([&] { return said.size() == 1; }, 5000));
  CHECK(studio.desk().history().doneCount() == steps);
  CHECK_FALSE(fs::exists(studio.desk().folderPath() / "audio" / "trio-001.wav"));
}
