// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <vector>

#include "core/edit/recorded_roll.h"

namespace yewdrift {

/// A track that would be recorded, as the sentence names it.
struct DescribedTrack {
  std::string name;
  std::optional<LaneNumber> into;
};

/// One sentence, from the setup that the engine runs: what pressing record does. Without armed tracks it says
/// that there are none. With `grid` positions are bars, without it minutes and seconds.
std::string describeRecording(const RecordSetup& setup, const std::vector<DescribedTrack>& tracks,
                              const Ruler& ruler, bool grid = true);

/// The tracks that are armed, as the sentence names them.
std::vector<DescribedTrack> armedTracks(const Session& session);

}  // namespace yewdrift
