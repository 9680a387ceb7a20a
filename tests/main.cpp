// SPDX-License-Identifier: GPL-3.0-or-later
#include "runner.h"

int main(int argc, char** argv) {
  return yewdrift::test::runTests(argc, argv);
}
