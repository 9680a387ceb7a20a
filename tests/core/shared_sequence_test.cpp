// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/session/shared_sequence.h"

#include "core/core_tests.h"

using yewdrift::SharedSequence;

TEST_CASE("A shared sequence is what a vector would be, and old versions stay as they were") {
  std::mt19937 random(5);
  auto below = [&random](std::size_t n) { return std::uniform_int_distribution<std::size_t>(0, n)(random); };
  std::vector<int> plain;
  SharedSequence<int> shared;
  std::vector<std::pair<std::vector<int>, SharedSequence<int>>> versions;
  for (int step = 0; step < 600; ++step) {
    const std::size_t from = below(plain.size());
    const std::size_t to = std::min(plain.size(), from + below(step % 50 == 0 ? 400 : 5));
    std::vector<int> insert(below(step % 40 == 0 ? 500 : 6));
    for (int& value : insert) value = static_cast<int>(random());
    plain.erase(plain.begin() + static_cast<std::ptrdiff_t>(from),
                plain.begin() + static_cast<std::ptrdiff_t>(to));
    plain.insert(plain.begin() + static_cast<std::ptrdiff_t>(from), insert.begin(), insert.end());
    shared = shared.replaced(from, to, insert);
    REQUIRE(shared.size() == plain.size());
    REQUIRE(std::equal(shared.begin(), shared.end(), plain.begin(), plain.end()));
    if (step % 60 == 0) versions.emplace_back(plain, shared);
  }
  for (const auto& [was, version] : versions)
    CHECK(std::equal(version.begin(), version.end(), was.begin(), was.end()));
}
