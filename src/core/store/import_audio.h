// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <filesystem>
#include <functional>

#include "core/session/session.h"
#include "core/store/session_disk.h"

namespace yewdrift {

/// Called now and then with the share done, 0..1; returning false cancels.
using ImportProgress = std::function<bool(double)>;

struct Imported {
  PoolFile file;
  std::int64_t silenced = 0;  // samples that were no numbers, or infinite; they are silence now
};

/// What to say of it.
Sentence silencedSentence(const std::string& file, std::int64_t samples);

/// Brings a file of any format that the audio library reads into the session's audio/, at the session's rate:
/// a WAV file of ours as it is, bit for bit, everything else as float. What can be read counts, whatever the
/// file says of its length. Any thread. Throws Error, and leaves nothing, where it is no audio, there is no
/// room for it, or it was cancelled.
Imported importAudio(const SessionDisk& disk, SampleRate rate, const std::filesystem::path& file,
                     const ImportProgress& progress = {});

}  // namespace yewdrift
