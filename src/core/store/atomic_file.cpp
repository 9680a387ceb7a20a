// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/atomic_file.h"

#include <fcntl.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <fstream>
#include <sstream>

#include "core/error.h"

namespace yewdrift {
namespace {

class Descriptor {
 public:
  Descriptor(const std::filesystem::path& path, int flags)
      : value_(::open(path.c_str(), flags | O_CLOEXEC, 0644)) {}
  ~Descriptor() {
    if (value_ >= 0) ::close(value_);
  }
  Descriptor(const Descriptor&) = delete;
  Descriptor& operator=(const Descriptor&) = delete;
  [[nodiscard]] int get() const { return value_; }
  [[nodiscard]] bool good() const { return value_ >= 0; }

 private:
  int value_;
};

[[noreturn]] void cannotWrite(const std::filesystem::path& path) {
  throw Error("\"" + path.filename().string() + "\" cannot be written in " + path.parent_path().string() +
              " (" + std::strerror(errno) + "); the session on disk is as it was.");
}

void writeAll(int descriptor, const std::string& content, const std::filesystem::path& path) {
  std::size_t done = 0;
  while (done < content.size()) {
    const ssize_t n = ::write(descriptor, content.data() + done, content.size() - done);
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) cannotWrite(path);
    done += static_cast<std::size_t>(n);
  }
  if (::fsync(descriptor) != 0) cannotWrite(path);
}

}  // namespace

void writeWhole(const std::filesystem::path& path, const std::string& content) {
  std::filesystem::path temporary = path;
  temporary += ".new";
  try {
    const Descriptor file(temporary, O_WRONLY | O_CREAT | O_TRUNC);
    if (!file.good()) cannotWrite(path);
    writeAll(file.get(), content, path);
    if (::rename(temporary.c_str(), path.c_str()) != 0) cannotWrite(path);
  } catch (...) {
    ::unlink(temporary.c_str());
    throw;
  }
  const Descriptor folder(path.parent_path(), O_RDONLY | O_DIRECTORY);
  if (folder.good()) ::fsync(folder.get());
}

std::int64_t appendSynced(const std::filesystem::path& path, const std::string& content) {
  const Descriptor file(path, O_WRONLY | O_CREAT | O_APPEND);
  if (!file.good()) cannotWrite(path);
  const off_t start = ::lseek(file.get(), 0, SEEK_END);
  writeAll(file.get(), content, path);
  return start;
}

std::string readWhole(const std::filesystem::path& path, std::uintmax_t limit) {
  std::error_code error;
  const auto size = std::filesystem::file_size(path, error);
  if (error) throw Error("\"" + path.filename().string() + "\" cannot be read.");
  if (size > limit) throw Error("\"" + path.filename().string() + "\" is too large to be what it should be.");
  std::ifstream in(path, std::ios::binary);
  std::ostringstream text;
  text << in.rdbuf();
  if (!in) throw Error("\"" + path.filename().string() + "\" cannot be read.");
  return std::move(text).str();
}

}  // namespace yewdrift
