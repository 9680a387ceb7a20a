// SPDX-License-Identifier: GPL-3.0-or-later
// What Catch needs compiled once; it takes as long as five files of tests.
#include "runner.h"

#define CATCH_CONFIG_RUNNER
#include <catch2/catch.hpp>

int yewdrift::test::runTests(int argc, char** argv) {
  return Catch::Session().run(argc, argv);
}
