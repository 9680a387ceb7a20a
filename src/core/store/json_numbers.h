// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <nlohmann/json_fwd.hpp>

namespace yewdrift {

/// A whole number in a document that anybody may have written. Throws Error where it is something else or
/// beyond what 64 bits hold.
std::int64_t wholeNumber(const nlohmann::json& value);
/// The same, of 32 bits.
int smallNumber(const nlohmann::json& value);

}  // namespace yewdrift
