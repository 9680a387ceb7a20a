// SPDX-License-Identifier: GPL-3.0-or-later
#include "tool/commands.h"

int main(int argc, char** argv) {
  return static_cast<int>(yewdrift::tool::run(std::vector<std::string>(argv + 1, argv + argc)));
}
