// SPDX-License-Identifier: GPL-3.0-or-later
//
// Values that edits are given, held to their limits. For core/edit only.
#pragma once

#include "core/session/session.h"

namespace yewdrift {

/// Each is what it was given; throws Error with a sentence where that lies beyond its limits.
Decibels checkedGain(Decibels gain);
Cents checkedPitch(Cents pitch);
/// In order, no two points at one place.
LevelLine checkedLevel(const LevelLine& line);

}  // namespace yewdrift
