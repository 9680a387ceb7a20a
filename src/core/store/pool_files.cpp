// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/pool_files.h"

#include <algorithm>
#include <map>

#include "core/error.h"
#include "core/store/audio_file.h"
#include "core/store/trash.h"

namespace yewdrift {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t mostLookedAt = 100'000;

void addUsers(const Session& session, std::map<int, std::vector<FileUser>>& users) {
  for (const auto& track : session.tracks)
    for (const auto& lane : track->lanes) {
      std::vector<int> known;
      for (const auto* clips : {&lane->clips, &lane->cutAway})
        for (const Clip& clip : *clips)
          for (const ChannelSource& source : clip.channels) {
            if (std::find(known.begin(), known.end(), source.file) != known.end()) continue;
            known.push_back(source.file);
            users[source.file].push_back({track->name, lane->number});
          }
    }
}

/// What is there of a file that should have so many frames.
void lookAt(const SessionDisk& disk, FileOfSession& file, Frames expected) {
  try {
    if (!disk.has(file.path)) {
      file.state = FileState::Missing;
      return;
    }
    OpenFile open = disk.open(file.path);
    file.bytes = static_cast<std::uint64_t>(stampOf(open).bytes);
    const AudioFileInfo info = probeAudioFile(std::move(open));
    file.channels = info.channels;
    file.length = info.length;
    if (info.length < expected) file.state = FileState::Shorter;
  } catch (const Error&) {
    file.state = FileState::Unreadable;
  }
}

/// Calls `each` with every regular file below `where`, in order of name.
template <typename Each>
void forEachFile(const fs::path& where, Each each) {
  std::error_code failed;
  std::vector<fs::path> files;
  fs::recursive_directory_iterator at(where, fs::directory_options::skip_permission_denied, failed);
  if (failed) throw Error("The folder \"%1\" cannot be read.", where.string());
  for (const fs::recursive_directory_iterator end; at != end && files.size() < mostLookedAt;
       at.increment(failed)) {
    if (failed) break;
    std::error_code ignored;
    if (at->symlink_status(ignored).type() == fs::file_type::regular) files.push_back(at->path());
  }
  std::sort(files.begin(), files.end());
  for (const fs::path& file : files) each(file);
}

}  // namespace

std::vector<FileOfSession> filesOf(const SessionFolder& folder) {
  const Session& session = folder.session();
  std::map<int, std::vector<FileUser>> users;
  addUsers(session, users);
  std::vector<FileOfSession> files;
  int index = 0;
  for (const FileUse& use : fileUses(folder)) {
    FileOfSession file{use.path, use.inPool, use.needed, FileState::There, 0, 0, {}, {}};
    Frames expected;
    if (use.inPool) {
      const PoolFile& entry = (*session.pool)[static_cast<std::size_t>(index)];
      file.channels = entry.channels;
      file.length = expected = entry.length;
      file.users = users[index];
      ++index;
    }
    lookAt(folder.disk(), file, expected);
    if (file.state == FileState::Missing && file.needed == Needed::ByNobody) continue;
    files.push_back(std::move(file));
  }
  return files;
}

std::vector<FoundFile> findMissing(const SessionFolder& folder, const fs::path& where) {
  const Session& session = folder.session();
  std::error_code ignored;
  if (!fs::is_directory(where, ignored)) throw Error("There is no folder \"%1\".", where.string());
  std::vector<const PoolFile*> missing;
  for (const FileOfSession& file : filesOf(folder))
    if (file.state == FileState::Missing)
      for (const PoolFile& entry : *session.pool)
        if (entry.path == file.path) missing.push_back(&entry);
  std::map<const PoolFile*, fs::path> byName;
  std::map<const PoolFile*, std::vector<fs::path>> byLength;
  if (!missing.empty())
    forEachFile(where, [&](const fs::path& candidate) {
      AudioFileInfo info;
      try {
        info = probeAudioFile(candidate);
      } catch (const Error&) {
        return;
      }
      for (const PoolFile* file : missing) {
        if (info.channels != file->channels || info.length != file->length || info.rate != session.rate)
          continue;
        if (candidate.filename() == fs::path(file->path).filename())
          byName.emplace(file, candidate);
        else
          byLength[file].push_back(candidate);
      }
    });
  std::vector<FoundFile> found;
  for (const PoolFile* file : missing) {
    if (byName.contains(file))
      found.push_back({file->path, byName[file]});
    else if (byLength[file].size() == 1)
      found.push_back({file->path, byLength[file].front()});
  }
  return found;
}

void putBack(const SessionDisk& disk, const FoundFile& file) {
  const OpenFile from = openAnywhere(file.found);
  const std::string working = SessionDisk::temporaryName(file.path);
  try {
    const OpenFile to = disk.create(working);
    copyBytes(from, to);
    syncOrThrow(to.descriptor.get(), file.path);
    if (!disk.rename(working, file.path))
      throw Error("\"%1\" is there already, and nothing is replaced.", file.path);
  } catch (...) {
    disk.remove(working);
    throw;
  }
}

std::vector<std::string> trashUnneeded(const SessionFolder& folder) {
  folder.requireWritable();
  std::vector<std::string> gone;
  for (const FileOfSession& file : filesOf(folder)) {
    if (file.needed != Needed::ByNobody) continue;
    moveToTrash(folder.disk().path() / file.path);
    gone.push_back(file.path);
  }
  return gone;
}

}  // namespace yewdrift
