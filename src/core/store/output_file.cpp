// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/output_file.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>

#include "core/error.h"

namespace yewdrift {

namespace fs = std::filesystem;

OutputFile::OutputFile(const SessionDisk& session, const fs::path& place) {
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
  if (::rename(working_.c_str(), place_.c_str()) != 0)
    throw Error("The file \"%1\" cannot be put in its place: %2.", place_.filename().string(),
                reasonOf(errno));
  working_.clear();
  const Descriptor folder(::open(place_.parent_path().c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
  if (folder.good()) syncOrThrow(folder.get(), place_.filename().string());
}

}  // namespace yewdrift
