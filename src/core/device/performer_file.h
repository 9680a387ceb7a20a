// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/device/performer.h"
#include "core/store/session_disk.h"

namespace yewdrift {

/// A part of performer/performer.json in a session folder: who plays at the simulated interface's inputs.
struct PerformerFilePart {
  int firstInput = 0;
  Frames at;
  std::vector<std::string> files;  // names in performer/
};

void writePerformerFile(const SessionDisk& disk, const std::vector<PerformerFilePart>& parts);

/// A whole file as one performance. Throws Error where it cannot be read or is at another rate.
Performance readPerformance(OpenFile file, SampleRate rate);

/// The players of a session folder, their performances read into memory; none where it has no performer or it
/// cannot be read. They start over when they have played all, and let an old pass ring for half a second.
std::vector<PerformerPart> readPerformerFile(const SessionDisk& disk, SampleRate rate);

}  // namespace yewdrift
