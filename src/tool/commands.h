// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <vector>

namespace yewdrift::tool {

enum class Exit { Done = 0, CouldNot = 1, WrongUsage = 2 };

/// Runs one command line (without the program's name). Prints results to standard output and, where it cannot
/// do what was asked, one sentence to standard error.
Exit run(const std::vector<std::string>& arguments);

}  // namespace yewdrift::tool
