// SPDX-License-Identifier: GPL-3.0-or-later
//
// Sessions that somebody sends: whatever lies in the folder under whatever name, nothing outside it is read
// as if it were inside, and nothing outside it is written.
#define XXH_INLINE_ALL
#include <sys/stat.h>
#include <unistd.h>
#include <xxhash.h>

#include <cstdio>
#include <nlohmann/json.hpp>
#include "core/core_tests.h"

using Access = SessionFolder::Access;

namespace {

/// The log, of which one step says something else, with a checksum that holds.
std::string withStep(const std::string& log, int id, const std::string& said, const std::string& says) {
  const std::size_t begins = log.find("step " + std::to_string(id) + " ");
  const std::size_t ends = std::min(log.find("\n\x1e", begins), log.size() - 1);
  std::string step = log.substr(begins, ends - begins);
  const std::size_t at = step.find(said);
  REQUIRE(at != std::string::npos);
  step.replace(at, said.size(), says);
  // The length of its body is the last but the label that stands in its first line.
  const std::size_t lineEnd = step.find('\n');
  const std::size_t label = step.rfind(" \"", lineEnd);
  const std::size_t length = step.rfind(' ', label - 1) + 1;
  step.replace(length, label - length, std::to_string(step.size() - lineEnd - 1));
  char sum[17];
  std::snprintf(sum, sizeof sum, "%016llx",
                static_cast<unsigned long long>(XXH3_64bits(step.data(), step.size())));
  return log.substr(0, begins - 17) + sum + " " + step + log.substr(ends);
}

/// A session, and next to it a file that is none of its business.
struct Sent {
  Sent() {
    sessionWithLanes(session, {noise(4000, 1), noise(4000, 2)});
    std::ofstream(victim) << "letters";
    fs::create_directories(victims);
    writeWave(victims / "private.wav", {noise(4000, 3)});
    privateAudio = content(victims / "private.wav");
  }
  void put(const std::string& name, const fs::path& target) const {
    fs::remove_all(session / name);
    fs::create_directories((session / name).parent_path());
    fs::create_symlink(target, session / name);
  }
  void putLog(const std::string& log) const {
    std::ofstream(session / "steps.log", std::ios::binary | std::ios::trunc) << log;
  }
  /// All that a person may do with it.
  void work() const {
    try {
      SessionFolder folder = SessionFolder::open(session, Access::WriteOrRead);
      const std::atomic<bool> cancelled{false};
      for (const PoolFile& file : *folder.session().pool) (void)loadPeaks(folder.disk(), file, cancelled);
      if (!folder.writable()) return;
      folder.commit(
          "Pick", pick(folder.session(), folder.session().tracks.front()->id, {{10}, {100}}, LaneNumber{1}));
      folder.editHistory().undo();
      folder.save();
      RecordingNote note(folder.disk());
      RecordSetup setup;
      setup.timeline.stopAt = Frames{9600};
      note.write(folder.session(), setup, {});
      note.write(folder.session(), setup, {});
      note.forget();
    } catch (const Error& e) {
      CHECK(std::string(e.what()).back() == '.');
    }
  }
  void checkUntouched() const {
    CHECK(content(victim) == "letters");
    CHECK(content(victims / "private.wav") == privateAudio);
    CHECK(std::distance(fs::directory_iterator(victims), {}) == 1);
  }

  TemporaryFolder temporary;
  fs::path session = temporary / "s";
  fs::path victim = temporary / "letters.txt";
  fs::path victims = temporary / "private";
  std::string privateAudio;
};

const std::vector<std::string> names{"session.json",
                                     "session.json.new",
                                     "steps.log",
                                     ".lock",
                                     "recording-001.json",
                                     "session-damaged-1.json",
                                     "cache/lane-001.wav.peaks",
                                     "cache/lane-001.wav.peaks.new",
                                     "audio/lane-001.wav"};

/// While it lives, the disk takes this process for another, unprivileged user. Tests that do not run as root
/// are that already.
class AnotherUser {
 public:
  AnotherUser() { REQUIRE((root_ ? seteuid(nobody) : 0) == 0); }
  ~AnotherUser() {
    if (root_) CHECK(seteuid(0) == 0);
  }
  AnotherUser(const AnotherUser&) = delete;
  AnotherUser& operator=(const AnotherUser&) = delete;

 private:
  static constexpr uid_t nobody = 65534;
  bool root_ = geteuid() == 0;
};

}  // namespace

TEST_CASE("A link in a session, whatever it is called, is never followed") {
  for (const std::string& name : names) {
    INFO(name << " is a link to a file outside");
    const Sent sent;
    sent.put(name, sent.victim);
    sent.work();
    sent.checkUntouched();
  }
  for (const std::string name : {"audio", "cache", "steps.log", ".lock", "performer"}) {
    INFO(name << " is a link to a folder outside");
    const Sent sent;
    sent.put(name, sent.victims);
    sent.work();
    sent.checkUntouched();
  }
  // Nor does one lead to what it would play.
  const Sent sent;
  sent.put("audio/lane-001.wav", sent.victims / "private.wav");
  const SessionFolder folder = SessionFolder::open(sent.session, Access::Read);
  REQUIRE(folder.notices().size() == 1);
  CHECK_THAT(folder.notices()[0].english(), Catch::Contains("outside its own folder"));
  CHECK_THROWS_WITH(folder.disk().open("audio/lane-001.wav"), Catch::Contains("outside its own folder"));
}

TEST_CASE("What is no file where a file should be waits for nobody and is a sentence") {
  for (const std::string& name : names) {
    INFO(name << " is a pipe");
    const Sent sent;
    fs::remove_all(sent.session / name);
    fs::create_directories((sent.session / name).parent_path());
    REQUIRE(::mkfifo((sent.session / name).c_str(), 0644) == 0);
    sent.work();
    INFO(name << " is a folder");
    fs::remove_all(sent.session / name);
    fs::create_directories(sent.session / name);
    sent.work();
  }
}

TEST_CASE("Names that lead out of the folder are none") {
  const Sent sent;
  const SessionDisk disk(sent.session);
  for (const std::string& name :
       {std::string("../letters.txt"), std::string("/etc/passwd"), std::string("audio/../../letters.txt"),
        std::string(), std::string("."), std::string("audio/./x"), std::string("audio//x"),
        std::string("audio/"), std::string("a\0b", 3), std::string(20'000, 'x')}) {
    INFO(name);
    CHECK_THROWS_WITH(disk.open(name), Catch::Contains("outside its own folder"));
    CHECK_THROWS_AS(disk.create(name), Error);
    CHECK_THROWS_AS(disk.replace(name, "gone"), Error);
    CHECK_THROWS_AS(disk.remove(name), Error);
  }
  sent.checkUntouched();
}

TEST_CASE("A step that says it follows itself, or a later one, ends the history and hangs nobody") {
  const Sent sent;
  {
    SessionFolder folder = SessionFolder::open(sent.session, Access::Write);
    const TrackId id = folder.session().tracks.front()->id;
    for (int i = 0; i < 3; ++i)
      folder.commit("Pick", pick(folder.session(), id, {{i * 300}, {i * 300 + 200}}, LaneNumber{1}));
    folder.save();
  }
  const std::string good = content(sent.session / "steps.log");
  const std::string document = content(sent.session / "session.json");
  for (const int parent : {3, 4, -1}) {
    INFO("step 3 follows " << parent);
    sent.putLog(withStep(good, 3, "step 3 2 ", "step 3 " + std::to_string(parent) + " "));
    std::ofstream(sent.session / "session.json", std::ios::trunc) << document;
    {
      SessionFolder folder = SessionFolder::open(sent.session, Access::Read);
      REQUIRE(folder.notices().size() == 1);
      CHECK_THAT(folder.notices()[0].english(), Catch::Contains("damaged"));
      int undone = 0;
      for (; folder.history().undoLabel(); ++undone) folder.editHistory().undo();
      CHECK(undone == (parent < 0 ? 2 : 1));
    }
    // Nor where it has to be rebuilt: no state is at its beginning.
    fs::remove(sent.session / "session.json");
    CHECK_THROWS_AS(SessionFolder::open(sent.session, Access::Read), Error);
  }
}

TEST_CASE("What a person asks to be written never lands on the session, except in its exports") {
  const Sent sent;
  const SessionFolder folder = SessionFolder::open(sent.session, Access::Read);
  const std::string document = content(sent.session / "session.json");
  const std::string take = content(sent.session / "audio" / "lane-001.wav");
  RenderRequest request;
  const auto render = [&](const fs::path& out) {
    renderToFile(folder.disk(), folder.session(), request, out);
  };
  fs::create_symlink(sent.session / "audio" / "lane-001.wav", sent.temporary / "link.wav");
  fs::create_directory_symlink(sent.session / "audio", sent.temporary / "linked");
  for (const fs::path& out :
       {sent.session / "session.json", sent.session / "audio" / "lane-001.wav",
        sent.session / "audio" / "new.wav", sent.session / "mix.wav",
        sent.session / "exports" / ".." / "mix.wav", sent.temporary / "link.wav",
        sent.temporary / "linked" / "lane-001.wav", sent.temporary / "linked" / "new.wav"}) {
    INFO(out.string());
    CHECK_THROWS_WITH(render(out), Catch::Contains("session's own folder"));
  }
  CHECK(content(sent.session / "session.json") == document);
  CHECK(content(sent.session / "audio" / "lane-001.wav") == take);
  CHECK(std::distance(fs::directory_iterator(sent.session / "audio"), {}) == 2);
  fs::create_directory(sent.session / "exports");
  CHECK_NOTHROW(render(sent.session / "exports" / "mix.wav"));
  CHECK(readWave(sent.session / "exports" / "mix.wav").size() == 2);
  // Nor on what is no file.
  REQUIRE(::mkfifo((sent.temporary / "pipe").c_str(), 0644) == 0);
  CHECK_THROWS_WITH(render(sent.temporary / "pipe"), Catch::Contains("not a file"));
  CHECK_THROWS_WITH(render("/dev/null"), Catch::Contains("not a file"));
  CHECK_THROWS_AS(render(sent.temporary / "nowhere" / "mix.wav"), Error);
  // A file that is there is replaced whole, or stays.
  std::ofstream(sent.temporary / "there.wav") << "before";
  {
    const FullDisk full(100);
    CHECK_THROWS_AS(render(sent.temporary / "there.wav"), Error);
  }
  CHECK(content(sent.temporary / "there.wav") == "before");
  render(sent.temporary / "there.wav");
  CHECK(readWave(sent.temporary / "there.wav").front().size() == 4000);
  for (const auto& entry : fs::directory_iterator(sent.temporary.path()))
    CHECK(entry.path().extension() != ".new");
}
