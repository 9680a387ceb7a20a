// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <vector>

#include "core/session/resolved_phrases.h"
#include "core/signal/phrases.h"

namespace yewdrift {

/// The peaks of a file, one pyramid a channel, or null while they are not known.
using FindPeaks = std::function<const std::vector<PeakPyramid>*(int file)>;

/// Those that are found where its takes rest; none once it is cancelled.
std::vector<Span> findPhrasesIn(const Track& track, SampleRate rate, const FindPeaks& find,
                                const std::atomic<bool>* cancelled = nullptr);
/// The phrases of a track as they are now: those a person set, and those found where its takes rest. Takes
/// that are set aside do not count; of a set the first microphone does.
std::vector<Phrase> phrasesOf(const Session& session, const Track& track, const FindPeaks& find);

/// The files that a track's takes play, each once, in the order of lanes; those set aside too where `all`.
std::vector<PoolFile> filesOfTakes(const Session& session, const Track& track, bool all = false);

}  // namespace yewdrift
