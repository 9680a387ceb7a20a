// SPDX-License-Identifier: GPL-3.0-or-later
#include <cstdio>
#include <exception>

#include "demo/lantern_ferry.h"

int main(int argc, char** argv) {
  if (argc != 2) {
    std::fputs("usage: yewdrift-demo-session FOLDER\n", stderr);
    return 2;
  }
  try {
    yewdrift::demo::makeLanternFerry(argv[1], [](double share) {
      // Read by who started it; a line each.
      std::printf("%.0f%%\n", 100.0 * share);
      std::fflush(stdout);
    });
    return 0;
  } catch (const std::exception& e) {
    std::fprintf(stderr, "yewdrift-demo-session: %s\n", e.what());
    return 1;
  }
}
