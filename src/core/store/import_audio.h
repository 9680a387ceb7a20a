// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <filesystem>

#include "core/store/session_folder.h"

namespace yewdrift {

/// Brings a file into the folder's audio/ and returns its description. A WAV file of ours at the session's
/// rate is copied byte for byte; anything else is decoded, and resampled where its rate differs (soxr, very
/// high quality), to 32-bit float. Throws Error and leaves nothing behind where it cannot be read.
PoolFile importAudio(const SessionFolder& folder, SampleRate rate, const std::filesystem::path& file);

}  // namespace yewdrift
