// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <functional>
#include <vector>

#include "core/session/session.h"
#include "core/signal/loudness.h"
#include "core/signal/pitch_track.h"
#include "core/signal/spectra.h"
#include "core/store/session_disk.h"

namespace yewdrift {

/// Ten milliseconds of a file, all its channels together.
struct LevelStep {
  float weighted = 0.0F;  ///< mean square of all channels, K-weighted after ITU-R BS.1770
  float square = 0.0F;    ///< mean square of the loudest channel, without its offset
  float peak = 0.0F;      ///< of full scale 1
  std::uint16_t overs = 0;
  std::uint16_t clicks = 0;  ///< jumps of the wave that nothing around them prepares
};

/// What is measured of a file once, for all that is asked about takes: where things begin, how high they are,
/// how loud, of which colour. Places are frames of the file. Onsets and pitch are those of the mean of its
/// channels.
struct FileAnalysis {
  std::vector<Frames> onsets;
  PitchTrack pitch;
  Frames levelStep;
  std::vector<LevelStep> levels;
  std::vector<BandLevels> spectra;  ///< of the mean of its channels, one for each step of levels
};

/// How long a step of levels is.
Frames levelStepAt(SampleRate rate);

/// Loudness and peak of steps [from, to): integrated with both gates of BS.1770 over blocks of 400 ms that
/// begin every 100 ms; of a shorter stretch, of all of it.
Loudness loudnessOf(const std::vector<LevelStep>& steps);

/// From cache/, where it was kept for the file as it is, or measured and then kept. Empty where the file
/// cannot be read. Breaks off, and returns nothing, once `cancelled`. `progress` is told the share done. Any
/// thread.
FileAnalysis analyseFile(const SessionDisk& disk, const PoolFile& file, SampleRate rate,
                         const std::atomic<bool>& cancelled,
                         const std::function<void(double)>& progress = {});

}  // namespace yewdrift
