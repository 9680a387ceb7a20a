// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace yewdrift::test {

/// What a program of tests ends with that failed where they cannot be told from the machine's faults.
constexpr int heldUp = 77;

/// Runs the tests that the command line asks for. Returns what the program ends with. Where
/// $YEWDRIFT_UNLESS_HELD_UP is set, it ends at the first failure, and with `heldUp` if the machine was held
/// up more than every ten seconds.
int runTests(int argc, char** argv);

}  // namespace yewdrift::test
