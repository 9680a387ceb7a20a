// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <filesystem>

#include "core/store/session_folder.h"

namespace yewdrift::bench {

/// A session under the system's folder for temporary files, made once a process and kept for the next run.
std::filesystem::path workFolder();

struct BigSession {
  std::string name;
  int tracks = 1;
  int lanesPerTrack = 8;
  double seconds = 300.0;
  int pieces = 200;      // picked in each track, alternating between lanes
  bool ownFiles = true;  // every lane its own file; else all share one
};
SessionFolder makeBigSession(const BigSession& what);

}  // namespace yewdrift::bench
