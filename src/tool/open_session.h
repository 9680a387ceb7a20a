// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>

#include "core/store/session_folder.h"

namespace yewdrift::tool {

/// Opens a session to be changed, and says on standard error what opening found: recordings that were
/// recovered, damage, files that are missing. Throws Error where it can only be looked at.
SessionFolder openToChange(const std::string& session);

/// Opens it to be looked at only, and says the same.
SessionFolder openToLook(const std::string& session);

/// What was written for a lane; throws Error where that is no number of one.
LaneNumber laneNumber(const std::string& text);

}  // namespace yewdrift::tool
