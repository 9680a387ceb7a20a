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

}  // namespace yewdrift
