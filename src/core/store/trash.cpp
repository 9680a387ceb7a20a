// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/trash.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstdlib>
#include <ctime>
#include <string>

#include "core/error.h"
#include "core/store/open_file.h"

namespace yewdrift {
namespace {

namespace fs = std::filesystem;

dev_t deviceOf(const fs::path& path) {
  struct stat status {};
  if (::lstat(path.c_str(), &status) != 0)
    throw Error("\"%1\" cannot be looked at: %2.", path.string(), reasonOf(errno));
  return status.st_dev;
}

/// As in an address: the specification asks for it.
std::string percentEncoded(const std::string& path) {
  constexpr const char* digits = "0123456789ABCDEF";
  constexpr std::string_view plain = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789/-_.~";
  std::string text;
  for (const char c : path) {
    const auto byte = static_cast<unsigned char>(c);
    if (plain.find(c) != std::string_view::npos)
      text += c;
    else
      text += {'%', digits[byte >> 4U], digits[byte & 15U]};
  }
  return text;
}

fs::path homeTrash() {
  const char* const data = std::getenv("XDG_DATA_HOME");
  if (data && *data == '/') return fs::path(data) / "Trash";
  const char* const home = std::getenv("HOME");
  if (!home || *home != '/') throw Error("There is no trash: it is not known where your home is.");
  return fs::path(home) / ".local/share/Trash";
}

void makeFolders(const fs::path& trash) {
  std::error_code failed;
  fs::create_directories(trash.parent_path(), failed);
  for (const fs::path& folder : {trash, trash / "files", trash / "info"})
    if (::mkdir(folder.c_str(), 0700) != 0 && errno != EEXIST)
      throw Error("There is no trash at \"%1\": %2.", trash.string(), reasonOf(errno));
}

/// The highest folder on the same disk.
fs::path topOf(const fs::path& file, dev_t device) {
  fs::path top = file.parent_path();
  while (top.has_relative_path() && deviceOf(top.parent_path()) == device) top = top.parent_path();
  return top;
}

std::string now() {
  const std::time_t time = std::time(nullptr);
  std::tm local{};
  ::localtime_r(&time, &local);
  char text[32];
  return {text, std::strftime(text, sizeof text, "%Y-%m-%dT%H:%M:%S", &local)};
}

/// A note on a file that has a name of its own in the trash, made exclusively.
struct Note {
  fs::path path;
  std::string name;
};
Note makeNote(const fs::path& trash, const fs::path& file, const std::string& original) {
  const std::string content =
      "[Trash Info]\nPath=" + percentEncoded(original) + "\nDeletionDate=" + now() + "\n";
  for (int n = 1; n < 100'000; ++n) {
    const std::string name = n == 1
                                 ? file.filename().string()
                                 : file.stem().string() + "." + std::to_string(n) + file.extension().string();
    const fs::path path = trash / "info" / (name + ".trashinfo");
    const Descriptor made(::open(path.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, 0600));
    if (!made.good() && errno == EEXIST) continue;
    if (!made.good()) throw Error("The trash does not take \"%1\": %2.", name, reasonOf(errno));
    writeAll(made.get(), content, path.filename().string());
    return {path, name};
  }
  throw Error("The trash does not take \"%1\".", file.filename().string());
}

}  // namespace

fs::path moveToTrash(const fs::path& place) {
  const fs::path file = fs::absolute(place).lexically_normal();
  const dev_t device = deviceOf(file);
  fs::path trash = homeTrash();
  std::string original = file.string();
  std::error_code ignored;
  fs::create_directories(trash.parent_path(), ignored);
  if (deviceOf(trash.parent_path()) != device) {
    const fs::path top = topOf(file, device);
    trash = top / (".Trash-" + std::to_string(::getuid()));
    original = file.lexically_relative(top).string();
  }
  makeFolders(trash);
  const Note note = makeNote(trash, file, original);
  fs::path to = trash / "files" / note.name;
  if (::renameat2(AT_FDCWD, file.c_str(), AT_FDCWD, to.c_str(), RENAME_NOREPLACE) != 0) {
    const int error = errno;
    ::unlink(note.path.c_str());
    throw Error("\"%1\" could not be moved to the trash: %2.", file.string(), reasonOf(error));
  }
  return to;
}

}  // namespace yewdrift
