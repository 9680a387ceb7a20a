// SPDX-License-Identifier: GPL-3.0-or-later
//
// A disk that takes and gives a few bytes at a time, and calls that are interrupted by signals, as POSIX
// allows for read, pread, write, pwrite and fsync (POSIX.1-2017), and Linux for copy_file_range: nothing is
// lost, doubled or misplaced.
#include <sys/stat.h>
#include <sys/syscall.h>
#include <unistd.h>

#include <cerrno>
#include "core/core_tests.h"

namespace {

std::atomic<bool> fitful{false};
std::atomic<unsigned> calls{0};
std::atomic<unsigned> syncsAsked{0};
std::atomic<unsigned> syncsDone{0};
// What cannot be done at all, and with what error; 0: it can.
std::atomic<int> copyingFails{0};
std::atomic<std::size_t> copiedBefore{0};  // bytes, by one call
std::atomic<int> headersFail{0};
std::atomic<int> syncingFoldersFails{0};
std::vector<ino_t> syncedFiles;  // in their order, while they are told
std::atomic<bool> tellSyncs{false};

bool isFolder(int descriptor) {
  struct stat about {};
  return syscall(SYS_fstat, descriptor, &about) == 0 && S_ISDIR(about.st_mode);
}

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
  if (headersFail != 0 && syscall(SYS_lseek, descriptor, 0, SEEK_CUR) < 44) return errno = headersFail, -1;
  return interrupted(descriptor, bytes) ? -1 : syscall(SYS_write, descriptor, from, bytes);
}
ssize_t pwrite(int descriptor, const void* from, size_t bytes, off_t at) {
  return interrupted(descriptor, bytes) ? -1 : syscall(SYS_pwrite64, descriptor, from, bytes, at);
}
ssize_t copy_file_range(int from, off64_t* fromAt, int to, off64_t* toAt, size_t bytes, unsigned flags) {
  if (copyingFails != 0) {
    const std::size_t first = std::min(copiedBefore.exchange(0), bytes);
    if (first == 0) return errno = copyingFails, -1;
    return syscall(SYS_copy_file_range, from, fromAt, to, toAt, first, flags);
  }
  return interrupted(from, bytes) ? -1 : syscall(SYS_copy_file_range, from, fromAt, to, toAt, bytes, flags);
}
int fsync(int descriptor) {
  if (syncingFoldersFails != 0 && isFolder(descriptor)) return errno = syncingFoldersFails, -1;
  if (struct stat about{}; tellSyncs && syscall(SYS_fstat, descriptor, &about) == 0)
    syncedFiles.push_back(about.st_ino);
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
          importAudio(folder.disk(), {session.rate}, (path / (std::to_string(i) + ".wav")).string());
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

TEST_CASE(
    "Where a disk cannot copy by itself frames are copied through memory; where it refuses, that is said") {
  const TemporaryFolder temporary;
  const std::vector<Samples> signal{noise(70000, 1), noise(70000, 2)};
  writeWave(temporary / "a.wav", signal, 48000, SampleFormat::Float32);
  const AudioReader reader(temporary / "a.wav");
  const auto copy = [&](std::int64_t frames) {
    AudioWriter writer(createAnywhere(temporary / "b.wav"), 2, {48000}, SampleFormat::Float32);
    writer.copy(reader, Frames{100}, frames);
    writer.close();
  };
  for (const int error : {EXDEV, EINVAL, ENOSYS, EOPNOTSUPP, 0})
    for (const std::int64_t frames : {1, 32768, 32769, 69900}) {
      INFO("error " << error << ", " << frames << " frames");
      copyingFails = error;
      copiedBefore = static_cast<std::size_t>(frames) / 4 * 8;
      REQUIRE_NOTHROW(copy(frames));
      copyingFails = 0;
      const std::vector<Samples> back = readWave(temporary / "b.wav");
      for (std::size_t c = 0; c < 2; ++c)
        CHECK(back[c] == Samples(signal[c].begin() + 100, signal[c].begin() + 100 + frames));
    }
  for (const int error : {ENOSPC, EIO, EDQUOT}) {
    copyingFails = error;
    INFO("error " << error);
    CHECK_THROWS_WITH(copy(69900), Catch::Contains("does not take any more"));
    copyingFails = 0;
  }
}

TEST_CASE("A file whose header the disk refuses is not said to be finished") {
  const TemporaryFolder temporary;
  const Samples signal = noise(5000, 1);
  for (const bool refused : {true, false}) {
    AudioWriter writer(createAnywhere(temporary / "a.wav"), 1, {48000}, SampleFormat::Pcm24);
    writer.write(signal.data(), 5000);
    headersFail = ENOSPC;
    CHECK_THROWS_WITH(writer.updateHeader(), Catch::Contains("could not be kept readable"));
    headersFail = 0;
    CHECK_NOTHROW(writer.updateHeader());
    headersFail = refused ? ENOSPC : 0;
    if (refused)
      CHECK_THROWS_WITH(writer.close(), Catch::Contains("could not be finished"));
    else
      CHECK_NOTHROW(writer.close());
    headersFail = 0;
  }
  CHECK(readWave(temporary / "a.wav").front() == signal);
}

TEST_CASE(
    "What was written where nothing was is gone again where its folder was not kept; what replaced, stays") {
  const TemporaryFolder temporary;
  fs::create_directory(temporary / "s");
  const SessionDisk session(temporary / "s");
  std::ofstream(temporary / "source") << "new";
  for (const auto existing : {OutputFile::Existing::Refused, OutputFile::Existing::Replaced}) {
    const fs::path place = temporary / "out.wav";
    OutputFile file(session, place, existing);
    syncingFoldersFails = EIO;
    CHECK_THROWS_AS(file.keepCopyOf(openAnywhere(temporary / "source")), Error);
    syncingFoldersFails = 0;
    CHECK(fs::exists(place) == (existing == OutputFile::Existing::Replaced));
  }
}

TEST_CASE(
    "A change of a file that the disk does not keep is taken back; what is only a cache is not waited for") {
  const TemporaryFolder temporary;
  const SessionDisk disk(temporary.path());
  disk.replace("a", "before");
  for (const bool synced : {true, false}) {
    syncingFoldersFails = EIO;
    if (synced)
      CHECK_THROWS_AS(disk.replace("a", "after"), Error);
    else
      CHECK_NOTHROW(disk.replace("a", "after", SessionDisk::Safety::Cache));
    syncingFoldersFails = 0;
    CHECK(content(temporary / "a") == (synced ? "before" : "after"));
    CHECK(std::distance(fs::directory_iterator(temporary.path()), {}) == 1);
  }
}

TEST_CASE(
    "Before a session names new audio the disk has the audio and the name; what it has is not synced again") {
  const TemporaryFolder temporary;
  SessionFolder folder = sessionWithLanes(temporary / "s", {noise(500, 1)});
  const auto number = [&](const fs::path& path) {
    struct stat about {};
    REQUIRE(::stat((temporary / "s" / path).c_str(), &about) == 0);
    return about.st_ino;
  };
  const auto syncedBy = [&](const Session& next) {
    syncedFiles.clear();
    tellSyncs = true;
    folder.commit("Add", next);
    tellSyncs = false;
    return syncedFiles;
  };
  writeWave(temporary / "s" / "audio" / "new.wav", {noise(500, 2)});
  const TrackId id = folder.session().tracks.front()->id;
  const std::vector<ino_t> first =
      syncedBy(addFileAsLane(folder.session(), id, {"audio/new.wav", 1, {500}}, {}, "take"));
  REQUIRE(first.size() == 5);
  CHECK(first[0] == number("audio/new.wav"));
  CHECK(first[1] == number("audio"));
  CHECK(first[2] == number("steps.log"));
  CHECK(first[3] == number("session.json"));  // it has its place a moment later
  CHECK(first[4] == number(""));
  const std::vector<ino_t> second = syncedBy(setLoop(folder.session(), Span{{0}, {100}}));
  REQUIRE(second.size() == 3);
  CHECK(second[0] == number("steps.log"));
  CHECK(second[2] == number(""));
  // Where there is no log yet its name is kept with it.
  const TemporaryFolder fresh;
  syncedFiles.clear();
  tellSyncs = true;
  SessionFolder begun = SessionFolder::create(fresh / "s", Session{});
  begun.commit("Loop", setLoop(begun.session(), Span{{0}, {100}}));
  tellSyncs = false;
  struct stat log {};
  struct stat root {};
  REQUIRE(::stat((fresh / "s" / "steps.log").c_str(), &log) == 0);
  REQUIRE(::stat((fresh / "s").c_str(), &root) == 0);
  const auto at = std::find(syncedFiles.begin(), syncedFiles.end(), log.st_ino);
  REQUIRE(std::distance(at, syncedFiles.end()) >= 3);
  CHECK(at[1] == root.st_ino);
}
