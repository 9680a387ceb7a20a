// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>

#include "core/session/session.h"

namespace yewdrift {

/// What was taken and what was chosen, to print or to keep: of every track its takes with ratings and notes,
/// its composite drawn, and piece by piece where each came from and who chose it. One HTML page that needs
/// nothing beside itself.
std::string takeSheet(const Session& session);

}  // namespace yewdrift
