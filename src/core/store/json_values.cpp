// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/json_values.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <limits>
#include <nlohmann/json.hpp>

#include "core/error.h"

namespace yewdrift {
namespace {

using nlohmann::json;

constexpr int deepest = 64;

template <class... Arguments>
[[noreturn]] void damaged(Pattern<std::type_identity_t<Arguments>...> pattern,
                          const Arguments&... arguments) {
  throw Error("The session is damaged: %1.", Sentence(pattern, arguments...));
}

/// How deep brackets nest, those in texts left out.
int depthOf(const std::string& document) {
  int depth = 0;
  int most = 0;
  bool quoted = false;
  bool escaped = false;
  for (const char c : document) {
    if (escaped) {
      escaped = false;
    } else if (quoted) {
      escaped = c == '\\';
      quoted = c != '"';
    } else if (c == '"') {
      quoted = true;
    } else if (c == '[' || c == '{') {
      most = std::max(most, ++depth);
    } else if (c == ']' || c == '}') {
      --depth;
    }
  }
  return most;
}

}  // namespace

json parsedJson(const std::string& document, const Sentence& what) {
  if (depthOf(document) > deepest) throw Error("%1 is damaged: it is nested deeper than any could be.", what);
  json parsed = json::parse(document, nullptr, false);
  if (parsed.is_discarded()) throw Error("%1 is damaged: it is not valid JSON.", what);
  return parsed;
}

std::int64_t wholeNumber(const json& value) {
  if (!value.is_number_integer()) damaged("a number is not a whole number");
  constexpr auto most = static_cast<std::uint64_t>(std::numeric_limits<std::int64_t>::max());
  if (value.is_number_unsigned() && value.get<std::uint64_t>() > most)
    damaged("a number is larger than any there can be");
  return value.get<std::int64_t>();
}

int smallNumber(const json& value) {
  const std::int64_t wide = wholeNumber(value);
  if (wide < std::numeric_limits<int>::min() || wide > std::numeric_limits<int>::max())
    damaged("a number is larger than it can be");
  return static_cast<int>(wide);
}

double realNumber(const json& value) {
  if (!value.is_number()) damaged("something that should be a number is none");
  const auto number = value.get<double>();
  if (!std::isfinite(number)) damaged("a number is not finite");
  return number;
}

bool truth(const json& value) {
  if (!value.is_boolean()) damaged("something that should be true or false is neither");
  return value.get<bool>();
}

std::string text(const json& value) {
  if (!value.is_string()) damaged("something that should be a text is none");
  return value.get<std::string>();
}

Frames frames(const json& value) {
  const Frames at{wholeNumber(value)};
  if (at > maximumPosition || at < -maximumPosition)
    damaged("a position lies beyond the longest session there can be");
  return at;
}

Span spanFrom(const json& value) {
  return {frames(element(value, 0)), frames(element(value, 1))};
}

json spanJson(Span span) {
  return json::array({span.start.count, span.end.count});
}

const json& member(const json& object, const char* key) {
  if (!object.is_object()) damaged("a part of it is of the wrong kind");
  const auto found = object.find(key);
  if (found == object.end()) damaged("\"%1\" is missing in it", key);
  return *found;
}

const json& element(const json& array, std::size_t index) {
  if (list(array).size() <= index) damaged("a list in it is too short");
  return array[index];
}

const json& list(const json& value) {
  if (!value.is_array()) damaged("something that should be a list is none");
  return value;
}

Unknown unknownIn(const json& object, std::initializer_list<const char*> known) {
  json rest;
  for (const auto& [key, value] : object.items())
    if (std::none_of(known.begin(), known.end(), [&key = key](const char* each) { return key == each; }))
      rest[key] = value;
  return rest.is_null() ? Unknown() : Unknown(rest.dump());
}

void addUnknown(json& object, const Unknown& unknown) {
  if (unknown.empty()) return;
  const json rest = json::parse(unknown.text(), nullptr, false);
  for (const auto& [key, value] : rest.items())
    if (!object.contains(key)) object[key] = value;
}

}  // namespace yewdrift
