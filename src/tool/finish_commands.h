// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace CLI {
class App;
}

namespace yewdrift::tool {

/// What the commands that finish and hand over were given.
struct FinishCommandOptions {
  std::string session;
  std::string track;
  std::optional<std::string> out;
  std::optional<std::string> span;
  std::string lanes = "keep";
  std::string to;
  std::string what = "stems,takes,composites,tempo,markers,edits,sheet";
  std::vector<std::string> tracks;
  double tail = 2.0;
  std::string format = "wav";
  std::optional<std::string> depth;
  std::optional<int> rate;
  std::optional<std::string> relink;
  bool noDither = false;
  bool dryRun = false;
  bool collect = false;
  bool trashUnused = false;
  bool yes = false;
  bool json = false;
};

/// Adds the commands flatten, deliver, pool, sheet.
void describeFinishCommands(CLI::App& app, FinishCommandOptions& options);

}  // namespace yewdrift::tool
