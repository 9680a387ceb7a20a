// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/json_delta.h"

#include <nlohmann/json.hpp>

#include "core/error.h"

namespace yewdrift {
namespace {

using nlohmann::json;

json objectDelta(const json& from, const json& to) {
  json keys = json::object();
  json gone = json::array();
  for (const auto& [key, value] : to.items()) {
    const auto old = from.find(key);
    if (old == from.end())
      keys[key] = {{"set", value}};
    else if (json change = jsonDelta(*old, value); !change.is_null())
      keys[key] = std::move(change);
  }
  for (const auto& [key, value] : from.items())
    if (!to.contains(key)) gone.push_back(key);
  json delta{{"keys", std::move(keys)}};
  if (!gone.empty()) delta["gone"] = std::move(gone);
  return delta;
}

json arrayDelta(const json& from, const json& to) {
  std::size_t prefix = 0;
  const std::size_t shorter = std::min(from.size(), to.size());
  while (prefix < shorter && from[prefix] == to[prefix]) ++prefix;
  std::size_t suffix = 0;
  while (suffix < shorter - prefix && from[from.size() - 1 - suffix] == to[to.size() - 1 - suffix]) ++suffix;
  const std::size_t drop = from.size() - prefix - suffix;
  const std::size_t put = to.size() - prefix - suffix;
  // One element that changed inside: say only what changed in it.
  if (drop == 1 && put == 1 && from[prefix].is_structured())
    return {{"item", prefix}, {"change", jsonDelta(from[prefix], to[prefix])}};
  json inserted = json::array();
  for (std::size_t i = prefix; i < prefix + put; ++i) inserted.push_back(to[i]);
  return {{"at", prefix}, {"drop", drop}, {"put", std::move(inserted)}};
}

[[noreturn]] void noSuchPlace() {
  throw Error("A step of the history does not fit the session; it cannot be undone.");
}

}  // namespace

json jsonDelta(const json& from, const json& to) {
  if (from == to) return nullptr;
  if (from.is_object() && to.is_object()) return objectDelta(from, to);
  if (from.is_array() && to.is_array()) return arrayDelta(from, to);
  return {{"set", to}};
}

json applyJsonDelta(json from, const json& delta) {
  if (delta.is_null()) return from;
  if (!delta.is_object()) noSuchPlace();
  if (delta.contains("set")) return delta["set"];
  if (delta.contains("keys")) {
    if (!from.is_object()) noSuchPlace();
    if (delta.contains("gone"))
      for (const auto& key : delta["gone"]) from.erase(key.get<std::string>());
    for (const auto& [key, change] : delta["keys"].items())
      from[key] = applyJsonDelta(from.contains(key) ? std::move(from[key]) : json(), change);
    return from;
  }
  if (!from.is_array()) noSuchPlace();
  if (delta.contains("item")) {
    const auto index = delta["item"].get<std::size_t>();
    if (index >= from.size()) noSuchPlace();
    from[index] = applyJsonDelta(std::move(from[index]), delta.at("change"));
    return from;
  }
  const auto at = delta.at("at").get<std::size_t>();
  const auto drop = delta.at("drop").get<std::size_t>();
  if (at > from.size() || drop > from.size() - at) noSuchPlace();
  auto& array = from.get_ref<json::array_t&>();
  const auto first = array.begin() + static_cast<std::ptrdiff_t>(at);
  array.erase(first, first + static_cast<std::ptrdiff_t>(drop));
  const auto& put = delta.at("put").get_ref<const json::array_t&>();
  array.insert(array.begin() + static_cast<std::ptrdiff_t>(at), put.begin(), put.end());
  return from;
}

}  // namespace yewdrift
