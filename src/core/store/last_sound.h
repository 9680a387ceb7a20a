// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/edit/recorded_roll.h"
#include "core/store/session_disk.h"

namespace yewdrift {

/// Quieter than this nothing was played: -50 dB of full scale.
inline constexpr float nothingPlayed = 0.00316F;

/// Reads the files of a lane backwards, from the end of a span to the last frame that sounds. What cannot be
/// read counts as silent. `session` holds the pool that the lane's clips name; both must outlive the result.
LastSound lastSoundOn(const SessionDisk& disk, const Session& session);

}  // namespace yewdrift
