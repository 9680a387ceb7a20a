// SPDX-License-Identifier: GPL-3.0-or-later
//
// A disk that is slow to read, slow to sync, or refuses: what is recorded waits for none of it.
// The system's calls are replaced by slower ones in this program, also for the libraries that it uses.
#include <sys/syscall.h>
#include <unistd.h>

#include <atomic>
#include <catch2/catch.hpp>
#include <chrono>
#include <thread>

#include "bench_rig.h"
#include "recording_support.h"

using namespace yewdrift;
using namespace yewdrift::test;
using namespace std::chrono_literals;

namespace {

std::atomic<int> syncMilliseconds{0};
std::atomic<int> syncFails{0};  // with that error
std::atomic<int> readMilliseconds{0};

/// As long as it lives the disk is like that.
struct Disk {
  Disk(int sync, int read, int fails = 0) {
    syncMilliseconds = sync;
    readMilliseconds = read;
    syncFails = fails;
  }
  ~Disk() { syncMilliseconds = readMilliseconds = syncFails = 0; }
  Disk(const Disk&) = delete;
  Disk& operator=(const Disk&) = delete;
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
  std::this_thread::sleep_for(std::chrono::milliseconds(syncMilliseconds.load()));
  if (syncFails != 0) {
    errno = syncFails;
    return -1;
  }
  return static_cast<int>(syscall(SYS_fsync, descriptor));
}

extern "C" ssize_t pread(int descriptor, void* to, size_t bytes, off_t at) {
  if (const int slow = readMilliseconds; slow > 0)
    std::this_thread::sleep_for(std::chrono::milliseconds(slow));
  return syscall(SYS_pread64, descriptor, to, bytes, at);
}

TEST_CASE("A slow sync keeps neither the take that has ended nor the next recording waiting") {
  const TemporaryFolder temporary;
  const Disk disk(1500, 0);
  DiskWriter writer(DiskWriter::Threads::Own);
  const Samples first = noise(24000, 1);
  const Samples second = noise(24000, 2);
  const auto ended = streamTo(temporary / "a.wav");
  writer.add(ended);
  push(*ended, first);
  ended->markComplete();
  REQUIRE(comesTrue(1.0, [&] { return ended->closed(); }));
  CHECK_FALSE(ended->safe());
  // All of it can be read while the disk is still at it.
  CHECK(readWave(temporary / "a.wav").front() == first);
  const auto next = streamTo(temporary / "b.wav");
  writer.add(next);
  for (int i = 0; i < 4; ++i) {
    push(*next, second);
    REQUIRE(comesTrue(0.5, [&] { return next->written() == Frames{24000 * (i + 1)}; }));
  }
  CHECK_FALSE(ended->safe());
  CHECK(next->lostFrames() == 0);
  next->markComplete();
  CHECK(comesTrue(6.0, [&] { return ended->safe() && next->safe(); }));
  CHECK_FALSE(ended->failure());
  CHECK(readWave(temporary / "b.wav").front().size() == 96000);
}

TEST_CASE("A disk that refuses to keep a recording is believed, while it runs and at its end") {
  const TemporaryFolder temporary;
  {
    const Disk disk(0, 0, EIO);
    DiskWriter writer(DiskWriter::Threads::Own);
    const auto stream = streamTo(temporary / "a.wav");
    writer.add(stream);
    for (int i = 0; i < 3; ++i) push(*stream, noise(24000, 1));
    REQUIRE(comesTrue(3.0, [&] { return stream->failure().has_value(); }));  // once a second
    CHECK_THAT(stream->failure()->english(), Catch::Contains("did not keep") && Catch::Contains("a.wav"));
  }
  {
    const Disk disk(0, 0, ENOSPC);
    DiskWriter writer(DiskWriter::Threads::Own);
    const auto stream = streamTo(temporary / "b.wav");
    writer.add(stream);
    push(*stream, noise(4800, 1));
    stream->markComplete();
    REQUIRE(comesTrue(3.0, [&] { return stream->safe(); }));
    CHECK(stream->failure().has_value());
  }
  {
    // A file system without syncs loses nothing by that.
    const Disk disk(0, 0, EINVAL);
    DiskWriter writer(DiskWriter::Threads::Own);
    const auto stream = streamTo(temporary / "c.wav");
    writer.add(stream);
    push(*stream, noise(4800, 1));
    stream->markComplete();
    REQUIRE(comesTrue(3.0, [&] { return stream->safe(); }));
    CHECK_FALSE(stream->failure().has_value());
  }
}

TEST_CASE(
    "However many takes are read from a slow disk, nothing that is recorded is lost and what is heard is "
    "there") {
  const TemporaryFolder temporary;
  const Samples take = noise(240000, 1, 0.2F);
  std::vector<Samples> takes(60, take);
  SessionFolder folder = sessionWithLanes(temporary / "s", takes);
  Engine engine({48000}, 256, Engine::Service::Background);
  FileCorrelationMeter meter(folder.disk());
  Compiler compiler(meter);
  meter.setFiles(*folder.session().pool);
  engine.setPlan(folder.disk(),
                 compiler.compile(folder.session(), {{}, {}, folder.session().tracks.front()->id}));
  const Disk disk(0, 15);
  engine.settle();  // what is heard is there long before all that could be chosen
  SimulatedInterface interface;
  interface.settings.blockFrames = 256;
  interface.settings.inputs = 16;
  SimulatedDevice device(interface, engine);
  // The only slow disk here is ours: what a test machine's own does must not count.
  const TemporaryFolder memory("/dev/shm");
  std::vector<CaptureFile> files;
  for (int i = 0; i < 16; ++i) files.push_back({{i}, memory / ("in" + std::to_string(i) + ".wav")});
  const auto stream = std::make_shared<CaptureStream>(files, SampleRate{48000}, SampleFormat::Pcm24,
                                                      72000);  // a second and a half
  RecordSetup setup;
  setup.timeline.stopAt = Frames{192000};
  engine.record(setup, stream);
  engine.settle();
  const std::int64_t before = engine.state().underruns;
  // In real time: four seconds.
  auto next = std::chrono::steady_clock::now();
  for (int block = 0; block < 2000 && !stream->bodyWritten(); ++block) {
    device.runBlock();
    next += std::chrono::microseconds(5333);
    std::this_thread::sleep_until(next);
  }
  REQUIRE(stream->bodyWritten());
  CHECK(stream->lostFrames() == 0);
  CHECK(engine.state().underruns == before);
  CHECK(stream->body() == Frames{192000});
}
