// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <vector>

#include "core/edit/recorded_roll.h"
#include "core/sentence.h"

namespace yewdrift {

/// A track that would be recorded, as it is called there.
struct DescribedTrack {
  std::string name;
  std::optional<LaneNumber> into;
};

/// What pressing record does, in short sentences in the order it happens, from the setup that the engine
/// runs. Without armed tracks it says that there are none.
std::vector<Sentence> describeRecording(const RecordSetup& setup, const std::vector<DescribedTrack>& tracks,
                                        const Ruler& ruler);

/// The tracks that are armed, as they are called there.
std::vector<DescribedTrack> armedTracks(const Session& session);

}  // namespace yewdrift
