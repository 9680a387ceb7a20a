// SPDX-License-Identifier: GPL-3.0-or-later
//
// Loaded before everything else into a program under test: whatever that changes in one folder is numbered,
// and at a given number the program is gone, as if the power had been cut for it, or the disk refuses.
//
//   YEWDRIFT_KILL_FOLDER  the folder; nothing outside it counts
//   YEWDRIFT_KILL_AT      the number of the call that is not made; of a write, half is. None: all are made.
//   YEWDRIFT_FAIL_AT      the number of the call that fails, and
//   YEWDRIFT_FAIL_WITH    with which error; from there on all do where YEWDRIFT_FAIL_ON is set
//   YEWDRIFT_KILL_LOG     a file that gets a line for each call: its name and the path within the folder
//   YEWDRIFT_KILL_TRACE   a file that gets all that is needed to do the same again, in order
//   YEWDRIFT_NO_COPY      where it is set, file systems cannot copy among themselves
//   YEWDRIFT_SHORT_COPY   where it is set, they copy a little at a time, and are interrupted now and then
//   YEWDRIFT_PLAIN_RENAME where it is set, file systems cannot rename without replacing (2: nor link)
//   YEWDRIFT_WRONG_COPY   where it is set, the last byte that they copied is another
#include <fcntl.h>
#include <sys/stat.h>
#include <sys/statvfs.h>
#include <sys/syscall.h>
#include <sys/uio.h>
#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <cerrno>
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

std::string placeOf(int folder, const char* path) {
  return folder == AT_FDCWD || (path && path[0] == '/') ? absolute(path) : pathOf(folder) + "/" + path;
}

const char* folderHeld() {
  return std::getenv("YEWDRIFT_KILL_FOLDER");
}

bool held(const std::string& path) {
  const char* folder = folderHeld();
  return folder && path.rfind(folder, 0) == 0;
}

std::string within(const std::string& path) {
  return held(path) ? path.substr(std::string(folderHeld()).size()) : path;
}

void appendTo(const char* variable, const std::string& line) {
  const char* name = std::getenv(variable);
  if (!name) return;
  const auto file = static_cast<int>(
      ::syscall(SYS_openat, AT_FDCWD, name, O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC, 0644));
  for (std::size_t done = 0; done < line.size();) {
    const long n = ::syscall(SYS_write, file, line.data() + done, line.size() - done);
    if (n <= 0) break;
    done += static_cast<std::size_t>(n);
  }
  ::syscall(SYS_close, file);
}

enum class Fate { Made, Killed, Failed };

Fate fateOf(const char* name, const std::string& path) {
  if (!held(path)) return Fate::Made;
  const long number = ++calls;
  appendTo("YEWDRIFT_KILL_LOG", std::string(name) + " " + within(path) + "\n");
  if (const char* at = std::getenv("YEWDRIFT_KILL_AT"); at && number == std::atol(at)) return Fate::Killed;
  const char* fails = std::getenv("YEWDRIFT_FAIL_AT");
  if (!fails) return Fate::Made;
  const bool on = std::getenv("YEWDRIFT_FAIL_ON") && number > std::atol(fails);
  if (!on && number != std::atol(fails)) return Fate::Made;
  const char* with = std::getenv("YEWDRIFT_FAIL_WITH");
  errno = with ? std::atoi(with) : EIO;
  return Fate::Failed;
}

[[noreturn]] void die() {
  ::raise(SIGKILL);
  std::abort();
}

/// False where the disk refuses.
bool allowed(const char* name, const std::string& path) {
  const Fate fate = fateOf(name, path);
  if (fate == Fate::Killed) die();
  return fate == Fate::Made;
}

void trace(const std::string& path, const std::string& line) {
  if (held(path)) appendTo("YEWDRIFT_KILL_TRACE", line + "\n");
}

std::string hex(const void* bytes, std::size_t count) {
  static const char* const digits = "0123456789abcdef";
  std::string text;
  for (std::size_t i = 0; i < count; ++i) {
    const unsigned char byte = static_cast<const unsigned char*>(bytes)[i];
    text += {digits[byte >> 4U], digits[byte & 15U]};
  }
  return text;
}

ssize_t writeAt(int descriptor, const void* bytes, std::size_t count, off_t at, bool moves) {
  const std::string path = pathOf(descriptor);
  const auto put = [&](std::size_t n) {
    return moves ? ::syscall(SYS_write, descriptor, bytes, n)
                 : ::syscall(SYS_pwrite64, descriptor, bytes, n, at);
  };
  const Fate fate = fateOf("write", path);
  if (fate == Fate::Failed) return -1;
  if (fate == Fate::Killed) {
    (void)put(count / 2);
    die();
  }
  const off_t place = moves ? static_cast<off_t>(::syscall(SYS_lseek, descriptor, 0, SEEK_CUR)) : at;
  const ssize_t n = put(count);
  if (n > 0 && held(path) && std::getenv("YEWDRIFT_KILL_TRACE"))
    trace(path, "write\t" + within(path) + "\t" + std::to_string(place) + "\t" +
                    hex(bytes, static_cast<std::size_t>(n)));
  return n;
}

int synced(int descriptor, long call) {
  const std::string path = pathOf(descriptor);
  if (!allowed("sync", path)) return -1;
  const int result = static_cast<int>(::syscall(call, descriptor));
  if (result == 0) trace(path, "sync\t" + within(path));
  return result;
}

int opened(int folder, const char* path, int flags, unsigned mode) {
  const bool makes = (flags & (O_CREAT | O_TRUNC)) != 0;
  const std::string place = makes ? placeOf(folder, path) : std::string();
  if (makes && !allowed("make", place)) return -1;
  struct stat before {};
  const bool fresh = makes && ::fstatat(folder, path, &before, 0) != 0;
  const int result = static_cast<int>(::syscall(SYS_openat, folder, path, flags, mode));
  if (result >= 0 && fresh) trace(place, "make\t" + within(place));
  return result;
}

int renamed(int fromFolder, const char* from, int toFolder, const char* to, unsigned flags) {
  const std::string place = placeOf(toFolder, to);
  const std::string was = placeOf(fromFolder, from);
  if ((flags & RENAME_NOREPLACE) != 0 && std::getenv("YEWDRIFT_PLAIN_RENAME")) {
    errno = EINVAL;
    return -1;
  }
  const char* const name = (flags & RENAME_EXCHANGE) != 0 ? "exchange" : "rename";
  if (!allowed(name, place)) return -1;
  const int result = static_cast<int>(::syscall(SYS_renameat2, fromFolder, from, toFolder, to, flags));
  if (result == 0 && held(place)) trace(place, std::string(name) + "\t" + within(was) + "\t" + within(place));
  return result;
}

int removed(int folder, const char* path, int flags) {
  const std::string place = placeOf(folder, path);
  if (!allowed("remove", place)) return -1;
  const int result = static_cast<int>(::syscall(SYS_unlinkat, folder, path, flags));
  if (result == 0 && held(place)) trace(place, "remove\t" + within(place));
  return result;
}

}  // namespace

extern "C" {

ssize_t write(int descriptor, const void* bytes, size_t count) {
  return writeAt(descriptor, bytes, count, 0, true);
}

ssize_t pwrite64(int descriptor, const void* bytes, size_t count, off_t at) {
  return writeAt(descriptor, bytes, count, at, false);
}

ssize_t pwrite(int descriptor, const void* bytes, size_t count, off_t at) {
  return writeAt(descriptor, bytes, count, at, false);
}

ssize_t copy_file_range(int from, off64_t* fromAt, int to, off64_t* toAt, size_t count, unsigned flags) {
  const std::string path = pathOf(to);
  if (std::getenv("YEWDRIFT_NO_COPY")) {
    errno = EXDEV;
    return -1;
  }
  if (std::getenv("YEWDRIFT_SHORT_COPY")) {
    static std::atomic<int> turns{0};
    if (++turns % 3 == 0) {
      errno = EINTR;
      return -1;
    }
    count = std::min<std::size_t>(count, 1001);
  }
  const Fate fate = fateOf("write", path);
  if (fate == Fate::Failed) return -1;
  const auto copy = [&](std::size_t n) {
    return static_cast<ssize_t>(::syscall(SYS_copy_file_range, from, fromAt, to, toAt, n, flags));
  };
  if (fate == Fate::Killed) {
    (void)copy(count / 2);
    die();
  }
  const auto place = toAt ? *toAt : static_cast<off64_t>(::syscall(SYS_lseek, to, 0, SEEK_CUR));
  const ssize_t n = copy(count);
  if (n <= 0) return n;
  if (std::getenv("YEWDRIFT_WRONG_COPY")) {
    char last = 0;
    ::syscall(SYS_pread64, to, &last, 1, place + n - 1);
    last = static_cast<char>(last ^ 0x40);
    ::syscall(SYS_pwrite64, to, &last, 1, place + n - 1);
  }
  if (held(path) && std::getenv("YEWDRIFT_KILL_TRACE")) {
    std::string bytes(static_cast<std::size_t>(n), '\0');
    ::syscall(SYS_pread64, to, bytes.data(), bytes.size(), place);
    trace(path,
          "write\t" + within(path) + "\t" + std::to_string(place) + "\t" + hex(bytes.data(), bytes.size()));
  }
  return n;
}

int fsync(int descriptor) {
  return synced(descriptor, SYS_fsync);
}

int fdatasync(int descriptor) {
  return synced(descriptor, SYS_fdatasync);
}

/// Room on the disk: YEWDRIFT_ROOM bytes.
int fstatvfs(int, struct statvfs* status) {
  const char* const room = std::getenv("YEWDRIFT_ROOM");
  *status = {};
  status->f_frsize = 1;
  status->f_bavail = room ? std::strtoull(room, nullptr, 10) : std::uint64_t{1} << 40;
  return 0;
}

int fstatvfs64(int descriptor, struct statvfs64* status) {
  return fstatvfs(descriptor, reinterpret_cast<struct statvfs*>(status));
}

int ftruncate(int descriptor, off_t length) {
  const std::string path = pathOf(descriptor);
  if (!allowed("truncate", path)) return -1;
  const int result = static_cast<int>(::syscall(SYS_ftruncate, descriptor, length));
  if (result == 0 && held(path)) trace(path, "truncate\t" + within(path) + "\t" + std::to_string(length));
  return result;
}

int ftruncate64(int descriptor, off_t length) {
  return ftruncate(descriptor, length);
}

int rename(const char* from, const char* to) {
  return renamed(AT_FDCWD, from, AT_FDCWD, to, 0);
}

int renameat(int fromFolder, const char* from, int toFolder, const char* to) {
  return renamed(fromFolder, from, toFolder, to, 0);
}

int renameat2(int fromFolder, const char* from, int toFolder, const char* to, unsigned flags) {
  return renamed(fromFolder, from, toFolder, to, flags);
}

int linkat(int fromFolder, const char* from, int toFolder, const char* to, int flags) {
  if (const char* plain = std::getenv("YEWDRIFT_PLAIN_RENAME"); plain && *plain == '2') {
    errno = EPERM;
    return -1;
  }
  return static_cast<int>(::syscall(SYS_linkat, fromFolder, from, toFolder, to, flags));
}

int link(const char* from, const char* to) {
  return linkat(AT_FDCWD, from, AT_FDCWD, to, 0);
}

int unlink(const char* path) {
  return removed(AT_FDCWD, path, 0);
}

int unlinkat(int folder, const char* path, int flags) {
  return removed(folder, path, flags);
}

int mkdirat(int folder, const char* path, mode_t mode) {
  const std::string place = placeOf(folder, path);
  if (!allowed("folder", place)) return -1;
  const int result = static_cast<int>(::syscall(SYS_mkdirat, folder, path, mode));
  if (result == 0 && held(place)) trace(place, "folder\t" + within(place));
  return result;
}

int openat64(int folder, const char* path, int flags, ...) {
  va_list arguments;
  va_start(arguments, flags);
  const auto mode =
      (flags & O_CREAT) != 0 || (flags & O_TMPFILE) == O_TMPFILE ? va_arg(arguments, unsigned) : 0U;
  va_end(arguments);
  return opened(folder, path, flags, mode);
}

int openat(int folder, const char* path, int flags, ...) {
  va_list arguments;
  va_start(arguments, flags);
  const auto mode =
      (flags & O_CREAT) != 0 || (flags & O_TMPFILE) == O_TMPFILE ? va_arg(arguments, unsigned) : 0U;
  va_end(arguments);
  return opened(folder, path, flags, mode);
}

int open64(const char* path, int flags, ...) {
  va_list arguments;
  va_start(arguments, flags);
  const auto mode = (flags & O_CREAT) != 0 ? va_arg(arguments, unsigned) : 0U;
  va_end(arguments);
  return opened(AT_FDCWD, path, flags, mode);
}

int open(const char* path, int flags, ...) {
  va_list arguments;
  va_start(arguments, flags);
  const auto mode = (flags & O_CREAT) != 0 ? va_arg(arguments, unsigned) : 0U;
  va_end(arguments);
  return opened(AT_FDCWD, path, flags, mode);
}

}  // extern "C"
