// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/pool_files.h"

#include <algorithm>
#include <map>
#include <set>

#include "core/error.h"
#include "core/store/audio_file.h"
#include "core/store/peaks_cache.h"
#include "core/store/trash.h"

namespace yewdrift {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t mostLookedAt = 100'000;

void addUsers(const Session& session, std::map<int, std::vector<FileUser>>& users) {
  for (const auto& track : session.tracks)
    for (const auto& lane : track->lanes) {
      std::set<int> files;
      for (const auto* clips : {&lane->clips, &lane->cutAway})
        for (const Clip& clip : *clips)
          for (const ChannelSource& source : clip.channels) files.insert(source.file);
      for (const int file : files) users[file].push_back({track->name, lane->number});
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
    file.format = info.format;
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
    FileOfSession file{use.path, use.inPool, use.needed, FileState::There, 0, 0, {}, {}, {}};
    Frames expected;
    if (use.inPool) {
      const PoolFile& entry = (*session.pool)[static_cast<std::size_t>(index)];
      file.channels = entry.channels;
      file.length = expected = entry.length;
      file.users = users[index];
      ++index;
    }
    lookAt(folder.disk(), file, expected);
    if (file.state != FileState::Missing || file.needed != Needed::ByNobody) files.push_back(std::move(file));
  }
  return files;
}

namespace {

/// A missing file, and what could be it.
struct Sought {
  const PoolFile* file = nullptr;
  std::vector<PeakPyramid> peaks;  // as they were; none where they were not kept
  std::vector<fs::path> sameName;
  std::vector<fs::path> otherName;
};

std::vector<Sought> soughtIn(const SessionFolder& folder) {
  std::vector<Sought> sought;
  for (const FileOfSession& file : filesOf(folder))
    if (file.state == FileState::Missing)
      for (const PoolFile& entry : *folder.session().pool)
        if (entry.path == file.path)
          sought.push_back({&entry, rememberedPeaks(folder.disk(), entry), {}, {}});
  return sought;
}

bool soundTheSame(const std::vector<PeakPyramid>& a, const std::vector<PeakPyramid>& b) {
  return std::equal(a.begin(), a.end(), b.begin(), b.end(),
                    [](const PeakPyramid& left, const PeakPyramid& right) {
                      return left.levels().front() == right.levels().front();
                    });
}

/// None where it can be read no more.
std::vector<PeakPyramid> peaksOf(const fs::path& candidate, const PoolFile& file) {
  static const std::atomic<bool> goesOn{false};
  try {
    return measurePeaks(openAnywhere(candidate), file, goesOn);
  } catch (const Error&) {
    return {};
  }
}

/// The first that sounds the same; where nothing is known of how it sounded, the first of its name, else the
/// only one.
std::optional<fs::path> chosen(const Sought& sought) {
  if (sought.peaks.empty()) {
    if (!sought.sameName.empty()) return sought.sameName.front();
    return sought.otherName.size() == 1 ? std::optional(sought.otherName.front()) : std::nullopt;
  }
  for (const auto* candidates : {&sought.sameName, &sought.otherName})
    for (const fs::path& candidate : *candidates)
      if (soundTheSame(peaksOf(candidate, *sought.file), sought.peaks)) return candidate;
  return std::nullopt;
}

}  // namespace

std::vector<FoundFile> findMissing(const SessionFolder& folder, const fs::path& where,
                                   const std::function<bool()>& goOn) {
  const auto asked = [&goOn] {
    if (goOn && !goOn()) throw Error("Looking for missing files was cancelled.");
  };
  std::error_code ignored;
  if (!fs::is_directory(where, ignored)) throw Error("There is no folder \"%1\".", where.string());
  std::vector<Sought> sought = soughtIn(folder);
  if (!sought.empty())
    forEachFile(where, [&](const fs::path& candidate) {
      asked();
      AudioFileInfo info;
      try {
        info = probeAudioFile(candidate);
      } catch (const Error&) {
        return;
      }
      for (Sought& each : sought) {
        const bool named = candidate.filename() == fs::path(each.file->path).filename();
        if (info.channels == each.file->channels && info.length == each.file->length &&
            info.rate == folder.session().rate)
          (named ? each.sameName : each.otherName).push_back(candidate);
      }
    });
  std::vector<FoundFile> found;
  for (const Sought& each : sought) {
    asked();
    if (auto place = chosen(each)) found.push_back({each.file->path, *std::move(place)});
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
