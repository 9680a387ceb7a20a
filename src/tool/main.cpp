// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/open_readers.h"
#include "tool/commands.h"

int main(int argc, char** argv) {
  yewdrift::OpenReaders::raiseLimit();
  return static_cast<int>(yewdrift::tool::run(std::vector<std::string>(argv + 1, argv + argc)));
}
