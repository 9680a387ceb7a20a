// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <catch2/catch.hpp>
#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <fstream>
#include <map>
#include <random>
#include <string>
#include <string_view>

#include "support.h"

namespace yewdrift::test {

/// What was found by a method that people judged, number by number: so that no number of it changes
/// unnoticed. Other tests say what is right; these say what is. Who means to change the method judges it
/// anew, and records what comes of it: YEWDRIFT_RECORD=<name> build/release/bin/core_tests, with the file of
/// the test.
using Numbers = std::map<std::string, double>;

/// Much in a small number: 64 bits FNV-1a (RFC draft "The FNV Non-Cryptographic Hash Algorithm"), folded.
class Digest {
 public:
  void add(std::string_view text) {
    for (const char c : text) value_ = (value_ ^ static_cast<unsigned char>(c)) * 1099511628211U;
  }
  void add(std::int64_t number) { add(std::to_string(number) + ";"); }
  void add(Frames at) { add(at.count); }
  void add(Span span) {
    add(span.start);
    add(span.end);
  }
  void add(double value) { add(static_cast<std::int64_t>(std::llround(value * 1e4))); }
  [[nodiscard]] double folded() const { return static_cast<double>(value_ % 1009); }

 private:
  std::uint64_t value_ = 14695981039346656037U;
};

/// Numbers that are the same with every library: its own distributions are not.
class Chance {
 public:
  explicit Chance(unsigned seed) : random_(seed) {}
  int below(int most) { return static_cast<int>(random_() % static_cast<unsigned>(most)); }
  double between(double least, double most) { return least + (most - least) * below(10'001) / 10'000.0; }

 private:
  std::mt19937 random_;
};

/// From one scene to the next: all of them, but for sanitizers, to which a part of them tells as much.
inline unsigned nextScene() {
  return sanitized() ? 5 : 1;
}

/// Compares them with those in tests/data/<name>.txt.
inline void checkRecorded(const std::string& name, const Numbers& now) {
  const fs::path file = fs::path(YEWDRIFT_TEST_DATA) / (name + ".txt");
  if (const char* wanted = std::getenv("YEWDRIFT_RECORD"); wanted && wanted == name) {
    std::ofstream out(file);
    out.precision(7);
    for (const auto& [what, value] : now) out << what << "\t" << value << "\n";
    FAIL("recorded anew: look at what changed");
  }
  Numbers recorded;
  std::ifstream in(file);
  for (std::string line; std::getline(in, line);) {
    const std::size_t tab = line.find('\t');
    REQUIRE(tab != std::string::npos);
    recorded[line.substr(0, tab)] = std::stod(line.substr(tab + 1));
  }
  CHECK(!recorded.empty());
  if (!sanitized()) CHECK(now.size() == recorded.size());
  for (const auto& [what, value] : now) {
    INFO(what);
    const auto found = recorded.find(what);
    REQUIRE(found != recorded.end());
    CHECK(value == Approx(found->second).epsilon(1e-4).margin(1e-5));
  }
}

}  // namespace yewdrift::test
