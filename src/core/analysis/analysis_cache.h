// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>

#include "core/analysis/file_analysis.h"
#include "core/store/open_file.h"

namespace yewdrift {

/// What was measured of a file while it was as `stamp` says, from cache/; none where nothing was kept, or
/// what was kept is damaged.
std::optional<FileAnalysis> cachedAnalysis(const SessionDisk& disk, const PoolFile& file, SampleRate rate,
                                           const FileStamp& stamp);
/// Keeps it there; where that cannot be, it is measured again the next time.
void keepAnalysis(const SessionDisk& disk, const PoolFile& file, SampleRate rate, const FileStamp& stamp,
                  const FileAnalysis& analysis);

}  // namespace yewdrift
