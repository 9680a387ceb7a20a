// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is captured behind the end of a roll, and how little is kept while it merely stands by.
#include "engine/engine_tests.h"

#include "core/store/recording_note.h"

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
