// SPDX-License-Identifier: GPL-3.0-or-later
//
// The files of a session as people see them: what is there, who uses it, what is missing.
#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "core/store/file_uses.h"

namespace yewdrift {

struct FileUser {
  std::string track;
  LaneNumber lane;
};

enum class FileState {
  There,
  Missing,
  Shorter,     // than it was
  Unreadable,  // no audio file
};

struct FileOfSession {
  std::string path;  // in the session's folder
  bool inPool = false;
  Needed needed = Needed::ByNobody;
  FileState state = FileState::There;
  std::uint64_t bytes = 0;
  int channels = 0;
  Frames length;
  std::optional<SampleFormat> format = {};  // none where it is another than sessions record in
  std::vector<FileUser> users;              // of the present
};
/// Of the pool, and others in audio/ that nobody refers to. What the pool once had and nobody needs any more
/// is left out once it is gone. Reads all of the history, and the header of every file.
std::vector<FileOfSession> filesOf(const SessionFolder& folder);

/// A missing file and what was found in its place, outside the session.
struct FoundFile {
  std::string path;
  std::filesystem::path found;
};
/// Looks for the missing ones in a folder and those in it: of the same name and length, else the only one of
/// the same length, channels and rate that is called differently. Where the peaks of the missing one are
/// still kept, only what sounds the same is it, whatever it is called. Looks at 100,000 files at most;
/// follows no links. `goOn` is asked now and then; where it says no, Error is thrown.
std::vector<FoundFile> findMissing(const SessionFolder& folder, const std::filesystem::path& where,
                                   const std::function<bool()>& goOn = {});
/// Copies it into its place. Throws Error, and leaves nothing, where it does not fit or there is no room.
void putBack(const SessionDisk& disk, const FoundFile& file);

/// Those that neither the session nor its history needs, moved to the desktop's trash. Returns their paths in
/// the session. Throws Error where one cannot be moved; those before it are in the trash then.
std::vector<std::string> trashUnneeded(const SessionFolder& folder);

}  // namespace yewdrift
