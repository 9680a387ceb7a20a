// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <vector>

#include "core/session/session.h"
#include "core/signal/peaks.h"
#include "core/store/session_disk.h"

namespace yewdrift {

/// The peaks of every channel of a pool file, from cache/ or made by reading the file and then cached. Stops
/// early and returns nothing when `cancelled` turns true. A missing file gives empty pyramids. Any thread.
std::vector<PeakPyramid> loadPeaks(const SessionDisk& disk, const PoolFile& file,
                                   const std::atomic<bool>& cancelled);

/// What was kept of a file that is not there any more, whatever it was replaced by; nothing where none was.
/// What was measured of another file is equal to it where that sounds the same.
std::vector<PeakPyramid> rememberedPeaks(const SessionDisk& disk, const PoolFile& file);
/// Of a file anywhere that holds so many channels and frames; nothing where it was cancelled. Throws Error
/// where it cannot be read.
std::vector<PeakPyramid> measurePeaks(OpenFile audio, const PoolFile& file,
                                      const std::atomic<bool>& cancelled);

/// Those that were measured before, and nothing where they were not: nothing is measured or written.
std::vector<PeakPyramid> cachedPeaks(const SessionDisk& disk, const PoolFile& file);

}  // namespace yewdrift
