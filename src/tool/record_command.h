// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace yewdrift::tool {

/// The options of `record`, as typed.
struct RecordOptions {
  std::string session;
  std::string track;
  std::vector<std::string> performances;
  std::optional<std::string> performanceAt;
  std::optional<long long> roundTrip;
  int block = 256;
  std::string from;
  std::optional<std::string> to;
  std::optional<std::string> loop;
  std::optional<int> passes;
  std::vector<std::string> punches;
  std::optional<std::string> preRoll;
  std::optional<std::string> postRoll;
  std::string result = "new-lane";
  int countIn = 0;
  bool playBack = false;
  std::optional<int> intoLane;
  std::vector<std::string> handPunches;
  std::optional<std::string> stopAfter;
  int dropoutEvery = 0;
  bool realtime = false;
  std::optional<std::string> driver;  // a real device in place of the simulated interface
  std::string source;
  std::string sink;
  bool dryRun = false;
};

/// Records from the simulated interface or from a real device; returns the sentence that says what was
/// recorded or, on a dry run, what would be.
std::string record(const RecordOptions& options);

}  // namespace yewdrift::tool
