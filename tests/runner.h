// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace yewdrift::test {

/// Runs the tests that the command line asks for. Returns what the program ends with.
int runTests(int argc, char** argv);

}  // namespace yewdrift::test
