// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/core_tests.h"

#include <nlohmann/json.hpp>

using nlohmann::json;

TEST_CASE("Numbers in documents are taken up to the last that fits, and no further") {
  const auto number = [](const char* written) { return wholeNumber(json::parse(written)); };
  CHECK(number("9223372036854775807") == std::numeric_limits<std::int64_t>::max());
  CHECK(number("-9223372036854775808") == std::numeric_limits<std::int64_t>::min());
  CHECK(number("0") == 0);
  for (const char* bad :
       {"9223372036854775808", "18446744073709551615", "1.0", "1e3", "\"1\"", "null", "true", "[1]"})
    CHECK_THROWS_AS(number(bad), Error);
  constexpr std::int64_t most = std::numeric_limits<int>::max();
  CHECK(smallNumber(json(most)) == most);
  CHECK(smallNumber(json(-most - 1)) == -most - 1);
  CHECK_THROWS_AS(smallNumber(json(most + 1)), Error);
  CHECK_THROWS_AS(smallNumber(json(-most - 2)), Error);
  CHECK(realNumber(json(0.5)) == 0.5);
  CHECK(realNumber(json(-3)) == -3.0);
  CHECK_THROWS_AS(realNumber(json("0.5")), Error);
  CHECK_THROWS_AS(realNumber(json(std::numeric_limits<double>::infinity())), Error);
  CHECK_THROWS_AS(realNumber(json(std::numeric_limits<double>::quiet_NaN())), Error);
  CHECK(frames(json(maximumPosition.count)) == maximumPosition);
  CHECK(frames(json(-maximumPosition.count)) == -maximumPosition);
  CHECK_THROWS_AS(frames(json(maximumPosition.count + 1)), Error);
  CHECK_THROWS_AS(frames(json(-maximumPosition.count - 1)), Error);
}

TEST_CASE("What is of another kind, is missing or is too short in a document is said") {
  CHECK(truth(json(true)));
  CHECK_FALSE(truth(json(false)));
  CHECK_THROWS_AS(truth(json(1)), Error);
  CHECK(text(json("viola")) == "viola");
  CHECK_THROWS_AS(text(json(1)), Error);
  CHECK(spanFrom(json::array({-5, 7})) == Span{{-5}, {7}});
  CHECK(spanJson({{-5}, {7}}) == json::array({-5, 7}));
  CHECK_THROWS_AS(spanFrom(json::array({1})), Error);
  CHECK(member(json{{"a", 1}}, "a") == 1);
  CHECK_THROWS_WITH(member(json{{"a", 1}}, "b"), Catch::Contains("\"b\""));
  CHECK_THROWS_AS(member(json::array({1}), "a"), Error);
  CHECK(element(json::array({3, 4}), 1) == 4);
  CHECK_THROWS_AS(element(json::array({3, 4}), 2), Error);
  CHECK_THROWS_AS(list(json{{"a", 1}}), Error);
}

TEST_CASE("What is not known in a document is kept, and never takes the place of what is") {
  const json object{{"known", 1}, {"other", {{"deep", true}}}, {"more", 2}};
  const Unknown unknown = unknownIn(object, {"known", "never there"});
  json written{{"known", 5}, {"more", 7}};
  addUnknown(written, unknown);
  CHECK(written == json{{"known", 5}, {"more", 7}, {"other", {{"deep", true}}}});
  CHECK(unknownIn(object, {"known", "other", "more"}).empty());
}
