// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <vector>

#include "core/store/session_folder.h"

namespace yewdrift {

/// From the first to the last sound in what was heard, with a tenth of a second of room on either side; none
/// where all of it is quieter than -50 dB.
std::optional<Span> claimedWindow(const std::vector<std::vector<float>>& heard, SampleRate rate);

/// Writes what one microphone of a track heard to a new pool file. `inputs[i]` is the input that `heard[i]`
/// comes from. Throws Error where it cannot be written.
PoolFile writeClaim(const SessionFolder& folder, const Session& session, const Track& track,
                    const Microphone& microphone, const std::vector<std::vector<float>>& heard,
                    const std::vector<int>& inputs);

}  // namespace yewdrift
