// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <set>
#include <string>
#include <vector>

#include "core/plan/derived_sources.h"
#include "core/store/session_disk.h"

namespace yewdrift {

/// A pool file at another pitch.
struct PitchedFile {
  PoolFile file;
  Cents by;
};
/// All that a track's composite, or its lanes, need to be heard at the pitch they are set to; each once.
std::vector<PitchedFile> pitchedFilesOf(const Session& session, const Track& track);
std::vector<PitchedFile> pitchedFilesOf(const Session& session);

/// Pool files at other pitches, kept in cache/ under a name made from what they were made of: where a file or
/// its pitch is another, so is the name.
class PitchedFiles : public DerivedSources {
 public:
  explicit PitchedFiles(SessionDisk disk) : disk_(std::move(disk)) {}

  /// Whether it is there. Any thread.
  [[nodiscard]] static bool isMade(const SessionDisk& disk, const PitchedFile& wanted);
  /// Makes it, unless it is there. `progress` is told the share done, and breaks it off by false: then false
  /// is returned, and nothing is left. Throws Error where the file cannot be read or the disk is full. Any
  /// thread.
  static bool make(const SessionDisk& disk, SampleRate rate, const PitchedFile& wanted,
                   const std::function<bool(double)>& progress = {});

 protected:
  std::optional<PoolFile> find(const PoolFile& file, Cents by) override;

 private:
  SessionDisk disk_;
};

}  // namespace yewdrift
