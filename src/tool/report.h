// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "core/joins/join_finder.h"
#include "core/session/session.h"

namespace yewdrift::tool {

/// What `show` prints: everything a script needs to know, and the same for reading.
nlohmann::json sessionReport(const Session& session);
std::string sessionText(const Session& session);

/// The joins as they are; of those in `improved` also why, and what they were.
nlohmann::json joinsReport(const std::vector<MeasuredJoin>& joins,
                           const std::vector<ImprovedJoin>& improved = {});
std::string joinsText(const std::vector<MeasuredJoin>& joins, const std::vector<ImprovedJoin>& improved,
                      const Ruler& ruler);

}  // namespace yewdrift::tool
