// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is captured behind the end of a roll, and how little is kept while it merely stands by.
#include <catch2/catch.hpp>

#include "core/edit/plan_recording.h"
#include "core/store/recording_note.h"
#include "recording_support.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

constexpr std::int64_t tail = 4 * 48000;

constexpr std::int64_t end = 18002;

RecordSetup untilEnd() {
  RecordSetup setup;
  setup.timeline.stopAt = Frames{end};
  setup.roundTrip = {321};
  return setup;
}

/// A roll of known length, and who plays to it.
struct Recording {
  explicit Recording(const fs::path& path)
      : folder(emptySession(path)),
        rig(folder, 100, playerOf(performance, 0, 321)),
        recorder(folder.disk(), folder.session(), setup, {onlyTrack(folder)}) {
    rig.engine.record(setup, recorder.stream());
    rig.engine.settle();
  }
  /// What follows it is still being captured then.
  void toItsEnd() {
    while (!recorder.stream()->bodyWritten()) rig.play(100);
  }
  SessionFolder folder;
  const Samples performance = noise(300000, 3);
  Rig rig;
  const RecordSetup setup = untilEnd();
  Recorder recorder;
};

}  // namespace

TEST_CASE("The last pass has a handle too: capture goes on for seconds behind the roll's end") {
  const TemporaryFolder temporary;
  Recording take(temporary / "s");
  auto& [folder, performance, rig, setup, recorder] = take;
  take.toItsEnd();
  // The take is there as soon as what belongs to it is: the tail is still being played.
  CHECK_FALSE(rig.engine.state().capturing);
  CHECK_FALSE(recorder.stream()->closed());
  const auto result = recorder.finished(folder.session());
  REQUIRE(result.lanes.size() == 1);
  const Session& session = result.session;
  const Clip& last = session.tracks.front()->lane(result.lanes[0].lane)->clips.front();
  CHECK(last.window == Span{{0}, {end}});
  CHECK(last.extent().end == Frames{end + tail});
  rig.play(tail + 1000);
  REQUIRE(recorder.stream()->closed());
  CHECK(recorder.stream()->written() == Frames{end + 321 + tail});
  const Samples file = readWave(audioPath(folder, session.pool->back())).front();
  REQUIRE(file.size() == end + 321 + tail);
  for (std::size_t i = 321; i < file.size(); ++i) REQUIRE(file[i] == performance[i - 321]);
}

TEST_CASE(
    "What follows cuts no body short: a new roll, the tail's end or a lost device leave silence behind") {
  for (const std::string how : {"another", "endTail", "device"}) {
    INFO(how);
    const TemporaryFolder temporary;
    Recording take(temporary / "s");
    auto& [folder, performance, rig, setup, recorder] = take;
    take.toItsEnd();
    rig.play(5000);
    std::optional<Recorder> next;
    if (how == "another") {
      // Both are captured: the tail of the first, until the second has one of its own.
      RecordSetup again = setup;
      next.emplace(folder.disk(), folder.session(), again, std::vector{onlyTrack(folder)});
      rig.engine.record(again, next->stream());
      rig.engine.settle();
      while (!next->stream()->bodyWritten()) rig.play(100);
    } else if (how == "endTail") {
      rig.engine.endTail();
    } else {
      rig.engine.deviceClosed();
    }
    rig.play(200);
    REQUIRE(recorder.stream()->closed());
    CHECK(recorder.stream()->written() == recorder.stream()->whole());
    const Session session = recorder.finished(folder.session()).session;
    const Samples file = readWave(audioPath(folder, session.pool->back())).front();
    REQUIRE(file.size() == end + 321 + tail);
    const std::size_t body = end + 321;
    for (std::size_t i = 321; i < body + 5000; ++i) REQUIRE(file[i] == performance[i - 321]);
    CHECK(file.back() == 0.0F);
  }
}

TEST_CASE(
    "A crash behind a roll's end loses none of the roll, brings nothing twice and leaves no complaint") {
  const TemporaryFolder temporary;
  const Samples performance = noise(300000, 3);
  {
    SessionFolder folder = emptySession(temporary / "s");
    Rig rig(folder, 100, playerOf(performance, 0, 321));
    const RecordSetup setup = untilEnd();
    Recorder recorder(folder.disk(), folder.session(), setup, {onlyTrack(folder)});
    rig.engine.record(setup, recorder.stream());
    rig.engine.settle();
    while (!recorder.stream()->bodyWritten()) rig.play(100);
    folder.commit("Record", recorder.finished(folder.session()).session);
    rig.play(50000);
    // And here the power goes: what is on disk is what there is.
    fs::copy(temporary / "s", temporary / "found", fs::copy_options::recursive);
  }
  const SessionFolder folder = SessionFolder::open(temporary / "found", SessionFolder::Access::Write);
  CHECK(folder.notices().empty());
  CHECK(folder.fileProblems().empty());
  CHECK_FALSE(fs::exists(temporary / "found" / "recording-001.json"));
  REQUIRE(folder.session().tracks.front()->lanes.size() == 1);
  CHECK(laneSamples(folder, 1) == Samples(performance.begin(), performance.begin() + end));
  const Samples file = readWave(audioPath(folder, folder.session().pool->back())).front();
  REQUIRE(file.size() == end + 321 + tail);
  CHECK(file.back() == 0.0F);
}

TEST_CASE("A device that goes in the middle of a recording leaves what had come in") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  const Samples performance = noise(300000, 3);
  Rig rig(folder, 100, playerOf(performance, 0, 321));
  const RecordSetup setup = untilEnd();
  Recorder recorder(folder.disk(), folder.session(), setup, {onlyTrack(folder)});
  rig.engine.record(setup, recorder.stream());
  rig.engine.settle();
  rig.play(5000);
  rig.engine.deviceClosed();
  rig.engine.service();
  REQUIRE(recorder.stream()->closed());
  CHECK(recorder.stream()->body() == Frames{5000});
  CHECK(recorder.stream()->written() == Frames{5000});
  const Session session = recorder.finished(folder.session(), Recorder::Ended::ByAccident).session;
  CHECK(session.tracks.front()->lanes.front()->clips.front().window == Span{{0}, {5000 - 321}});
}

TEST_CASE("Standing by: a relay takes over at a frame, and a punch after it lies where it was played") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  const Samples performance = noise(400000, 9);
  Rig rig(folder, 128, playerOf(performance, 0, 200));
  const RecordSetup setup = planStandby({}, folder.session(), {200});
  Recorder first(folder.disk(), folder.session(), setup, {onlyTrack(folder)});
  rig.engine.record(setup, first.stream());
  rig.engine.settle();
  rig.play(128 * 40);
  Recorder second(folder.disk(), folder.session(), setup, {onlyTrack(folder)});
  const RollNumber relay = rig.engine.relay(setup, second.stream());
  rig.play(128 * 40);
  const auto began = rig.engine.takeEvents();
  REQUIRE(began.size() == 1);
  CHECK(began[0].kind == EngineEvent::Kind::Relayed);
  CHECK(began[0].roll == relay);
  CHECK(began[0].rollFrame == Frames{128 * 40});
  second.capturesFrom(began[0].rollFrame);
  CHECK_FALSE(first.stream()->closed());
  rig.engine.relieve();
  rig.play(128 * 2);
  CHECK(first.stream()->closed());
  first.abandon();
  rig.engine.punch();
  rig.play(128 * 100);
  rig.engine.stop();
  rig.play(256);
  rig.engine.endTail();
  rig.play(256);
  for (const EngineEvent& event : rig.engine.takeEvents()) {
    CHECK(event.roll == relay);
    second.punched(event.rollFrame, event.kind == EngineEvent::Kind::PunchIn);
  }
  REQUIRE(second.stream()->closed());
  const auto result = second.finished(folder.session());
  folder.commit("Record", result.session);
  const Clip& clip = folder.session().tracks.front()->lanes.front()->clips.front();
  CHECK(clip.window == Span{{128 * 82}, {128 * 182}});
  CHECK(clip.extent().start == Frames{128 * 40 - 200});
  CHECK(laneSamples(folder, 1) == Samples(performance.begin() + 128 * 82, performance.begin() + 128 * 182));
  // The note of it says so too, or a crash would put it elsewhere.
  CHECK(second.setup().capturesFrom == Frames{128 * 40});
}

TEST_CASE("A punch that was taken back leaves no note, and what is abandoned leaves nothing") {
  const TemporaryFolder temporary;
  const SessionFolder folder = emptySession(temporary / "s");
  const RecordSetup setup = planStandby({}, folder.session(), {200});
  Recorder recorder(folder.disk(), folder.session(), setup, {onlyTrack(folder)});
  CHECK(recorder.standsBy());
  CHECK(recordingNotes(folder.disk()).empty());
  recorder.punched(Frames{500}, true);
  CHECK(recordingNotes(folder.disk()).size() == 1);
  // Out at the very in: as if nobody had touched it.
  recorder.punched(Frames{500}, false);
  CHECK(recorder.standsBy());
  CHECK(recordingNotes(folder.disk()).empty());
  recorder.punched(Frames{900}, true);
  CHECK_FALSE(recorder.standsBy());
  CHECK(recordingNotes(folder.disk()).size() == 1);
  recorder.stream()->markComplete();
  recorder.abandon();
  CHECK(recordingNotes(folder.disk()).empty());
  CHECK(folder.disk().list("audio").empty());
}

TEST_CASE("A relay is dropped where the roll is punched or ends first") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  for (const bool punched : {true, false}) {
    Rig rig(folder, 128, playerOf(noise(90000, 9), 0, 200));
    const RecordSetup setup = planStandby({}, folder.session(), {200});
    Recorder first(folder.disk(), folder.session(), setup, {onlyTrack(folder)});
    Recorder second(folder.disk(), folder.session(), setup, {onlyTrack(folder)});
    rig.engine.record(setup, first.stream());
    rig.engine.settle();
    rig.play(1280);
    rig.engine.relay(setup, second.stream());
    rig.play(1280);
    if (punched) {
      rig.engine.punch();
      rig.engine.relieve();  // too late: what counts stays
      rig.play(1280);
      CHECK_FALSE(first.stream()->closed());
      rig.engine.dropRelay();
      rig.play(256);
      CHECK(second.stream()->closed());
      CHECK_FALSE(first.stream()->closed());
    }
    rig.engine.stop();
    rig.play(1280);
    CHECK(first.stream()->bodyWritten());
    CHECK(second.stream()->closed());
    rig.engine.endTail();
    rig.play(256);
    first.forgetNote();
    first.abandon();
    second.abandon();
  }
}

TEST_CASE(
    "A device that goes while a roll that was begun anew is recorded leaves what has come in since then") {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  Rig rig(folder, 100, playerOf(noise(300000, 3), 0, 321));
  RecordSetup byHand;
  byHand.byHand = true;
  Recorder first(folder.disk(), folder.session(), byHand, {onlyTrack(folder)});
  rig.engine.record(byHand, first.stream());
  rig.engine.settle();
  rig.play(5000);
  Recorder second(folder.disk(), folder.session(), byHand, {onlyTrack(folder)});
  rig.engine.relay(byHand, second.stream());
  rig.engine.settle();
  rig.play(3000);
  rig.engine.punch();
  rig.play(2000);
  rig.engine.deviceClosed();
  rig.engine.service();
  REQUIRE(second.stream()->closed());
  CHECK(second.stream()->body() == Frames{5000});
  CHECK(second.stream()->written() == Frames{5000});
}
