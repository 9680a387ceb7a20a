// SPDX-License-Identifier: GPL-3.0-or-later
//
// How long it holds, and on what disks. Run by hand; each prints what it found.
//   starve  16 inputs recorded in real time while 500 takes are in hand and every seek takes 8 ms
//   stall   the same, and for 2 s the disk does nothing at all
//   wide    64 inputs for ten minutes, four times as fast as time
//   night   24 hours of standing by, as fast as it can: memory and disk at every fourth hour
// Figures: no frame lost, no underrun of what is heard, memory that does not grow.
#include <sys/syscall.h>
#include <unistd.h>

#include <QCoreApplication>
#include <atomic>
#include <chrono>
#include <cstdio>
#include <cstring>
#include <fstream>
#include <mutex>
#include <thread>

#include "app/desk/studio.h"
#include "big_session.h"
#include "core/device/simulated_device.h"
#include "core/edit/edit.h"
#include "core/engine/recorder.h"

using namespace yewdrift;
using namespace yewdrift::bench;
using Clock = std::chrono::steady_clock;

namespace {

/// One head for all reads of audio: who reads elsewhere than where it is waits for a seek, after the others.
struct ModelledDisk {
  static constexpr off_t track = 131072;  // read in one go once the head is there
  std::atomic<int> seekMilliseconds{0};
  std::atomic<std::int64_t> stallsUntil{0};  // steady clock, in nanoseconds
  std::mutex head;
  int file = -1;  // guarded
  off_t upTo = 0;

  void seek(int descriptor, off_t at) {
    stall();
    if (seekMilliseconds == 0) return;
    const std::lock_guard guard(head);
    if (descriptor == file && at < upTo && at >= upTo - track) return;
    std::this_thread::sleep_for(std::chrono::milliseconds(seekMilliseconds));
    file = descriptor;
    upTo = at + track;
  }
  void stall() const {
    const auto until = Clock::time_point(std::chrono::nanoseconds(stallsUntil));
    if (Clock::now() < until) std::this_thread::sleep_until(until);
  }
} disk;

}  // namespace

extern "C" ssize_t read(int descriptor, void* to, size_t bytes) {
  if (bytes > 1000) disk.seek(descriptor, static_cast<off_t>(syscall(SYS_lseek, descriptor, 0, SEEK_CUR)));
  return syscall(SYS_read, descriptor, to, bytes);
}
extern "C" ssize_t write(int descriptor, const void* from, size_t bytes) {
  if (bytes > 1000) disk.stall();
  return syscall(SYS_write, descriptor, from, bytes);
}
extern "C" ssize_t pwrite(int descriptor, const void* from, size_t bytes, off_t at) {
  disk.stall();
  return syscall(SYS_pwrite64, descriptor, from, bytes, at);
}
extern "C" int fsync(int descriptor) {
  disk.stall();
  return static_cast<int>(syscall(SYS_fsync, descriptor));
}

namespace {

constexpr std::size_t bufferFrames = 4 * 48000;  // as a Recorder has it

double megabytesOf(const char* field) {
  std::ifstream status("/proc/self/status");
  for (std::string line; std::getline(status, line);)
    if (line.starts_with(field)) return std::stod(line.substr(std::strlen(field))) / 1024.0;
  return 0.0;
}

void starve(bool stall) {
  SessionFolder folder = makeBigSession({"endurance", 1, 500, 20.0, 50, true});
  Session session = folder.session();
  session = addTrack(std::move(session), "Inputs", microphonesFor(16));
  const TrackId inHand = session.tracks.front()->id;
  Engine engine({48000}, 256, Engine::Service::Background);
  FileCorrelationMeter meter(folder.disk());
  Compiler compiler(meter);
  meter.setFiles(*session.pool);
  disk.seekMilliseconds = 8;
  engine.setPlan(folder.disk(), compiler.compile(session, {{}, {}, inHand}));
  const auto asked = Clock::now();
  engine.settle();
  const double ready = std::chrono::duration<double>(Clock::now() - asked).count();
  SimulatedInterface interface;
  interface.settings.blockFrames = 256;
  interface.settings.inputs = 16;
  SimulatedDevice device(interface, engine);
  std::vector<CaptureFile> files;
  for (int i = 0; i < 16; ++i) files.push_back({{i}, workFolder() / ("in" + std::to_string(i) + ".wav")});
  const auto stream =
      std::make_shared<CaptureStream>(files, SampleRate{48000}, SampleFormat::Pcm24, bufferFrames);
  RecordSetup setup;
  setup.timeline.stopAt = Frames{15 * 48000};
  engine.record(setup, stream);
  engine.settle();
  const std::int64_t before = engine.state().underruns;
  auto next = Clock::now();
  for (int block = 0; !stream->bodyWritten(); ++block) {
    if (stall && block == 5 * 48000 / 256)
      disk.stallsUntil = (Clock::now() + std::chrono::seconds(2)).time_since_epoch().count();
    device.runBlock();
    next += std::chrono::microseconds(5333);
    std::this_thread::sleep_until(next);
  }
  std::printf("%s: ready to record after %.2f s; in 15 s %lld frames lost, %lld underruns; %.0f MB\n",
              stall ? "stall of 2 s" : "starve", ready, static_cast<long long>(stream->lostFrames()),
              static_cast<long long>(engine.state().underruns - before), megabytesOf("VmRSS:"));
  disk.seekMilliseconds = 0;
}

void wide() {
  constexpr int block = 256;
  constexpr int minutes = 10;
  constexpr int timesRealTime = 4;
  std::filesystem::create_directories(workFolder());
  const std::vector<float> noise(block, 0.25F);
  std::vector<const float*> inputs(64, noise.data());
  std::vector<CaptureFile> files;
  for (int i = 0; i < 64; ++i) files.push_back({{i}, workFolder() / ("wide" + std::to_string(i) + ".wav")});
  {
    const auto stream =
        std::make_shared<CaptureStream>(files, SampleRate{48000}, SampleFormat::Pcm24, bufferFrames);
    DiskWriter writer(DiskWriter::Threads::Own);
    writer.add(stream);
    const auto began = Clock::now();
    for (std::int64_t i = 0; i < minutes * 60 * 48000LL / block; ++i) {
      stream->push(inputs.data(), 64, 0, block);
      std::this_thread::sleep_until(
          began + std::chrono::microseconds(i * block * 1'000'000 / (48000 * timesRealTime)));
    }
    stream->markComplete();
    while (!stream->safe()) std::this_thread::sleep_for(std::chrono::milliseconds(20));
    std::printf("64 inputs, %d minutes at %d times real time: %lld frames lost; %.0f MB\n", minutes,
                timesRealTime, static_cast<long long>(stream->lostFrames()), megabytesOf("VmRSS:"));
  }
  for (int i = 0; i < 64; ++i) std::filesystem::remove(workFolder() / ("wide" + std::to_string(i) + ".wav"));
}

void night() {
  const std::filesystem::path path = workFolder() / "night";
  std::filesystem::remove_all(path);
  {
    Session session = addTrack({}, "Voice", microphonesFor(1));
    session = setTrackSwitch(session, session.tracks.front()->id, TrackSwitch::Arm, true);
    SessionFolder::create(path, session);
  }
  app::Studio studio(path, app::DeviceDesk::Mode::Driven);
  studio.setBlockMaker([&] { studio.device().runBlockForTest(); });
  app::AudioChoice choice;
  choice.blockFrames = 4096;
  studio.device().open(choice);
  RecordingOptions options = studio.desk().options();
  options.loop = false;
  studio.desk().setOptions(options);
  studio.transport().togglePlay();
  constexpr std::int64_t hour = 3600LL * 48000;
  std::int64_t hours = 0;
  for (std::int64_t frames = 0; hours <= 24; frames += 4096) {
    if (frames >= hours * hour) {
      if (hours % 4 == 0 || hours == 1) {
        std::uintmax_t bytes = 0;
        int files = 0;
        for (const auto& each : std::filesystem::directory_iterator(path / "audio")) {
          bytes += std::filesystem::file_size(each);
          ++files;
        }
        std::printf(
            "after %2lld h of standing by: %.1f MB of memory, %d files of %.0f MB%s\n",
            static_cast<long long>(hours), megabytesOf("VmRSS:"), files, static_cast<double>(bytes) / 1e6,
            studio.recording().standingBy() || hours == 0 ? "" : ", but it does not stand by any more");
        std::fflush(stdout);
      }
      ++hours;
    }
    studio.transport().engine().service();
    studio.device().runBlockForTest();
    studio.tick();
    QCoreApplication::processEvents();
  }
  studio.transport().stop();
}

}  // namespace

int main(int argc, char** argv) {
  const QCoreApplication application(argc, argv);
  const std::string what = argc > 1 ? argv[1] : "";
  if (what == "starve" || what == "stall") return starve(what == "stall"), 0;
  if (what == "wide") return wide(), 0;
  if (what == "night") return night(), 0;
  std::fprintf(stderr, "Usage: yewdrift-endurance-bench starve|stall|wide|night\n");
  return 2;
}
