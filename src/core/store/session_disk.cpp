// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/session_disk.h"

#include <dirent.h>
#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <sys/statvfs.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <random>

#include "core/error.h"
#include "core/session/limits.h"

namespace yewdrift {
namespace {

namespace fs = std::filesystem;

constexpr int folderFlags = O_RDONLY | O_DIRECTORY | O_NOFOLLOW | O_CLOEXEC;
constexpr const char* temporaryEnd = ".new";

std::vector<std::string> partsOf(const std::string& name) {
  std::vector<std::string> parts(1);
  for (const char c : name) {
    if (c == '/')
      parts.emplace_back();
    else
      parts.back() += c;
  }
  return parts;
}

[[noreturn]] void leadsOut(const std::string& name) {
  throw Error("The session names a file outside its own folder (\"%1\"); it was not opened.", name);
}

std::string joined(const std::string& folder, const std::string& leaf) {
  return folder.empty() ? leaf : folder + "/" + leaf;
}

/// "<stem>-NNN.<extension>" with nothing in it that another system would stumble over.
std::string numbered(const std::string& stem, int number, const std::string& extension) {
  std::string clean;
  for (const char c : stem) {
    const bool plain =
        (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '-' || c == '_';
    clean += plain ? c : '-';
  }
  if (clean.empty()) clean = "audio";
  char digits[16];
  std::snprintf(digits, sizeof digits, "-%03d.", number);
  return clean.substr(0, 80) + digits + extension;
}

bool isTemporary(const std::string& leaf) {
  constexpr std::size_t digits = 16;
  const std::string end = temporaryEnd;
  if (leaf.size() < digits + end.size() + 3 || leaf.front() != '.' || !leaf.ends_with(end)) return false;
  const std::string number = leaf.substr(leaf.size() - end.size() - digits, digits);
  return leaf[leaf.size() - end.size() - digits - 1] == '.' &&
         number.find_first_not_of("0123456789abcdef") == std::string::npos;
}

}  // namespace

SessionDisk::SessionDisk(const fs::path& folder) : folder_(std::make_shared<Folder>()) {
  // Only here a link is followed: a person may well reach a session through one.
  folder_->descriptor = Descriptor(::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
  if (!folder_->descriptor.good())
    throw errno == ENOENT || errno == ENOTDIR
        ? Error("\"%1\" is not a session folder.", folder.string())
        : Error("The folder \"%1\" cannot be opened: %2.", folder.string(), reasonOf(errno));
  std::error_code error;
  folder_->path = fs::canonical(folder, error);
  if (error) folder_->path = fs::absolute(folder);
}

Descriptor SessionDisk::openFolder(const std::string& name, Missing missing) const {
  Descriptor at(::fcntl(folder_->descriptor.get(), F_DUPFD_CLOEXEC, 0));
  if (!at.good()) throw Error("The session's folder cannot be opened: %1.", reasonOf(errno));
  if (name.empty()) return at;
  for (const std::string& part : partsOf(name)) {
    Descriptor next(::openat(at.get(), part.c_str(), folderFlags));
    if (!next.good() && errno == ENOENT && missing == Missing::Make) {
      if (::mkdirat(at.get(), part.c_str(), 0755) != 0 && errno != EEXIST)
        throw Error("The folder \"%1\" cannot be made in the session: %2.", name, reasonOf(errno));
      next = Descriptor(::openat(at.get(), part.c_str(), folderFlags));
    }
    // A link, or a file where a folder should be.
    if (!next.good() && (errno == ELOOP || errno == ENOTDIR)) leadsOut(name);
    if (!next.good()) return next;
    at = std::move(next);
  }
  return at;
}

SessionDisk::Place SessionDisk::placeOf(const std::string& name, Missing missing) const {
  checkStaysInside(name);
  const std::size_t slash = name.rfind('/');
  const std::string folder = slash == std::string::npos ? std::string() : name.substr(0, slash);
  return {openFolder(folder, missing), slash == std::string::npos ? name : name.substr(slash + 1)};
}

OpenFile SessionDisk::openAs(const std::string& name, int flags) const {
  const Place place = placeOf(name);
  if (!place.folder.good()) throw Error("The file \"%1\" is missing.", name);
  // Not to wait for a pipe that lies in a file's place.
  Descriptor file(::openat(place.folder.get(), place.leaf.c_str(),
                           flags | O_NOFOLLOW | O_NONBLOCK | O_NOCTTY | O_CLOEXEC));
  if (!file.good() && errno == ENOENT) throw Error("The file \"%1\" is missing.", name);
  if (!file.good() && errno == ELOOP) leadsOut(name);
  if (!file.good()) throw Error("The file \"%1\" cannot be opened: %2.", name, reasonOf(errno));
  struct stat status {};
  if (::fstat(file.get(), &status) != 0 || !S_ISREG(status.st_mode))
    throw Error("\"%1\" is not a file.", name);
  return {std::move(file), name};
}

OpenFile SessionDisk::open(const std::string& name) const {
  return openAs(name, O_RDONLY);
}

OpenFile SessionDisk::openToChange(const std::string& name) const {
  return openAs(name, O_RDWR);
}

std::string SessionDisk::read(const std::string& name, std::uintmax_t limit) const {
  return readAll(open(name), limit);
}

SessionDisk::Kind SessionDisk::kindOf(const std::string& name) const {
  const Place place = placeOf(name);
  struct stat status {};
  if (!place.folder.good() ||
      ::fstatat(place.folder.get(), place.leaf.c_str(), &status, AT_SYMLINK_NOFOLLOW) != 0)
    return Kind::Nothing;
  return S_ISREG(status.st_mode) ? Kind::File : S_ISDIR(status.st_mode) ? Kind::Folder : Kind::Other;
}

std::vector<std::string> SessionDisk::list(const std::string& folder) const {
  std::vector<std::string> names;
  Descriptor descriptor = openFolder(folder, Missing::Refuse);
  if (!descriptor.good()) return names;
  // The listing has a place of its own in the folder: copies of one descriptor would share it.
  const Descriptor own(::openat(descriptor.get(), ".", folderFlags));
  DIR* const directory = ::fdopendir(::fcntl(own.get(), F_DUPFD_CLOEXEC, 0));
  if (!directory) return names;
  while (const dirent* entry = ::readdir(directory)) {  // NOLINT(concurrency-mt-unsafe): its own listing
    const std::string name = entry->d_name;
    if (name != "." && name != "..") names.push_back(name);
  }
  ::closedir(directory);
  std::sort(names.begin(), names.end());
  return names;
}

OpenFile SessionDisk::create(const std::string& name) const {
  const Place place = placeOf(name, Missing::Make);
  Descriptor file(::openat(place.folder.get(), place.leaf.c_str(),
                           O_RDWR | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, 0644));
  if (!file.good()) throw Error("\"%1\" cannot be made in the session's folder: %2.", name, reasonOf(errno));
  return {std::move(file), name};
}

SessionDisk::Named SessionDisk::createNumbered(const std::string& folder, const std::string& stem,
                                               const std::string& extension) const {
  for (int number = 1;; ++number) {
    const std::string name = joined(folder, numbered(stem, number, extension));
    if (has(name)) continue;
    try {
      return {name, create(name)};
    } catch (const Error&) {
      if (!has(name)) throw;  // else somebody was quicker
    }
  }
}

Descriptor SessionDisk::createNameless(const std::string& folder) const {
  const Descriptor in = openFolder(folder, Missing::Make);
  Descriptor file(::openat(in.get(), ".", O_TMPFILE | O_RDWR | O_CLOEXEC, 0600));
  if (file.good()) return file;
  // Not every file system has such files.
  const std::string name = joined(folder, temporaryName("tape"));
  file = create(name).descriptor;
  remove(name);
  return file;
}

void SessionDisk::replace(const std::string& name, const std::string& content, Safety safety) const {
  const Place place = placeOf(name, Missing::Make);
  const std::string temporary = temporaryName(place.leaf);
  const int at = place.folder.get();
  try {
    const Descriptor file(
        ::openat(at, temporary.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, 0644));
    if (!file.good()) throw notWritten(name, errno);
    writeAll(file.get(), content, name);
    if (safety == Safety::Synced) syncOrThrow(file.get(), name);
    if (safety == Safety::Cache) {
      if (::renameat(at, temporary.c_str(), at, place.leaf.c_str()) != 0) throw notWritten(name, errno);
      return;
    }
    // The former file is kept until the disk has the change, so that a refusal can be taken back.
    const bool exchanged = ::renameat2(at, temporary.c_str(), at, place.leaf.c_str(), RENAME_EXCHANGE) == 0;
    if (!exchanged && ::renameat(at, temporary.c_str(), at, place.leaf.c_str()) != 0)
      throw notWritten(name, errno);
    try {
      syncOrThrow(at, name);
    } catch (const Error&) {
      if (exchanged) (void)::renameat2(at, temporary.c_str(), at, place.leaf.c_str(), RENAME_EXCHANGE);
      throw;
    }
    if (exchanged) ::unlinkat(at, temporary.c_str(), 0);
  } catch (...) {
    ::unlinkat(at, temporary.c_str(), 0);
    throw;
  }
}

bool SessionDisk::rename(const std::string& from, const std::string& to) const {
  const Place old = placeOf(from);
  const Place next = placeOf(to, Missing::Make);
  if (::renameat2(old.folder.get(), old.leaf.c_str(), next.folder.get(), next.leaf.c_str(),
                  RENAME_NOREPLACE) == 0)
    return true;
  if (errno == EEXIST) return false;
  // Where the file system cannot rename without replacing, a second name does as well.
  if (errno == EINVAL || errno == ENOSYS) {
    if (::linkat(old.folder.get(), old.leaf.c_str(), next.folder.get(), next.leaf.c_str(), 0) == 0) {
      ::unlinkat(old.folder.get(), old.leaf.c_str(), 0);
      return true;
    }
    if (errno == EEXIST) return false;
  }
  throw Error("\"%1\" cannot be made in the session's folder: %2.", to, reasonOf(errno));
}

void SessionDisk::remove(const std::string& name) const {
  const Place place = placeOf(name);
  if (place.folder.good()) ::unlinkat(place.folder.get(), place.leaf.c_str(), 0);
}

void SessionDisk::makeFolder(const std::string& name) const {
  checkStaysInside(name);
  if (!openFolder(name, Missing::Make).good())
    throw Error("The folder \"%1\" cannot be made in the session: %2.", name, reasonOf(errno));
}

void SessionDisk::sync(const std::string& name) const {
  syncOrThrow(open(name).descriptor.get(), name);
}

void SessionDisk::syncFolder(const std::string& folder) const {
  const Descriptor descriptor = openFolder(folder, Missing::Refuse);
  if (descriptor.good())
    syncOrThrow(descriptor.get(), folder.empty() ? folder_->path.filename().string() : folder);
}

std::uintmax_t SessionDisk::room() const {
  struct statvfs status {};
  if (::fstatvfs(folder_->descriptor.get(), &status) != 0) return 0;
  return static_cast<std::uintmax_t>(status.f_bavail) * status.f_frsize;
}

std::string SessionDisk::temporaryName(const std::string& name) {
  std::random_device random;
  char digits[17];
  std::snprintf(digits, sizeof digits, "%08x%08x", random(), random());
  return "." + name + "." + digits + temporaryEnd;
}

void SessionDisk::removeStrays() const {
  const auto removeIn = [this](const std::string& folder) {
    for (const std::string& leaf : list(folder))
      if (isTemporary(leaf) && kindOf(joined(folder, leaf)) == Kind::File) remove(joined(folder, leaf));
  };
  removeIn("");
  // Behind a link in a folder's place is nothing of ours.
  for (const std::string folder : {"audio", "cache"})
    if (kindOf(folder) == Kind::Folder) removeIn(folder);
}

std::optional<fs::path> SessionDisk::within(const fs::path& place) const {
  struct stat own {};
  if (::fstat(folder_->descriptor.get(), &own) != 0) return std::nullopt;
  std::error_code error;
  fs::path inside;
  for (fs::path at = fs::weakly_canonical(fs::absolute(place), error); !at.empty(); at = at.parent_path()) {
    struct stat status {};
    if (::stat(at.c_str(), &status) == 0 && status.st_dev == own.st_dev && status.st_ino == own.st_ino)
      return inside;
    if (at == at.parent_path()) break;
    inside = inside.empty() ? at.filename() : at.filename() / inside;
  }
  return std::nullopt;
}

SessionDisk::Locked SessionDisk::lock() const {
  Descriptor file(::openat(folder_->descriptor.get(), ".lock",
                           O_RDWR | O_CREAT | O_NOFOLLOW | O_NONBLOCK | O_NOCTTY | O_CLOEXEC, 0644));
  struct stat status {};
  if (!file.good() || ::fstat(file.get(), &status) != 0 || !S_ISREG(status.st_mode))
    return Locked::Impossible;
  if (::flock(file.get(), LOCK_EX | LOCK_NB) != 0)
    return errno == EWOULDBLOCK ? Locked::Elsewhere : Locked::Impossible;
  folder_->lock = std::move(file);
  return Locked::Yes;
}

PendingFile::PendingFile(const SessionDisk& disk, const std::string& folder, const std::string& stem,
                         const std::string& extension)
    : disk_(disk),
      folder_(folder),
      stem_(stem),
      extension_(extension),
      name_(joined(folder, SessionDisk::temporaryName("file"))) {
  file_ = disk_.create(name_);
  file_.name = expectedName();  // what sentences call it
}

PendingFile::~PendingFile() {
  try {
    if (!name_.empty()) disk_.remove(name_);
  } catch (const Error&) {
    return;  // its folder is gone
  }
}

std::string PendingFile::expectedName() const {
  for (int number = 1;; ++number)
    if (std::string name = joined(folder_, numbered(stem_, number, extension_)); !disk_.has(name))
      return name;
}

std::string PendingFile::keep() {
  disk_.sync(name_);
  std::string name = expectedName();
  while (!disk_.rename(name_, name)) name = expectedName();  // somebody was quicker
  name_.clear();
  return name;
}

}  // namespace yewdrift
