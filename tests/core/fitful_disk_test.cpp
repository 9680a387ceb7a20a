// SPDX-License-Identifier: GPL-3.0-or-later
//
// A disk that takes and gives a few bytes at a time, and calls that are interrupted by signals, as POSIX
// allows for read, pread, write, pwrite and fsync (POSIX.1-2017), and Linux for copy_file_range: nothing is
// lost, doubled or misplaced.
#include <sys/stat.h>
#include <sys/syscall.h>
#include <unistd.h>

#include <atomic>
#include <catch2/catch.hpp>
#include <cerrno>

#include "core/edit/edit.h"
#include "core/plan/flatten.h"
#include "core/store/audio_file.h"
#include "core/store/import_audio.h"
#include "support.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

std::atomic<bool> fitful{false};
std::atomic<unsigned> calls{0};
std::atomic<unsigned> syncsAsked{0};
std::atomic<unsigned> syncsDone{0};

/// Whether that call is interrupted; else how much of it is done.
bool interrupted(int descriptor, size_t& bytes) {
  struct stat about {};
  if (!fitful || syscall(SYS_fstat, descriptor, &about) != 0 || !S_ISREG(about.st_mode)) return false;
  const unsigned call = ++calls;
  if (call % 3 == 0) return errno = EINTR, true;
  if (bytes > 1) bytes = 1 + (bytes - 1) / (2 + call % 3);
  return false;
}

}  // namespace

extern "C" {
ssize_t read(int descriptor, void* into, size_t bytes) {
  return interrupted(descriptor, bytes) ? -1 : syscall(SYS_read, descriptor, into, bytes);
}
ssize_t pread(int descriptor, void* into, size_t bytes, off_t at) {
  return interrupted(descriptor, bytes) ? -1 : syscall(SYS_pread64, descriptor, into, bytes, at);
}
ssize_t write(int descriptor, const void* from, size_t bytes) {
  return interrupted(descriptor, bytes) ? -1 : syscall(SYS_write, descriptor, from, bytes);
}
ssize_t pwrite(int descriptor, const void* from, size_t bytes, off_t at) {
  return interrupted(descriptor, bytes) ? -1 : syscall(SYS_pwrite64, descriptor, from, bytes, at);
}
ssize_t copy_file_range(int from, off64_t* fromAt, int to, off64_t* toAt, size_t bytes, unsigned flags) {
  return interrupted(from, bytes) ? -1 : syscall(SYS_copy_file_range, from, fromAt, to, toAt, bytes, flags);
}
int fsync(int descriptor) {
  if (++syncsAsked % 2 == 1 && fitful) return errno = EINTR, -1;
  ++syncsDone;
  return static_cast<int>(syscall(SYS_fsync, descriptor));
}
}

namespace {

/// Imports, steps back and forth, closed and opened again in between; what is there at its end.
struct Outcome {
  std::vector<Session> states;
  std::vector<Samples> heard;
  std::string document;
  std::string log;
};
Outcome work(const fs::path& path) {
  Outcome outcome;
  Session empty;
  empty.rate = {48000};
  empty.format = SampleFormat::Pcm24;
  TrackId id;
  {
    SessionFolder folder = SessionFolder::create(path / "s", empty);
    Session session = addTrack(folder.session(), "Voice", microphonesFor(1));
    id = session.tracks.back()->id;
    for (int i = 1; i <= 2; ++i) {
      const auto file =
          importAudio(folder.disk(), session.rate, (path / (std::to_string(i) + ".wav")).string());
      session = addFileAsLane(session, id, file.file, {}, "take");
    }
    folder.commit("Add", session);
    for (int i = 0; i < 8; ++i)
      folder.commit("Pick " + std::to_string(i),
                    pick(folder.session(), id, {{i * 500}, {i * 500 + 300}}, LaneNumber{1}));
    for (int i = 0; i < 3; ++i) folder.editHistory().undo();
    folder.save();
  }
  SessionFolder folder = SessionFolder::open(path / "s", SessionFolder::Access::Write);
  outcome.states.push_back(folder.session());
  while (folder.editHistory().undoLabel()) {
    folder.editHistory().undo();
    outcome.states.push_back(folder.session());
  }
  while (folder.editHistory().redoLabel()) {
    folder.editHistory().redo();
    outcome.states.push_back(folder.session());
  }
  folder.save();
  outcome.heard = renderTrack(folder, folder.session(), "Voice", Span{{0}, {9000}});
  for (const PoolFile& file : *folder.session().pool)
    outcome.heard.push_back(readWave(audioPath(folder, file)).front());
  const PoolFile flat = renderComposite(folder.disk(), folder.session(), id).file;
  outcome.heard.push_back(readWave(audioPath(folder, flat)).front());
  outcome.document = content(path / "s/session.json");
  outcome.log = content(path / "s/steps.log");
  return outcome;
}

}  // namespace

TEST_CASE("A disk that takes and gives a few bytes at a time, and is interrupted, changes nothing") {
  const TemporaryFolder temporary;
  for (const char* folder : {"plain", "fitful"}) {
    fs::create_directory(temporary / folder);
    writeWave(temporary / folder / "1.wav", {noise(9000, 1)}, 48000, SampleFormat::Pcm24);
    writeWave(temporary / folder / "2.wav", {noise(9000, 2)}, 44100, SampleFormat::Float32);
  }
  syncsDone = 0;
  const Outcome plain = work(temporary / "plain");
  const unsigned syncs = syncsDone.exchange(0);
  syncsAsked = 0;
  fitful = true;
  Outcome odd;
  try {
    odd = work(temporary / "fitful");
  } catch (const std::exception& e) {
    fitful = false;
    FAIL(e.what());
  }
  fitful = false;
  CHECK(calls > 300);
  // What was not kept because a signal came is kept in the end, each time.
  CHECK(syncs > 10);
  CHECK(syncsDone == syncs);
  CHECK(syncsAsked == 2 * syncs);
  CHECK(plain.states.size() == 16);
  CHECK(odd.states == plain.states);
  CHECK(odd.heard == plain.heard);
  CHECK(odd.document.size() == plain.document.size());
  CHECK(odd.log.size() == plain.log.size());
}
