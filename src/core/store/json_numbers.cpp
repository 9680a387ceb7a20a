// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/json_numbers.h"

#include <limits>
#include <nlohmann/json.hpp>

#include "core/error.h"

namespace yewdrift {

std::int64_t wholeNumber(const nlohmann::json& value) {
  if (!value.is_number_integer()) throw Error("The session is damaged: a number is not a whole number.");
  constexpr auto most = static_cast<std::uint64_t>(std::numeric_limits<std::int64_t>::max());
  if (value.is_number_unsigned() && value.get<std::uint64_t>() > most)
    throw Error("The session is damaged: a number is larger than any there can be.");
  return value.get<std::int64_t>();
}

int smallNumber(const nlohmann::json& value) {
  const std::int64_t wide = wholeNumber(value);
  if (wide < std::numeric_limits<int>::min() || wide > std::numeric_limits<int>::max())
    throw Error("The session is damaged: a number is larger than it can be.");
  return static_cast<int>(wide);
}

}  // namespace yewdrift
