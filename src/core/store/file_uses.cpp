// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/file_uses.h"

#include <sys/stat.h>

#include <algorithm>
#include <filesystem>
#include <set>

#include "core/edit/edit.h"
#include "core/error.h"
#include "core/session/limits.h"
#include "core/store/audio_file.h"

namespace yewdrift {
namespace {

void collect(const Session& session, std::set<int>& files) {
  for (const auto& track : session.tracks)
    for (const auto& lane : track->lanes)
      for (const auto* clips : {&lane->clips, &lane->cutAway})
        for (const Clip& clip : *clips)
          for (const ChannelSource& source : clip.channels) files.insert(source.file);
}

std::string trackNameFor(const Session& session, const std::string& path) {
  const std::string stem = readableText(std::filesystem::path(path).stem().string());
  std::string name = stem;
  for (int n = 2; session.trackNamed(name); ++n) name = stem + " " + std::to_string(n);
  return name;
}

}  // namespace

std::vector<FileUse> fileUses(const SessionFolder& folder) {
  const Session& session = folder.session();
  std::set<int> now;
  collect(session, now);
  std::set<int> once;
  for (const History::Step& step : folder.history().steps()) {
    if (const auto values = step->values()) {
      collect(values->before, once);
      collect(values->after, once);
    } else {
      folder.collectFiles(*step, once);
    }
  }
  std::vector<FileUse> uses;
  std::set<std::string> known;
  for (std::size_t i = 0; i < session.pool->size(); ++i) {
    const auto index = static_cast<int>(i);
    const Needed needed = now.contains(index)    ? Needed::Now
                          : once.contains(index) ? Needed::ForHistory
                                                 : Needed::ByNobody;
    uses.push_back({(*session.pool)[i].path, needed, true});
    known.insert((*session.pool)[i].path);
  }
  for (const std::string& leaf : folder.disk().list("audio"))
    if (const std::string path = "audio/" + leaf;
        leaf.front() != '.' && !known.contains(path) && folder.disk().kindOf(path) == SessionDisk::Kind::File)
      uses.push_back({path, Needed::ByNobody, false});
  return uses;
}

namespace {

bool holdsNoSound(const SessionDisk& disk, const std::string& path) {
  constexpr std::int64_t largestHeader = 1024;
  try {
    OpenFile file = disk.open(path);
    const std::int64_t bytes = stampOf(file).bytes;
    return bytes == 0 || (bytes <= largestHeader && probeAudioFile(std::move(file)).length.count == 0);
  } catch (const Error&) {
    return false;  // none of ours
  }
}

}  // namespace

void removeEmptyFiles(const SessionDisk& disk, const Session& session) {
  std::set<std::string> known;
  for (const PoolFile& file : *session.pool) known.insert(file.path);
  for (const std::string& leaf : disk.list("audio")) {
    const std::string path = "audio/" + leaf;
    if (leaf.ends_with(".wav") && !known.contains(path) && holdsNoSound(disk, path)) disk.remove(path);
  }
}

BroughtIn bringInUnneeded(const SessionFolder& folder) {
  BroughtIn brought{folder.session(), {}, 0};
  for (const FileUse& use : fileUses(folder)) {
    if (use.needed != Needed::ByNobody) continue;
    try {
      const AudioFileInfo info = probeAudioFile(folder.disk().open(use.path));
      if (info.rate != brought.session.rate)
        throw Error("\"%1\" is not at the session's rate; import it instead.", use.path);
      if (info.length.count == 0) throw Error("\"%1\" holds nothing.", use.path);
      const std::string name = trackNameFor(brought.session, use.path);
      Session next = addTrack(brought.session, name, microphonesFor(info.channels));
      const TrackId track = next.tracks.back()->id;
      next = addFileAsLane(std::move(next), track, {use.path, info.channels, info.length}, {}, name);
      checkInvariants(next);
      brought.session = std::move(next);
      ++brought.files;
      addSentence(brought.sentences, "\"%1\" is a take of the new track \"%2\".", use.path, name);
    } catch (const Error& e) {
      brought.sentences.push_back(e.sentence());
    }
  }
  return brought;
}

}  // namespace yewdrift
