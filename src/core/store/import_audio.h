// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <filesystem>
#include <functional>
#include <vector>

#include "core/session/session.h"
#include "core/store/session_disk.h"

namespace yewdrift {

/// Called now and then with the share done, 0..1; returning false cancels.
using ImportProgress = std::function<bool(double)>;

struct Imported {
  PoolFile file;
  std::int64_t silenced = 0;  // samples that were no numbers, or infinite; they are silence now
  bool folded = false;        // it is stereo, and both sides became one
  double missingSeconds = 0;  // that the file says it has, but does not
};

/// What is to be said of it.
std::vector<Sentence> noticesOf(const std::string& file, const Imported& imported);

struct ImportWish {
  SampleRate rate;   // the session's
  int channels = 0;  // of the track that it is for; 0: any
};

/// Brings a file of any format that the audio library reads into the session's audio/, at the session's rate:
/// a WAV file of ours as it is, bit for bit, everything else as float. For a track of one channel both sides
/// of a stereo file become one, half of each: what the track records stays what it is. What can be read
/// counts, whatever the file says of its length. Any thread. Throws Error, and leaves nothing, where it is no
/// audio, there is no room for it, or it was cancelled.
Imported importAudio(const SessionDisk& disk, const ImportWish& wish, const std::filesystem::path& file,
                     const ImportProgress& progress = {});

}  // namespace yewdrift
