// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <vector>

#include "core/edit/recorded_roll.h"

namespace yewdrift {

/// One sentence, from the setup that the engine runs: what pressing record does. Without armed tracks it says
/// that there are none.
std::string describeRecording(const RecordSetup& setup, const std::vector<std::string>& trackNames,
                              const Ruler& ruler);

}  // namespace yewdrift
