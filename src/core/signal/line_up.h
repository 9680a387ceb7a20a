// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <functional>
#include <span>
#include <vector>

#include "core/time/frames.h"

namespace yewdrift {

/// By how much a take is to be moved to lie over another.
struct LineUp {
  Frames offset;          ///< to be added to its position: positive where it lies early
  double sureness = 0.0;  ///< 0 to 1
  /// The very same performance, heard by another microphone or recorded twice: then the offset is good to the
  /// frame; else it is that of what begins in both, to a few milliseconds.
  bool samePerformance = false;
};

/// Below that an offset is a guess, and is not applied without being looked at.
inline constexpr double leastSureness = 0.3;

/// What is compared, read stretch by stretch: takes may last for hours.
struct ReadSignal {
  Frames length;
  std::function<std::vector<float>(Span)> read;  ///< within [0, length)
};

/// Compares `take` with `reference`, which begin at the same position; looks for offsets up to `within`
/// either way; what seems to lie further off is not found. First the waves themselves, by generalized
/// cross-correlation with phase transform (Knapp and Carter, IEEE Trans. ASSP 24, 1976), which neither
/// another gain nor a room's response misleads; where these are not alike, how the level rises in the ear's
/// bands. Time n·log n; at most two minutes are looked at and held in memory, those in which both are
/// loudest. Nothing is found where it is cancelled, which any thread may tell; it counts before the next
/// second that is read and the next transform.
LineUp lineUp(const ReadSignal& reference, const ReadSignal& take, Frames within, SampleRate rate,
              const std::atomic<bool>* cancelled = nullptr);
/// The same of what is in memory.
LineUp lineUp(std::span<const float> reference, std::span<const float> take, Frames within, SampleRate rate);

/// The same against fixed times, such as beats: onsets of the take against the nearest of them.
LineUp lineUpOnsets(std::span<const Frames> onsets, const std::function<Frames(Frames)>& nearest,
                    Frames within);

}  // namespace yewdrift
