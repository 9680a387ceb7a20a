// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <vector>

#include "core/session/level.h"
#include "core/time/frames.h"

namespace yewdrift {

/// A point of a line that rides the level.
struct LevelPoint {
  Frames at;
  Decibels gain;
  bool operator==(const LevelPoint&) const = default;
};

/// Points in order of time, no two at one place. Between two of them the level goes from one to the other
/// evenly in decibels; before the first and behind the last it stays. No points: 0 dB throughout.
using LevelLine = std::vector<LevelPoint>;

Decibels levelAt(const LevelLine& line, Frames at);
/// The same as factors of `gains.size()` frames from `from` on, multiplied into `gains`. Of a frame's
/// position alone, wherever a block begins. Neither allocates nor waits.
void multiplyByLevel(std::span<const LevelPoint> line, Frames from, std::span<float> gains) noexcept;
/// The same line, so much later.
LevelLine shifted(LevelLine line, Frames by);

}  // namespace yewdrift
