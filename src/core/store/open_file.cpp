// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/open_file.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <system_error>

#include "core/error.h"
#include "core/store/transfer.h"

namespace yewdrift {
namespace {

std::string leafOf(const std::filesystem::path& path) {
  return path.filename().string();
}

}  // namespace

void Descriptor::close() {
  if (good()) ::close(value_);
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

Error notWritten(const std::string& name, int error) {
  if (name == "session.json") return Error("The session cannot be written: %1.", reasonOf(error));
  if (name == "steps.log") return Error("The session's history cannot be written: %1.", reasonOf(error));
  if (name == "recording.json")
    return Error("The note of what is being recorded cannot be written: %1.", reasonOf(error));
  return Error("\"%1\" cannot be written: %2.", name, reasonOf(error));
}

namespace {

Error notKept(const std::string& name, int error) {
  if (name == "session.json") return Error("The disk did not keep the session: %1.", reasonOf(error));
  if (name == "steps.log") return Error("The disk did not keep the session's history: %1.", reasonOf(error));
  if (name == "recording.json")
    return Error("The disk did not keep the note of what is being recorded: %1.", reasonOf(error));
  return Error("The disk did not keep \"%1\": %2.", name, reasonOf(error));
}

}  // namespace

void writeAll(int descriptor, const std::string& content, const std::string& what) {
  const auto all = static_cast<std::int64_t>(content.size());
  const Transfer written = writeOn(descriptor, content.data(), all);
  if (written.bytes != all) throw notWritten(what, written.error != 0 ? written.error : ENOSPC);
}

void syncOrThrow(int descriptor, const std::string& what) {
  while (::fsync(descriptor) != 0) {
    if (errno == EINTR) continue;
    if (errno == EINVAL || errno == EROFS || errno == ENOSYS) return;
    throw notKept(what, errno);
  }
}

void copyBytes(const OpenFile& from, const OpenFile& to) {
  std::string block(std::size_t{1} << 20, '\0');
  for (std::int64_t at = 0;;) {
    const Transfer got = readFrom(from.descriptor.get(), at, block.data(), std::ssize(block));
    if (got.error != 0) throw Error("\"%1\" could not be read: %2.", from.name, reasonOf(got.error));
    if (got.bytes == 0) return;
    writeAll(to.descriptor.get(), block.substr(0, static_cast<std::size_t>(got.bytes)), to.name);
    at += got.bytes;
  }
}

std::string readAll(const OpenFile& file, std::uintmax_t limit) {
  struct stat status {};
  if (::fstat(file.descriptor.get(), &status) != 0)
    throw Error("\"%1\" cannot be read: %2.", file.name, reasonOf(errno));
  if (static_cast<std::uintmax_t>(status.st_size) > limit)
    throw Error("\"%1\" is too large to be what it should be.", file.name);
  std::string text(static_cast<std::size_t>(status.st_size), '\0');
  const Transfer got = readFrom(file.descriptor.get(), 0, text.data(), status.st_size);
  if (got.error != 0) throw Error("\"%1\" cannot be read: %2.", file.name, reasonOf(got.error));
  text.resize(static_cast<std::size_t>(got.bytes));  // it may have become shorter since
  return text;
}

FileStamp stampOf(const OpenFile& file) {
  struct stat status {};
  if (::fstat(file.descriptor.get(), &status) != 0) throw Error("\"%1\" cannot be looked at.", file.name);
  return {static_cast<std::int64_t>(status.st_size),
          static_cast<std::int64_t>(status.st_mtim.tv_sec) * 1'000'000'000 + status.st_mtim.tv_nsec};
}

}  // namespace yewdrift
