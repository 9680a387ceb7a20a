// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace CLI {
class App;
}

namespace yewdrift::tool {

/// What the commands on takes, phrases and evidence were given.
struct TakeCommandOptions {
  std::string session;
  std::string track;
  std::optional<int> lane;
  int to = 0;
  std::optional<std::string> span;
  std::optional<std::string> at;
  std::optional<std::string> moveTo;
  std::optional<std::string> piece;
  std::optional<std::string> within;
  std::optional<std::string> nudge;
  std::optional<std::string> name;
  std::optional<std::string> note;
  std::optional<std::string> add;
  std::optional<std::string> remove;
  std::optional<std::string> move;
  std::optional<std::string> shows;
  std::optional<int> rating;
  std::optional<int> palette;
  std::optional<int> place;
  std::optional<int> removeMark;
  std::optional<double> gain;
  std::optional<double> pitch;
  std::optional<double> rest;
  std::optional<double> shortest;
  std::optional<bool> mute;
  std::vector<std::string> from;
  std::vector<std::string> points;
  double width = 1.0;
  std::vector<int> spreadLanes;
  bool aside = false;
  bool bringBack = false;
  bool discard = false;
  bool restore = false;
  bool clear = false;
  bool found = false;
  bool apply = false;
  bool json = false;
};

/// Adds the commands lane, cut, mark, level, phrases, line-up, evidence, rate, spread, absorb, set,
/// unset.
void describeTakeCommands(CLI::App& app, TakeCommandOptions& options);

}  // namespace yewdrift::tool
