// SPDX-License-Identifier: GPL-3.0-or-later
//
// The audio thread does nothing that could make it wait, and gets along with the others.
#include <fcntl.h>
#include <pthread.h>
#include <unistd.h>

#include <cstdio>
#include <cstdlib>
#include <shared_mutex>
#include "engine/engine_tests.h"

#include "engine/audio_thread_traps.h"

TEST_CASE("The traps catch what they are there for") {
  if (!trapsWork()) {
    CHECK(sanitized());  // where nothing is, they do
    return;
  }
  takeTrapCounts();
  const auto counted = [](const std::function<void()>& act) {
    {
      const OnAudioThread here;
      act();
    }
    return takeTrapCounts();
  };
  CHECK(counted([] {}) == TrapCounts{});
  void* memory = nullptr;
  CHECK(counted([&] { memory = std::malloc(10); }).allocations == 1);
  CHECK(counted([&] { memory = std::realloc(memory, 20); }).allocations == 1);
  CHECK(counted([&] { std::free(memory); }).allocations == 1);
  CHECK(counted([&] { memory = std::calloc(3, 10); }).allocations == 1);
  std::free(memory);
  CHECK(counted([&] { memory = std::aligned_alloc(64, 64); }).allocations == 1);
  std::free(memory);
  CHECK(counted([&] { CHECK_FALSE(posix_memalign(&memory, 64, 64)); }).allocations >= 1);
  std::free(memory);
  CHECK(counted([&] { memory = ::operator new(10); }).allocations == 1);
  CHECK(counted([&] { ::operator delete(memory); }).allocations == 1);
  std::mutex mutex;
  CHECK(counted([&] { const std::lock_guard guard(mutex); }).locks == 1);
  CHECK(counted([&] { const std::unique_lock guard(mutex, std::try_to_lock); }).locks == 1);
  std::shared_mutex shared;
  CHECK(counted([&] { const std::shared_lock guard(shared); }).locks == 1);
  CHECK(counted([&] { const std::unique_lock guard(shared); }).locks == 1);
  std::condition_variable condition;
  CHECK(counted([&] { condition.notify_one(); }).locks == 1);
  CHECK(counted([] { std::this_thread::sleep_for(std::chrono::nanoseconds(1)); }).systemCalls == 1);
  CHECK(counted([] { std::this_thread::yield(); }).systemCalls == 1);
  char letter = 'a';
  const TrapCounts opened = counted([&] {
    const int file = ::open("/dev/null", O_WRONLY);
    CHECK(file >= 0);
    ::close(file);
  });
  CHECK(opened.systemCalls >= 1);
  CHECK(opened.firstSystemCall == 257);  // openat(2), by the number in Linux's table for this machine
  std::FILE* const file = std::fopen("/dev/null", "w");
  CHECK(counted([&] { CHECK(std::fwrite(&letter, 1, 1, file) == 1); }).files == 1);  // into its buffer
  CHECK(counted([&] { CHECK(::write(::fileno(file), &letter, 1) == 1); }).systemCalls == 1);
  std::fclose(file);
  CHECK(counted([] { (void)::getppid(); }).systemCalls == 1);
  (void)::getppid();
  CHECK(takeTrapCounts() == TrapCounts{});  // nobody else is watched
}

namespace {

/// Two microphones, the second in stereo, two takes, a performer at all three inputs.
struct Trapped {
  explicit Trapped(const fs::path& path)
      : folder(sessionWithLanes(path, {noise(300000, 1), noise(300000, 2)})), id(onlyTrack()) {
    Session session = addTrack(folder.session(), "Pair", {{"Close", 0, 1, {}, {}}, {"Room", 1, 2, {}, {}}});
    pair = session.tracks.back()->id;
    folder.commit("Add", session);
    SimulatedInterface interface;
    interface.settings.inputs = 3;
    interface.roundTrip = {512};
    interface.dropoutEveryBlocks = 97;
    for (int input = 0; input < 3; ++input)
      interface.parts.push_back({input, {}, {{{noise(50000, 3 + static_cast<unsigned>(input))}}}, false, {}});
    rig = std::make_unique<Rig>(folder, 100, interface);
    takeTrapCounts();
  }
  TrackId onlyTrack() const { return folder.session().tracks.front()->id; }
  void run(int blocks) {
    for (int i = 0; i < blocks; ++i) {
      {
        const OnAudioThread here;
        rig->device.runBlock();
      }
      rig->engine.service();
    }
  }
  void checkNothing() {
    const TrapCounts counts = takeTrapCounts();
    INFO(toText(counts));
    CHECK(counts == TrapCounts{});
  }
  Engine& engine() { return rig->engine; }
  SessionFolder folder;
  TrackId id;
  TrackId pair;
  std::unique_ptr<Rig> rig;
};

}  // namespace

TEST_CASE("While it plays, jumps and switches the audio thread waits for nothing") {
  const TemporaryFolder temporary;
  Trapped trapped(temporary / "s");
  const Session& session = trapped.folder.session();
  const TrackId id = trapped.id;
  trapped.run(10);
  trapped.engine().play({{}, Span{{0}, {7777}}, 0, std::nullopt, {}});
  trapped.engine().settle();
  trapped.run(300);
  trapped.engine().hear(id, LaneNumber{1});
  trapped.run(20);
  trapped.engine().hearAt({35000}, id, LaneNumber{2});
  FileCorrelationMeter meter(trapped.folder.disk());
  meter.setFiles(*session.pool);
  trapped.engine().setPlanAt({36000}, trapped.folder.disk(), Compiler(meter).compile(session, {{}, {}, id}));
  trapped.run(60);
  trapped.rig->setPlan(session, {{HeardLanes{id, {{1}}}}, {}});
  trapped.run(50);
  trapped.rig->setPlan(pick(session, id, {{100}, {5000}}, LaneNumber{1}));
  trapped.run(50);
  trapped.engine().play({{}, Span{{1000}, {9000}}, 0, std::nullopt, {}}, RollFrom::Here);
  trapped.run(50);
  trapped.engine().locate({100000});
  trapped.engine().settle();
  trapped.run(50);
  trapped.engine().setTestTone(true);
  trapped.run(30);
  trapped.engine().stop();
  trapped.run(20);
  trapped.checkNothing();
}

TEST_CASE("While it records, stands by, is relayed and punched the audio thread waits for nothing") {
  const TemporaryFolder temporary;
  Trapped trapped(temporary / "s");
  const TrackId id = trapped.id;
  RecordSetup setup;
  setup.timeline = {{}, Span{{0}, {3000}}, 4, std::nullopt, {}};
  setup.roundTrip = {512};
  {
    Recorder recorder(trapped.folder.disk(), trapped.folder.session(), setup, {id, trapped.pair});
    trapped.engine().record(setup, recorder.stream());
    trapped.engine().settle();
    trapped.run(200);
    CHECK(recorder.stream()->bodyWritten());
    trapped.run(3200);
    CHECK(recorder.stream()->closed());
    CHECK_FALSE(trapped.engine().takeEvents().empty());  // dropouts
    recorder.abandon();
  }
  // Standing by, punched by hand, monitored, with clicks, a count-in, the tape running and a probe under way.
  Session busy = trapped.folder.session();
  busy.recording.click.playing = true;
  for (const TrackId track : {id, trapped.pair})
    busy = setMonitoring(setTrackSwitch(busy, track, TrackSwitch::Arm, true), track, Monitoring::Automatic);
  trapped.rig->setPlan(busy, {{}, {id, trapped.pair}});
  const auto tape = std::make_shared<InputTape>(trapped.folder.disk(), SampleRate{48000}, 1.0);
  tape->listenTo({0});
  trapped.engine().setTape(tape);
  auto probe = std::make_shared<LoopBackProbe>();
  prepareProbe(*probe, 0, {48000});
  trapped.engine().startProbe(probe);
  RecordSetup byHand;
  byHand.byHand = true;
  byHand.timeline.countIn = {5000};
  for (const bool torn : {true, false}) {
    Recorder hand(trapped.folder.disk(), trapped.folder.session(), byHand, {id, trapped.pair});
    trapped.engine().record(byHand, hand.stream());
    trapped.engine().settle();
    trapped.run(60);
    if (torn) {
      hand.abandon();
      continue;
    }
    Recorder relay(trapped.folder.disk(), trapped.folder.session(), byHand, {id, trapped.pair});
    trapped.engine().relay(byHand, relay.stream());
    trapped.run(10);
    trapped.engine().relieve();
    trapped.run(10);
    hand.abandon();
    Recorder dropped(trapped.folder.disk(), trapped.folder.session(), byHand, {id, trapped.pair});
    trapped.engine().relay(byHand, dropped.stream());
    trapped.run(10);
    trapped.engine().dropRelay();
    trapped.run(10);
    dropped.abandon();
    trapped.engine().takeEvents();
    for (int i = 0; i < 5; ++i) {
      trapped.engine().punch();
      trapped.run(20);
    }
    trapped.engine().stop();
    trapped.run(20);
    CHECK(relay.stream()->bodyWritten());
    trapped.engine().endTail();
    trapped.run(20);
    CHECK(relay.stream()->closed());
    const auto events = trapped.engine().takeEvents();
    CHECK(std::count_if(events.begin(), events.end(), [](const EngineEvent& event) {
            return event.kind == EngineEvent::Kind::PunchIn || event.kind == EngineEvent::Kind::PunchOut;
          }) == 5);
    relay.forgetNote();
    relay.abandon();
  }
  tape->listenTo({0, 1});
  trapped.run(10);
  trapped.checkNothing();
}

TEST_CASE("Where the disk is late the audio thread does not wait for it") {
  const TemporaryFolder temporary;
  Trapped trapped(temporary / "s");
  trapped.engine().play({});
  trapped.engine().settle();
  RecordSetup setup;
  Recorder recorder(trapped.folder.disk(), trapped.folder.session(), setup, {trapped.id, trapped.pair});
  trapped.run(5);
  trapped.engine().record(setup, recorder.stream());
  trapped.engine().settle();
  for (int i = 0; i < 4000; ++i) {  // eight seconds in which nobody reads or writes
    const OnAudioThread here;
    trapped.rig->device.runBlock();
  }
  CHECK(recorder.stream()->lostFrames() > 0);
  CHECK(trapped.engine().state().underruns > 0);
  trapped.engine().stop();
  trapped.run(20);
  trapped.engine().endTail();
  trapped.run(20);
  trapped.checkNothing();
  recorder.abandon();
}
