// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "core/plan/join_close_up.h"
#include "core/session/session.h"

namespace yewdrift::tool {

/// What `show` prints: everything a script needs to know, and the same for reading.
nlohmann::json sessionReport(const Session& session);
std::string sessionText(const Session& session);

nlohmann::json joinsReport(const std::vector<MeasuredJoin>& joins);
std::string joinsText(const std::vector<MeasuredJoin>& joins, const Ruler& ruler);

}  // namespace yewdrift::tool
