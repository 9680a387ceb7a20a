// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <nlohmann/json_fwd.hpp>

namespace yewdrift {

/// What turns `from` into `to`, small where they differ little: objects by key, arrays by the stretch that
/// changed. Null where they are equal.
nlohmann::json jsonDelta(const nlohmann::json& from, const nlohmann::json& to);

/// Applies a delta. Throws Error where it does not fit.
nlohmann::json applyJsonDelta(nlohmann::json from, const nlohmann::json& delta);

}  // namespace yewdrift
