// SPDX-License-Identifier: GPL-3.0-or-later
//
// Pairs of takes with places at which a careless hand would join them.
#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "core/time/frames.h"
#include "demo/instruments.h"

namespace yewdrift::bench {

/// Two takes of the same, at 48 kHz, and where the composite goes from one to the other and back, in turn.
struct SeamKind {
  std::string name;
  demo::Signal first;
  demo::Signal second;
  std::vector<Frames> seams;
};

/// Of every kind: instruments of the packaged sound font, speech, models of our own, other noise floors,
/// levels, rooms, breaths; and, where `recordings` holds the packages that scripts/seam_recordings.sh
/// fetches, recordings. The same seed makes the same set.
std::vector<SeamKind> makeSeams(std::uint32_t seed, const std::filesystem::path& recordings);

/// Those that need no packages: a drum, a bowed string, rooms, and a string at another level over another
/// noise floor.
std::vector<SeamKind> makeModelSeams(std::uint32_t seed);

}  // namespace yewdrift::bench
