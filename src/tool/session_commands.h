// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace CLI {
class App;
}

namespace yewdrift::tool {

/// What the commands on spans, markers, tempo, tracks and recording options were given.
struct SessionCommandOptions {
  std::string session;
  std::string track;
  std::optional<std::string> span;
  std::vector<std::string> add;
  std::optional<std::string> in;
  std::optional<std::string> out;
  std::optional<std::string> at;
  std::optional<std::string> name;
  std::optional<std::string> meter;
  std::optional<std::string> monitor;
  std::optional<std::string> into;
  std::optional<std::string> preRoll;
  std::optional<std::string> postRoll;
  std::optional<std::string> result;
  std::optional<double> bpm;
  std::optional<int> countIn;
  std::optional<int> passes;
  std::optional<int> rename;
  std::optional<int> input;
  std::optional<bool> hush;
  std::optional<bool> playBack;
  std::optional<bool> safeReview;
  std::optional<bool> useLoop;
  std::optional<bool> usePunches;
  std::optional<bool> setAside;
  std::optional<bool> keepWhole;
  std::optional<bool> fillPreRoll;
  std::optional<std::string> cue;
  std::optional<double> gain;
  std::optional<double> pan;
  std::optional<bool> grid;
  std::vector<int> remove;
  double lead = 0.0;
  double tail = 0.0;
  int bar = 1;
  int microphone = 1;
  int channels = 1;
  bool none = false;
  bool dropouts = false;
  bool removeIt = false;
  bool make = false;
  bool arm = false;
  bool disarm = false;
};

/// Adds the commands loop, punch, marker, tempo, track, options and plan.
void describeSessionCommands(CLI::App& app, SessionCommandOptions& options);

}  // namespace yewdrift::tool
