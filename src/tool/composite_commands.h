// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <string>

namespace CLI {
class App;
}

namespace yewdrift::tool {

/// What the commands on the composite and its joins were given.
struct CompositeCommandOptions {
  std::string session;
  std::string track;
  std::string lane;
  std::string span;
  std::optional<std::string> phrase;
  std::optional<std::string> piece;
  std::optional<int> punch;
  bool handles = false;
  std::string at;
  std::optional<std::string> length;
  std::optional<std::string> before;
  std::optional<std::string> after;
  std::optional<std::string> curve;
  std::optional<double> bend;
  std::optional<std::string> move;
  std::optional<bool> settled;
  bool reset = false;
  std::optional<double> gain;
  std::optional<double> pitch;
  std::optional<std::string> slip;
  std::optional<std::string> keep;
  std::optional<std::string> use;
  std::optional<std::string> remove;
  std::optional<std::string> compare;
  std::optional<std::string> fadeIn;
  std::optional<std::string> fadeOut;
  std::string within = "100ms";
  std::string slipWithin = "0f";
  bool rough = false;
  bool anew = false;
  bool improve = false;
  bool dryRun = false;
  bool json = false;
};

/// Adds the commands pick, split, merge, piece, join, joins, composite.
void describeCompositeCommands(CLI::App& app, CompositeCommandOptions& options);

}  // namespace yewdrift::tool
