// SPDX-License-Identifier: GPL-3.0-or-later
//
// A disk that is slow to read, slow to sync, or refuses: what is recorded waits for none of it. Nor is it
// measured how fast this machine is: what could be late is held back for good, or waited for. The system's
// calls are replaced by slower ones in this program, also for the libraries that it uses.
#include <sys/syscall.h>
#include <unistd.h>

#include "engine/engine_tests.h"

using namespace std::chrono_literals;

namespace {

std::atomic<bool> syncsAreHeld{false};
std::atomic<int> syncFails{0};  // with that error
std::atomic<int> readMilliseconds{0};
std::atomic<bool> readsAreHeld{false};
std::atomic<int> readsHeld{0};

/// While it lives that is so.
template <typename Value>
class While {
 public:
  While(std::atomic<Value>& what, Value is) : what_(what) { what_ = is; }
  ~While() { what_ = {}; }
  While(const While&) = delete;
  While& operator=(const While&) = delete;

 private:
  std::atomic<Value>& what_;
};

std::shared_ptr<CaptureStream> streamTo(const fs::path& path) {
  return std::make_shared<CaptureStream>(std::vector<CaptureFile>{{{0}, path}}, SampleRate{48000},
                                         SampleFormat::Float32, 48000);
}

void push(CaptureStream& stream, const Samples& samples) {
  const std::array<const float*, 1> inputs{samples.data()};
  stream.push(inputs.data(), 1, 0, static_cast<int>(samples.size()));
}

}  // namespace

extern "C" int fsync(int descriptor) {
  while (syncsAreHeld) std::this_thread::sleep_for(1ms);
  if (syncFails != 0) {
    errno = syncFails;
    return -1;
  }
  return static_cast<int>(syscall(SYS_fsync, descriptor));
}

extern "C" ssize_t pread(int descriptor, void* to, size_t bytes, off_t at) {
  if (const int slow = readMilliseconds; slow > 0)
    std::this_thread::sleep_for(std::chrono::milliseconds(slow));
  if (readsAreHeld) ++readsHeld;
  while (readsAreHeld) std::this_thread::sleep_for(1ms);
  return syscall(SYS_pread64, descriptor, to, bytes, at);
}

TEST_CASE("A slow sync keeps neither the take that has ended nor the next recording waiting") {
  const TemporaryFolder temporary;
  DiskWriter writer(DiskWriter::Threads::Own);
  std::optional<While<bool>> held(std::in_place, syncsAreHeld, true);
  const Samples first = noise(24000, 1);
  const Samples second = noise(24000, 2);
  const auto ended = streamTo(temporary / "a.wav");
  writer.add(ended);
  push(*ended, first);
  ended->markComplete();
  REQUIRE(comesTrue(10.0, [&] { return ended->closed(); }));
  CHECK_FALSE(ended->safe());
  // All of it can be read while the disk is still at it.
  CHECK(readWave(temporary / "a.wav").front() == first);
  const auto next = streamTo(temporary / "b.wav");
  writer.add(next);
  for (int i = 0; i < 4; ++i) {
    push(*next, second);
    REQUIRE(comesTrue(10.0, [&] { return next->written() == Frames{24000 * (i + 1)}; }));
  }
  CHECK_FALSE(ended->safe());
  CHECK(next->lostFrames() == 0);
  next->markComplete();
  CHECK_FALSE(next->safe());
  held.reset();
  CHECK(comesTrue(10.0, [&] { return ended->safe() && next->safe(); }));
  CHECK_FALSE(ended->failure());
  CHECK(readWave(temporary / "b.wav").front().size() == 96000);
}

namespace {

/// A track of many takes, of which one is heard, and an interface of sixteen inputs that are recorded while
/// it plays.
class ManyTakes {
 public:
  ManyTakes()
      : folder_(sessionWithLanes(temporary_ / "s", std::vector<Samples>(60, noise(240000, 1, 0.2F)))) {
    meter_.setFiles(*folder_.session().pool);
    engine.setPlan(folder_.disk(),
                   compiler_.compile(folder_.session(), {{}, {}, folder_.session().tracks.front()->id}));
    interface_.settings.blockFrames = block;
    interface_.settings.inputs = inputs;
    device.emplace(interface_, engine);
  }

  /// Four seconds of it.
  [[nodiscard]] std::shared_ptr<CaptureStream> record(Frames buffer) {
    std::vector<CaptureFile> files;
    for (int i = 0; i < inputs; ++i) files.push_back({{i}, memory_ / ("in" + std::to_string(i) + ".wav")});
    auto stream = std::make_shared<CaptureStream>(files, SampleRate{48000}, SampleFormat::Pcm24,
                                                  static_cast<std::size_t>(buffer.count));
    RecordSetup setup;
    setup.timeline.stopAt = length;
    engine.record(setup, stream);
    return stream;
  }

  static constexpr int block = 256;
  static constexpr int inputs = 16;
  static constexpr Frames length{192000};

 private:
  TemporaryFolder temporary_;
  // The only slow disk here is ours: what a test machine's own does must not count.
  TemporaryFolder memory_{"/dev/shm"};
  SessionFolder folder_;
  FileCorrelationMeter meter_{folder_.disk()};
  Compiler compiler_{meter_};
  SimulatedInterface interface_;

 public:
  Engine engine{{48000}, block, Engine::Service::Background};
  std::optional<SimulatedDevice> device;
};

}  // namespace

TEST_CASE("What is recorded goes to disk while no reading comes back") {
  ManyTakes takes;
  const auto stream = takes.record({72000});  // a second and a half
  takes.engine.settle();                      // a roll begins with what is heard
  readsHeld = 0;
  const While disk(readsAreHeld, true);
  // An interface that delivers as soon as there is room, so that a machine that is held up loses nothing by
  // it.
  for (std::int64_t pushed = 0; pushed < ManyTakes::length.count; pushed += ManyTakes::block) {
    REQUIRE(comesTrue(10.0, [&] { return stream->written() + Frames{48000} > Frames{pushed}; }));
    takes.device->runBlock();
  }
  REQUIRE(comesTrue(10.0, [&] { return stream->bodyWritten(); }));
  CHECK(stream->lostFrames() == 0);
  CHECK(stream->body() == ManyTakes::length);
  CHECK(readsHeld > 0);
}

TEST_CASE("However many takes are read from a slow disk, what is heard is there while it is recorded") {
  ManyTakes takes;
  const While disk(readMilliseconds, 15);
  takes.engine.settle();  // what is heard is there long before all that could be chosen
  const auto stream = takes.record(ManyTakes::length);
  takes.engine.settle();
  const std::int64_t before = takes.engine.state().underruns;
  // In real time. An interface that was held up goes on from there, as a real one does.
  constexpr std::chrono::microseconds blockTime{5333};
  auto next = std::chrono::steady_clock::now();
  for (int block = 0; block < 2000 && !stream->bodyWritten(); ++block) {
    takes.device->runBlock();
    next = std::max(next + blockTime, std::chrono::steady_clock::now());
    std::this_thread::sleep_until(next);
  }
  REQUIRE(stream->bodyWritten());
  CHECK(takes.engine.state().underruns == before);
  CHECK(stream->body() == ManyTakes::length);
}
