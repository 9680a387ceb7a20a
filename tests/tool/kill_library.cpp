// SPDX-License-Identifier: GPL-3.0-or-later
//
// Loaded before everything else into a program under test: whatever that changes in one folder is numbered,
// and at a given number the program is gone, as if the power had been cut for it. A write may be torn.
//
//   YEWDRIFT_KILL_FOLDER  the folder; nothing outside it counts
//   YEWDRIFT_KILL_AT      the number of the call that is not made; of a write, half is. None: all are made.
//   YEWDRIFT_KILL_LOG     a file that gets a line for each call: its name and the path within the folder
#include <fcntl.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <sys/uio.h>
#include <unistd.h>

#include <atomic>
#include <csignal>
#include <cstdarg>
#include <cstdio>
#include <cstdlib>
#include <string>

namespace {

std::atomic<long> calls{0};

std::string pathOf(int descriptor) {
  char path[4096];
  const std::string link = "/proc/self/fd/" + std::to_string(descriptor);
  const ssize_t length = ::readlink(link.c_str(), path, sizeof path);
  return length > 0 ? std::string(path, static_cast<std::size_t>(length)) : std::string();
}

std::string absolute(const char* path) {
  if (!path) return {};
  if (path[0] == '/') return path;
  char here[4096];
  return ::getcwd(here, sizeof here) ? std::string(here) + "/" + path : std::string(path);
}

/// True where this is the call that is not made.
bool counted(const char* name, const std::string& path) {
  const char* folder = std::getenv("YEWDRIFT_KILL_FOLDER");
  if (!folder || path.rfind(folder, 0) != 0) return false;
  const long number = ++calls;
  if (const char* log = std::getenv("YEWDRIFT_KILL_LOG")) {
    const std::string line = std::string(name) + " " + path.substr(std::string(folder).size()) + "\n";
    const auto file = static_cast<int>(
        ::syscall(SYS_openat, AT_FDCWD, log, O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC, 0644));
    (void)::syscall(SYS_write, file, line.data(), line.size());
    ::syscall(SYS_close, file);
  }
  const char* at = std::getenv("YEWDRIFT_KILL_AT");
  return at && number == std::atol(at);
}

[[noreturn]] void die() {
  ::raise(SIGKILL);
  std::abort();
}

void orDie(const char* name, const std::string& path) {
  if (counted(name, path)) die();
}

}  // namespace

extern "C" {

ssize_t write(int descriptor, const void* bytes, size_t count) {
  if (counted("write", pathOf(descriptor))) {
    (void)::syscall(SYS_write, descriptor, bytes, count / 2);
    die();
  }
  return ::syscall(SYS_write, descriptor, bytes, count);
}

ssize_t writev(int descriptor, const iovec* parts, int count) {
  orDie("write", pathOf(descriptor));
  return ::syscall(SYS_writev, descriptor, parts, count);
}

int fsync(int descriptor) {
  orDie("sync", pathOf(descriptor));
  return static_cast<int>(::syscall(SYS_fsync, descriptor));
}

int ftruncate(int descriptor, off_t length) {
  orDie("truncate", pathOf(descriptor));
  return static_cast<int>(::syscall(SYS_ftruncate, descriptor, length));
}

int rename(const char* from, const char* to) {
  orDie("rename", absolute(to));
  return static_cast<int>(::syscall(SYS_rename, from, to));
}

int unlink(const char* path) {
  orDie("remove", absolute(path));
  return static_cast<int>(::syscall(SYS_unlink, path));
}

int remove(const char* path) {
  orDie("remove", absolute(path));
  struct stat entry {};
  const bool folder = ::lstat(path, &entry) == 0 && S_ISDIR(entry.st_mode);
  return static_cast<int>(folder ? ::syscall(SYS_rmdir, path) : ::syscall(SYS_unlink, path));
}

int open64(const char* path, int flags, ...) {
  va_list arguments;
  va_start(arguments, flags);
  const auto mode = (flags & O_CREAT) != 0 ? va_arg(arguments, unsigned) : 0U;
  va_end(arguments);
  if ((flags & (O_CREAT | O_TRUNC)) != 0) orDie("make", absolute(path));
  return static_cast<int>(::syscall(SYS_openat, AT_FDCWD, path, flags, mode));
}

int open(const char* path, int flags, ...) {
  va_list arguments;
  va_start(arguments, flags);
  const auto mode = (flags & O_CREAT) != 0 ? va_arg(arguments, unsigned) : 0U;
  va_end(arguments);
  return open64(path, flags, mode);
}

}  // extern "C"
