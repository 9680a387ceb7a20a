// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/output_file.h"

#include <fcntl.h>
#include <stdio.h>  // NOLINT(modernize-deprecated-headers): renameat2 is POSIX' and not the C++ library's
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>

#include "core/error.h"

namespace yewdrift {

namespace fs = std::filesystem;

namespace {

/// Of a call that says -1 where it fails.
int errorOf(int result) {
  return result == 0 ? 0 : errno;
}

[[noreturn]] void refuseExisting(const fs::path& place) {
  throw Error("\"%1\" is there already, and nothing is replaced; choose another place.", place.string());
}

}  // namespace

OutputFile::OutputFile(const SessionDisk& session, const fs::path& place, Existing existing)
    : existing_(existing) {
  std::error_code error;
  // Through links, as a person who put them there expects.
  place_ = fs::weakly_canonical(fs::absolute(place), error);
  if (error || place.filename().empty()) throw Error("\"%1\" is no name for a file.", place.string());
  if (const auto inside = session.within(place_);
      inside && (inside->empty() || *inside->begin() != "exports"))
    throw Error(
        "\"%1\" lies in the session's own folder; write it to somewhere else, or to its folder \"exports\".",
        place.string());
  struct stat status {};
  if (existing_ == Existing::Refused && ::lstat(place.c_str(), &status) == 0) refuseExisting(place);
  if (::stat(place_.c_str(), &status) == 0 && !S_ISREG(status.st_mode))
    throw Error("\"%1\" is not a file that could be written.", place.string());
  const fs::path working = place_.parent_path() / SessionDisk::temporaryName(place_.filename().string());
  file_ = {Descriptor(::open(working.c_str(), O_RDWR | O_CREAT | O_EXCL | O_CLOEXEC, 0644)),
           place_.filename().string()};
  if (!file_.descriptor.good())
    throw Error("The file \"%1\" cannot be written there: %2.", place_.filename().string(), reasonOf(errno));
  working_ = working;
}

OutputFile::~OutputFile() {
  if (!working_.empty()) ::unlink(working_.c_str());
}

void OutputFile::keepCopyOf(const OpenFile& file) {
  copyBytes(file, file_);
  keep();
}

void OutputFile::keep() {
  const OpenFile written = openAnywhere(working_);
  syncOrThrow(written.descriptor.get(), place_.filename().string());
  takePlace();
  working_.clear();
  const Descriptor folder(::open(place_.parent_path().c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
  try {
    if (folder.good()) syncOrThrow(folder.get(), place_.filename().string());
  } catch (...) {
    if (existing_ == Existing::Refused) ::unlink(place_.c_str());  // nothing was there before
    throw;
  }
}

void OutputFile::takePlace() {
  const char* const from = working_.c_str();
  const char* const to = place_.c_str();
  const unsigned how = existing_ == Existing::Refused ? RENAME_NOREPLACE : 0;
  int error = errorOf(::renameat2(AT_FDCWD, from, AT_FDCWD, to, how));
  // File systems that do not know of that know links, or have no two programs at a time.
  if (error == EINVAL && existing_ == Existing::Refused) {
    error = errorOf(::link(from, to));
    if (error == 0) ::unlink(from);
    if (error != 0 && error != EEXIST) error = errorOf(::rename(from, to));
  }
  if (error == EEXIST) refuseExisting(place_);
  if (error != 0)
    throw Error("The file \"%1\" cannot be put in its place: %2.", place_.filename().string(),
                reasonOf(error));
}

}  // namespace yewdrift
