// SPDX-License-Identifier: GPL-3.0-or-later
//
// Traps allocation and locking on the audio thread: while armed, operator new and pthread_mutex_lock count.
#include <dlfcn.h>
#include <pthread.h>

#include <atomic>
#include <catch2/catch.hpp>
#include <cstdlib>
#include <new>

#include "bench_rig.h"

namespace {

thread_local bool armed = false;
std::atomic<int> allocations{0};
std::atomic<int> locks{0};

struct Armed {
  Armed() { armed = true; }
  ~Armed() { armed = false; }
};

}  // namespace

// Sanitizers bring their own allocator and lock interception; there only the plain build traps.
#if !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__)
#define YEWDRIFT_TRAPS 1

// GCC does not see that the pair below belongs together.
#pragma GCC diagnostic ignored "-Wmismatched-new-delete"
void* operator new(std::size_t size) {
  if (armed) ++allocations;
  if (void* memory = std::malloc(size ? size : 1)) return memory;
  throw std::bad_alloc();
}
void operator delete(void* memory) noexcept {
  if (armed) ++allocations;
  std::free(memory);
}
void operator delete(void* memory, std::size_t) noexcept {
  if (armed) ++allocations;
  std::free(memory);
}
extern "C" int pthread_mutex_lock(pthread_mutex_t* mutex) {
  using Lock = int (*)(pthread_mutex_t*);
  static const auto real = reinterpret_cast<Lock>(dlsym(RTLD_NEXT, "pthread_mutex_lock"));
  if (armed) ++locks;
  return real(mutex);
}
#endif

using namespace yewdrift;
using namespace yewdrift::test;

#ifdef YEWDRIFT_TRAPS
TEST_CASE("The traps catch what they are there for") {
  allocations = locks = 0;
  std::mutex mutex;
  {
    const Armed here;
    const std::lock_guard guard(mutex);
    const auto memory = std::make_unique<Samples>(10);
    (void)memory;
  }
  CHECK(allocations > 0);
  CHECK(locks == 1);
}

TEST_CASE("The audio thread neither allocates nor locks, whatever it is asked to do") {
  const TemporaryFolder temporary;
  SessionFolder folder = sessionWithLanes(temporary / "s", {noise(300000, 1), noise(300000, 2)});
  const TrackId id = folder.session().tracks.front()->id;
  SimulatedInterface interface;
  interface.parts = {{0, {}, {{{noise(50000, 3)}}}, false, {}}};
  Rig rig(folder, 100, interface);
  allocations = locks = 0;
  auto run = [&rig](int blocks) {
    for (int i = 0; i < blocks; ++i) {
      {
        const Armed here;
        rig.device.runBlock();
      }
      rig.engine.service();
    }
  };
  run(10);
  rig.engine.play({{}, Span{{0}, {7777}}, 0, std::nullopt, {}});
  rig.engine.settle();
  run(300);
  rig.setPlan(folder.session(), {{Listening{id, {1}}}, {}});
  run(50);
  rig.setPlan(pick(folder.session(), id, {{100}, {5000}}, LaneNumber{1}));
  run(50);
  rig.engine.locate({100000});
  rig.engine.settle();
  run(50);
  rig.engine.stop();
  run(20);
  RecordSetup setup;
  setup.timeline = {{}, Span{{0}, {3000}}, 4, std::nullopt, {}};
  setup.roundTrip = {512};
  Recorder recorder(folder, folder.session(), setup, {id});
  rig.engine.record(setup, recorder.stream());
  rig.engine.settle();
  run(200);
  CHECK(recorder.stream()->bodyWritten());
  run(3200);
  CHECK(recorder.stream()->closed());

  // Standing by, punched by hand, monitored, with clicks, a count-in, the tape running and a probe under way.
  Session busy = folder.session();
  busy.recording.click.playing = true;
  busy = setMonitoring(setTrackSwitch(busy, id, TrackSwitch::Arm, true), id, Monitoring::Automatic);
  rig.setPlan(busy, {{}, {id}});
  const auto tape = std::make_shared<InputTape>(folder.path() / "cache", SampleRate{48000}, 1.0);
  tape->listenTo({0});
  rig.engine.setTape(tape);
  auto probe = std::make_shared<LoopBackProbe>();
  prepareProbe(*probe, 0, {48000});
  rig.engine.startProbe(probe);
  RecordSetup byHand;
  byHand.byHand = true;
  byHand.timeline.countIn = {5000};
  for (const bool torn : {true, false}) {
    Recorder hand(folder, folder.session(), byHand, {id});
    rig.engine.record(byHand, hand.stream());
    rig.engine.settle();
    run(60);
    if (torn) {
      hand.abandon();
      continue;
    }
    for (int i = 0; i < 5; ++i) {
      rig.engine.punch();
      run(20);
    }
    rig.engine.stop();
    run(20);
    CHECK(hand.stream()->bodyWritten());
    rig.engine.endTail();
    run(20);
    CHECK(hand.stream()->closed());
    CHECK(rig.engine.takeEvents().size() == 5);
    hand.forgetNote();
    hand.abandon();
  }
  tape->listenTo({0, 1});
  run(10);
  CHECK(allocations == 0);
  CHECK(locks == 0);
}
#endif

TEST_CASE("Three threads at once: orders, disk and audio do not get in each other's way") {
  const TemporaryFolder temporary;
  SessionFolder folder = sessionWithLanes(temporary / "s", {noise(300000, 1), noise(300000, 2)});
  const Session session = folder.session();
  const TrackId id = session.tracks.front()->id;
  Engine engine(session.rate, 256, Engine::Service::Background);
  FileCorrelationMeter meter(folder.path());
  Compiler compiler(meter);
  meter.setFiles(*session.pool);
  engine.setPlan(folder.path(), compiler.compile(session, {{}, {}, id}));
  SimulatedInterface interface;
  interface.settings.blockFrames = 256;
  SimulatedDevice device(interface, engine);
  device.start();
  for (int i = 0; i < 60; ++i) {
    switch (i % 5) {
      case 0:
        engine.play({{i * 1000}, Span{{0}, {100000}}, 0, std::nullopt, {}});
        break;
      case 1:
        engine.setPlan(folder.path(), compiler.compile(session, {{Listening{id, {1 + i % 2}}}, {}, id}));
        break;
      case 2:
        engine.setPlan(folder.path(), compiler.compile(pick(session, id, {{0}, {i * 100 + 1}}, LaneNumber{1}),
                                                       {{}, {}, id}));
        break;
      case 3:
        engine.locate({i * 3000});
        break;
      default:
        engine.stop();
    }
    std::this_thread::sleep_for(std::chrono::milliseconds(7));
    CHECK(engine.state().position.count >= 0);
  }
  RecordSetup setup;
  setup.timeline = {{}, Span{{0}, {4800}}, 3, std::nullopt, {}};
  setup.roundTrip = {512};
  Recorder recorder(folder, session, setup, {id});
  engine.stop();
  while (engine.state().rolling) std::this_thread::sleep_for(std::chrono::milliseconds(2));
  engine.record(setup, recorder.stream());
  PeakPyramid shown;
  for (int i = 0; i < 1000 && !recorder.stream()->closed(); ++i) {
    recorder.stream()->updatePeaks(0, shown);
    std::this_thread::sleep_for(std::chrono::milliseconds(5));
  }
  device.stop();
  REQUIRE(recorder.stream()->closed());
  CHECK(recorder.stream()->lostFrames() == 0);
  CHECK(recorder.finished(session).session.track(id)->lanes.size() == 5);
}
