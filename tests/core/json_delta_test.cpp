// SPDX-License-Identifier: GPL-3.0-or-later
//
// What a step of the history says: how one document becomes another.
#include "core/core_tests.h"

#include <functional>
#include <nlohmann/json.hpp>

using nlohmann::json;

TEST_CASE("A delta turns one document into the other, whatever they are") {
  std::mt19937 random(2);
  std::function<json(int)> make = [&](int depth) -> json {
    switch (random() % (depth > 0 ? 5 : 3)) {
      case 0:
        return static_cast<int>(random() % 4);
      case 1:
        return nullptr;
      case 2:
        return std::string(1 + random() % 2, 'a');
      case 3: {
        json list = json::array();
        for (unsigned i = 0; i < random() % 6; ++i) list.push_back(make(depth - 1));
        return list;
      }
      default: {
        json object = json::object();
        for (unsigned i = 0; i < random() % 5; ++i)
          object[std::string(1, static_cast<char>('k' + random() % 4))] = make(depth - 1);
        return object;
      }
    }
  };
  for (int trial = 0; trial < 3000; ++trial) {
    const json a = make(3);
    const json b = make(3);
    REQUIRE(applyJsonDelta(a, jsonDelta(a, b)) == b);
    REQUIRE(jsonDelta(a, a).is_null());
    // As steps are: a document that is the other but for something in the middle of a list.
    json list = json::array();
    for (unsigned i = 0; i < random() % 6; ++i) list.push_back(make(2));
    json other = list;
    for (int change = 0; change < 2; ++change) {
      const auto at = static_cast<std::ptrdiff_t>(random() % (other.size() + 1));
      if (random() % 2 == 0 || at == std::ssize(other))
        other.insert(other.begin() + at, make(1));
      else
        other.erase(other.begin() + at);
    }
    const json delta = jsonDelta(list, other);
    REQUIRE(applyJsonDelta(list, delta) == other);
    if (delta.contains("put")) REQUIRE(delta["put"].size() <= 2 + list.size());
  }
  // What both ends have in common overlaps where the same stands there many times.
  for (const auto& [from, to] : std::vector<std::pair<json, json>>{{{1, 1, 1}, {1, 1}},
                                                                   {{1, 1}, {1, 1, 1}},
                                                                   {{1, 2, 1, 2, 1}, {1, 2, 1}},
                                                                   {{1, 2, 1}, {1, 2, 1, 2, 1}},
                                                                   {{1}, json::array()},
                                                                   {json::array(), {1}}}) {
    REQUIRE(applyJsonDelta(from, jsonDelta(from, to)) == to);
    REQUIRE(applyJsonDelta(to, jsonDelta(to, from)) == from);
    CHECK(jsonDelta(from, to)["put"].size() == (to.size() > from.size() ? to.size() - from.size() : 0));
  }
  // One that changed inside says no more than that, and the rest of the list is not repeated.
  const json was{{{"name", "a"}, {"gain", 1}}, {{"name", "b"}, {"gain", 2}}, {{"name", "c"}, {"gain", 3}}};
  json is = was;
  is[1]["gain"] = 7;
  CHECK(jsonDelta(was, is) == json{{"item", 1}, {"change", {{"keys", {{"gain", {{"set", 7}}}}}}}});
  // Deltas that do not fit are refused, whatever they are.
  for (const json& bad :
       {json{{"at", 0}, {"drop", 4}, {"put", json::array()}},
        json{{"at", 3}, {"drop", 1}, {"put", json::array()}}, json{{"item", 3}, {"change", {{"set", 1}}}},
        json{{"keys", json::object()}}, json(5)})
    CHECK_THROWS_AS(applyJsonDelta(json{1, 2, 3}, bad), Error);
  CHECK_THROWS_AS(applyJsonDelta(json::object(), {{"at", 0}, {"drop", 0}, {"put", json::array()}}), Error);
  CHECK(applyJsonDelta(json{1, 2, 3}, {{"at", 3}, {"drop", 0}, {"put", {4}}}) == json{1, 2, 3, 4});
  CHECK(applyJsonDelta(json{1, 2, 3}, {{"at", 0}, {"drop", 3}, {"put", json::array()}}) == json::array());
  CHECK_THROWS_AS(applyJsonDelta(json::array(), {{"at", 5}, {"drop", 1}, {"put", json::array()}}), Error);
}
