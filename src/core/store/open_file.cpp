// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/open_file.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <system_error>

#include "core/error.h"

namespace yewdrift {
namespace {

std::string leafOf(const std::filesystem::path& path) {
  return path.filename().string();
}

}  // namespace

void Descriptor::close() {
  if (value_ >= 0) ::close(value_);
  value_ = -1;
}

Sentence reasonOf(int error) {
  switch (error) {
    case ENOSPC:
      return Sentence("the disk is full");
    case EDQUOT:
      return Sentence("no more may be stored there");
    case EROFS:
      return Sentence("it can only be read");
    case EACCES:
    case EPERM:
      return Sentence("it is not permitted");
    case EIO:
      return Sentence("the disk has a fault");
    default:
      return Sentence::verbatim(std::generic_category().message(error));
  }
}

OpenFile openAnywhere(const std::filesystem::path& path) {
  // Opening a pipe would wait for somebody who writes to it.
  Descriptor file(::open(path.c_str(), O_RDONLY | O_NONBLOCK | O_NOCTTY | O_CLOEXEC));
  if (!file.good())
    throw errno == ENOENT || errno == ENOTDIR
        ? Error("The file \"%1\" is missing.", leafOf(path))
        : Error("The file \"%1\" cannot be opened: %2.", leafOf(path), reasonOf(errno));
  struct stat status {};
  if (::fstat(file.get(), &status) != 0 || !S_ISREG(status.st_mode))
    throw Error("\"%1\" is not a file.", leafOf(path));
  return {std::move(file), path.filename().string()};
}

OpenFile createAnywhere(const std::filesystem::path& path) {
  Descriptor file(::open(path.c_str(), O_RDWR | O_CREAT | O_TRUNC | O_NONBLOCK | O_NOCTTY | O_CLOEXEC, 0644));
  struct stat status {};
  if (!file.good() || ::fstat(file.get(), &status) != 0)
    throw Error("The file \"%1\" cannot be made: %2.", leafOf(path), reasonOf(errno));
  if (!S_ISREG(status.st_mode)) throw Error("\"%1\" is not a file.", leafOf(path));
  return {std::move(file), path.filename().string()};
}

void writeAll(int descriptor, const std::string& content, const std::string& what) {
  std::size_t done = 0;
  while (done < content.size()) {
    const ssize_t n = ::write(descriptor, content.data() + done, content.size() - done);
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) throw Error("\"%1\" cannot be written: %2.", what, reasonOf(n < 0 ? errno : ENOSPC));
    done += static_cast<std::size_t>(n);
  }
}

void syncOrThrow(int descriptor, const std::string& what) {
  while (::fsync(descriptor) != 0) {
    if (errno == EINTR) continue;
    if (errno == EINVAL || errno == EROFS || errno == ENOSYS) return;
    throw Error("The disk did not keep \"%1\": %2.", what, reasonOf(errno));
  }
}

void copyBytes(const OpenFile& from, const OpenFile& to) {
  std::string block(std::size_t{1} << 20, '\0');
  for (off_t at = 0;;) {
    const ssize_t n = ::pread(from.descriptor.get(), block.data(), block.size(), at);
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) throw Error("\"%1\" could not be read: %2.", from.name, reasonOf(errno));
    if (n == 0) return;
    writeAll(to.descriptor.get(), block.substr(0, static_cast<std::size_t>(n)), to.name);
    at += n;
  }
}

std::string readAll(const OpenFile& file, std::uintmax_t limit) {
  struct stat status {};
  const bool known = ::fstat(file.descriptor.get(), &status) == 0;
  if (known && static_cast<std::uintmax_t>(status.st_size) > limit)
    throw Error("\"%1\" is too large to be what it should be.", file.name);
  std::string text(known ? static_cast<std::size_t>(status.st_size) : 0, '\0');
  std::size_t done = 0;
  while (done < text.size()) {
    const ssize_t n =
        ::pread(file.descriptor.get(), text.data() + done, text.size() - done, static_cast<off_t>(done));
    if (n < 0 && errno == EINTR) continue;
    if (!known || n < 0) throw Error("\"%1\" cannot be read: %2.", file.name, reasonOf(errno));
    if (n == 0) break;  // it has become shorter since
    done += static_cast<std::size_t>(n);
  }
  text.resize(done);
  return text;
}

FileStamp stampOf(const OpenFile& file) {
  struct stat status {};
  if (::fstat(file.descriptor.get(), &status) != 0) throw Error("\"%1\" cannot be looked at.", file.name);
  return {static_cast<std::int64_t>(status.st_size),
          static_cast<std::int64_t>(status.st_mtim.tv_sec) * 1'000'000'000 + status.st_mtim.tv_nsec};
}

}  // namespace yewdrift
