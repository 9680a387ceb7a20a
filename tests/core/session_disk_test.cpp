// SPDX-License-Identifier: GPL-3.0-or-later
//
// Files in a session's folder and beside it: which are ours to remove, which are left, what tells one from
// what it was.
#include "core/core_tests.h"

#include <fcntl.h>
#include <sys/stat.h>

namespace {

void put(const fs::path& path, const std::string& text = "text") {
  fs::create_directories(path.parent_path());
  std::ofstream(path) << text;
}

}  // namespace

TEST_CASE("Left-over temporary files are removed wherever they are made; what only looks like one stays") {
  const TemporaryFolder temporary;
  const SessionDisk disk(temporary.path());
  const std::string ours = ".take.wav.0123456789abcdef.new";
  for (const char* folder : {"", "audio", "cache", "exports"}) put(temporary / folder / ours);
  const std::vector<std::string> others{"take.0123456789abcdef.new",
                                        ".0123456789abcdef.new",
                                        ".take.0123456789abcdeg.new",
                                        ".take.0123456789abcde.new",
                                        ".take-0123456789abcdef.new",
                                        ".take.0123456789abcdef.old",
                                        ".take.0123456789ABCDEF.new",
                                        ".new",
                                        "x.new",
                                        ".take.new"};
  for (const char* folder : {"", "audio"})
    for (const std::string& name : others) put(temporary / folder / name);
  fs::create_directory(temporary / "audio" / ".folder.0123456789abcdef.new");
  disk.removeStrays();
  for (const char* folder : {"", "audio", "cache"}) CHECK_FALSE(fs::exists(temporary / folder / ours));
  CHECK(fs::exists(temporary / "exports" / ours));
  for (const char* folder : {"", "audio"})
    for (const std::string& name : others) {
      INFO(folder << "/" << name);
      CHECK(fs::exists(temporary / folder / name));
    }
  CHECK(fs::exists(temporary / "audio" / ".folder.0123456789abcdef.new"));
  // The names it makes are such names.
  for (const char* name : {"a", "session.json"}) {
    const fs::path made = temporary / SessionDisk::temporaryName(name);
    put(made);
    disk.removeStrays();
    CHECK_FALSE(fs::exists(made));
  }
}

TEST_CASE(
    "Where something came to the place meanwhile, it stays, the reason is told, and nothing is left over") {
  const TemporaryFolder temporary;
  fs::create_directory(temporary / "s");
  fs::create_directory(temporary / "out");
  const SessionDisk session(temporary / "s");
  put(temporary / "source", "new");
  for (const auto existing : {OutputFile::Existing::Refused, OutputFile::Existing::Replaced}) {
    const bool refused = existing == OutputFile::Existing::Refused;
    const fs::path place = temporary / "out" / (refused ? "a.wav" : "b.wav");
    {
      OutputFile file(session, place, existing);
      put(place, "others");
      if (refused)
        CHECK_THROWS_WITH(
            file.keepCopyOf(openAnywhere(temporary / "source")),
            "\"" + place.string() + "\" is there already, and nothing is replaced; choose another place.");
      else
        file.keepCopyOf(openAnywhere(temporary / "source"));
    }
    CHECK(content(place) == (refused ? "others" : "new"));
  }
  {
    OutputFile file(session, temporary / "out" / "c.wav", OutputFile::Existing::Refused);
    file.keepCopyOf(openAnywhere(temporary / "source"));
  }
  CHECK(content(temporary / "out" / "c.wav") == "new");
  CHECK(std::distance(fs::directory_iterator(temporary / "out"), {}) == 3);
  // Where the folder is gone there is another reason.
  OutputFile file(session, temporary / "out" / "d.wav", OutputFile::Existing::Refused);
  const OpenFile source = openAnywhere(temporary / "source");
  fs::remove_all(temporary / "out");
  CHECK_THROWS_AS(file.keepCopyOf(source), Error);
}

TEST_CASE("A session can be locked by one at a time, and only by a file") {
  const TemporaryFolder temporary;
  using Locked = SessionDisk::Locked;
  const SessionDisk one(temporary.path());
  CHECK(one.lock() == Locked::Yes);
  CHECK(SessionDisk(temporary.path()).lock() == Locked::Elsewhere);
  const TemporaryFolder piped;
  REQUIRE(::mkfifo((piped / ".lock").c_str(), 0644) == 0);
  CHECK(SessionDisk(piped.path()).lock() == Locked::Impossible);
  const TemporaryFolder nested;
  fs::create_directory(nested / ".lock");
  CHECK(SessionDisk(nested.path()).lock() == Locked::Impossible);
}

TEST_CASE("Empty audio that nobody needs is removed on opening; what holds sound, or is none, stays") {
  const TemporaryFolder temporary;
  SessionFolder folder = sessionWithLanes(temporary / "s", {noise(500, 1)});
  const fs::path audio = temporary / "s" / "audio";
  put(audio / "a-none.wav", "");
  put(audio / "b-notes.wav", "letters");
  put(audio / "c-none.wav", "");
  writeWave(audio / "d-silent.wav", {Samples{}});
  writeWave(audio / "e-short.wav", {Samples(3, 0.5F)});
  writeWave(audio / "f-long.wav", {noise(5000, 2)});
  put(audio / "g-none.flac", "");
  std::ofstream(audio / "h-head.wav", std::ios::binary) << waveHead(1, 16, 2, 0);
  put(audio / "i-large.wav", std::string(1025, 'x'));
  removeEmptyFiles(folder.disk(), folder.session());
  std::vector<std::string> left;
  for (const auto& each : fs::directory_iterator(audio)) left.push_back(each.path().filename().string());
  std::sort(left.begin(), left.end());
  const std::string own = fs::path(folder.session().pool->front().path).filename().string();
  std::vector<std::string> wanted{"b-notes.wav", "e-short.wav", "f-long.wav",
                                  "g-none.flac", "i-large.wav", own};
  std::sort(wanted.begin(), wanted.end());
  CHECK(left == wanted);
}
