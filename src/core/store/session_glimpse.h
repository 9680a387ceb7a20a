// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <filesystem>
#include <string>
#include <vector>

#include "core/session/session.h"

namespace yewdrift {

/// What a stretch of a track plays: how loud, and which lane's colour it has. Where no peaks were kept of
/// what plays there, the level is `unmeasured`.
struct GlimpseColumn {
  static constexpr float unmeasured = -1.0F;
  float level = 0.0F;  // of full scale; 0 where nothing plays
  int colour = 0;      // Lane::colour() of what plays; 0 where nothing plays, `backing` on a backing track
  static constexpr int backing = -1;
  bool operator==(const GlimpseColumn&) const = default;
};

/// What a session is known by before it is opened.
struct SessionGlimpse {
  std::string name;
  double seconds = 0.0;  // from its start to the end of its material
  std::size_t tracks = 0;
  std::size_t takes = 0;  // of all tracks, backing tracks apart; those set aside not counted
  /// The first tracks, each from the session's start to its end.
  std::vector<std::vector<GlimpseColumn>> rows;
};

/// Reads it and leaves everything as it is: nothing is recovered, measured, locked or written. Any thread.
/// Throws Error where it cannot be read.
SessionGlimpse glimpse(const std::filesystem::path& folder, std::size_t columns, std::size_t rows,
                       const std::atomic<bool>& cancelled);

}  // namespace yewdrift
