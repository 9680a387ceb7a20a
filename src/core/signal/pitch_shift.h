// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <functional>

#include "core/session/level.h"
#include "core/time/frames.h"

namespace yewdrift {

/// What is shifted, and where it goes; one pointer a channel.
struct PitchShift {
  int channels = 1;
  SampleRate rate;
  Frames length;
  Cents by;
  /// Fills [at, at + count) of the signal; called for the whole of it twice, in order.
  std::function<void(Frames at, int count, float* const* into)> read;
  /// What comes out, in order.
  std::function<void(const float* const* samples, int count)> write;
  /// The share done, 0 to 1; false breaks it off.
  std::function<bool(double)> progress;
};

/// By Rubber Band's finer engine, offline, all channels together. As many frames come out as went in, and
/// what happens in them happens at the same time. False where it was broken off.
bool shiftPitch(const PitchShift& shift);

}  // namespace yewdrift
