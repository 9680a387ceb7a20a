// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <string>

#include "core/edit/edit.h"
#include "core/error.h"
#include "core/store/audio_file.h"
#include "core/store/session_folder.h"

namespace yewdrift::fuzz {

namespace fs = std::filesystem;

inline std::string textOf(const std::uint8_t* data, std::size_t size) {
  return {reinterpret_cast<const char*>(data), size};
}

/// A folder in memory for this process, emptied.
inline fs::path scratch() {
  static const fs::path folder = [] {
    std::string pattern = "/dev/shm/yewdrift-fuzz-XXXXXX";
    return fs::path(::mkdtemp(pattern.data()));
  }();
  fs::remove_all(folder / "s");
  return folder / "s";
}

inline void put(const fs::path& path, const std::string& content) {
  std::ofstream(path, std::ios::binary | std::ios::trunc) << content;
}

/// A track of two takes in which some were picked.
inline Session someSession() {
  Session session = addTrack(Session{}, "Viola", microphonesFor(1));
  const TrackId id = session.tracks.front()->id;
  for (int i = 0; i < 2; ++i)
    session =
        addFileAsLane(std::move(session), id, {"audio/t" + std::to_string(i) + ".wav", 1, {4000}}, {}, "");
  session = pick(std::move(session), id, {{100}, {900}}, LaneNumber{1});
  session = setJoin(std::move(session), id, {900}, {{30}, {40}, Curve::S});
  return addMarker(std::move(session), {500}, "Lantern");
}

}  // namespace yewdrift::fuzz
