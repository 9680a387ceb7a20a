// SPDX-License-Identifier: GPL-3.0-or-later
//
// The desktop's trash, as the Trash specification 1.0 of freedesktop.org lays it out.
#include "core/store/trash.h"

#include <sys/stat.h>
#include <unistd.h>

#include <cstdlib>
#include <ctime>
#include <optional>
#include "core/core_tests.h"

namespace {

/// A variable of the environment that is another, or none, while it lives.
class EnvironmentVariable {
 public:
  EnvironmentVariable(const char* name, const std::optional<std::string>& value) : name_(name) {
    if (const char* was = std::getenv(name)) before_ = was;
    put(value);
  }
  ~EnvironmentVariable() { put(before_); }
  EnvironmentVariable(const EnvironmentVariable&) = delete;
  EnvironmentVariable& operator=(const EnvironmentVariable&) = delete;

 private:
  void put(const std::optional<std::string>& value) const {
    if (value)
      ::setenv(name_, value->c_str(), 1);
    else
      ::unsetenv(name_);
  }
  const char* name_;
  std::optional<std::string> before_;
};

fs::path madeFile(const fs::path& path, const std::string& text) {
  fs::create_directories(path.parent_path());
  std::ofstream(path) << text;
  return path;
}

std::string trashNoteOf(const fs::path& trash, const std::string& name) {
  return content(trash / "info" / (name + ".trashinfo"));
}

}  // namespace

TEST_CASE("A file goes to the trash under its name, with a note of where it was and when") {
  const TemporaryFolder temporary;
  const EnvironmentVariable data("XDG_DATA_HOME", (temporary / "data").string());
  const fs::path trash = temporary / "data" / "Trash";
  const fs::path file = madeFile(temporary / "s" / "l\xc3\xa4ng ~take_1-a.5%.wav", "first");
  const std::time_t before = std::time(nullptr);
  const fs::path there = moveToTrash(file);
  CHECK(there == trash / "files" / file.filename());
  CHECK(content(there) == "first");
  CHECK_FALSE(fs::exists(file));
  const std::string note = trashNoteOf(trash, file.filename().string());
  const std::string place = (temporary / "s").string() + "/l%C3%A4ng%20~take_1-a.5%25.wav";
  REQUIRE(note.rfind("[Trash Info]\nPath=" + place + "\nDeletionDate=", 0) == 0);
  std::tm read{};
  REQUIRE(::strptime(note.substr(note.find("Date=") + 5).c_str(), "%Y-%m-%dT%H:%M:%S\n", &read));
  read.tm_isdst = -1;
  const std::time_t when = std::mktime(&read);
  CHECK(when >= before);
  CHECK(when <= std::time(nullptr));
  for (const fs::path& folder : {trash, trash / "files", trash / "info"})
    CHECK((fs::status(folder).permissions() & fs::perms::mask) == fs::perms::owner_all);
  // Others of its name get one of their own.
  for (const auto& [text, name] : {std::pair{"second", ".2.wav"}, {"third", ".3.wav"}}) {
    madeFile(file, text);
    const fs::path next = moveToTrash(file);
    CHECK(next.filename() == file.stem().string() + name);
    CHECK(content(next) == text);
    CHECK(trashNoteOf(trash, next.filename().string()).find(place) != std::string::npos);
  }
  CHECK(content(there) == "first");
  // One without an ending, and a link, which goes itself and not what it leads to.
  madeFile(temporary / "plain", "1");
  CHECK(moveToTrash(temporary / "plain").filename() == "plain");
  madeFile(temporary / "plain", "2");
  CHECK(moveToTrash(temporary / "plain").filename() == "plain.2");
  fs::create_symlink(madeFile(temporary / "kept", "kept"), temporary / "link");
  CHECK(fs::is_symlink(moveToTrash(temporary / "link")));
  CHECK(content(temporary / "kept") == "kept");
}

TEST_CASE("What the trash does not take stays where it is, and leaves no note") {
  const TemporaryFolder temporary;
  const EnvironmentVariable data("XDG_DATA_HOME", (temporary / "data").string());
  const fs::path trash = temporary / "data" / "Trash";
  CHECK_THROWS_WITH(moveToTrash(temporary / "none"), Catch::Contains("none"));
  CHECK_FALSE(fs::exists(trash));
  // Somebody else's file of that name lies there, without a note.
  const fs::path file = madeFile(temporary / "take.wav", "mine");
  madeFile(trash / "files" / "take.wav", "theirs");
  CHECK_THROWS_WITH(moveToTrash(file), Catch::Contains("could not be moved to the trash"));
  CHECK(content(file) == "mine");
  CHECK(content(trash / "files" / "take.wav") == "theirs");
  CHECK(fs::is_empty(trash / "info"));
  // No trash can be made.
  madeFile(temporary / "file", "a file");
  const EnvironmentVariable other("XDG_DATA_HOME", (temporary / "file").string());
  CHECK_THROWS_AS(moveToTrash(file), Error);
  CHECK(content(file) == "mine");
}
