#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Builds with sanitizers and runs the tests under them: "asan" for addresses and undefined behaviour (core, engine and
# tool), "tsan" for threads (core, engine and window).
set -euo pipefail
cd "$(dirname "$0")/.."
case "${1:-}" in
  asan) targets=(core_tests engine_tests tool_tests); entries='^(core|engine|tool)\.' ;;
  tsan) targets=(core_tests engine_tests ui_tests desk_tests); entries='^(core|engine|ui|desk)\.' ;;
  *) echo "Usage: scripts/test_sanitized.sh asan|tsan" >&2; exit 2 ;;
esac
scripts/setup.sh
cmake --preset "$1"
cmake --build --preset "$1" --target "${targets[@]}"
export UBSAN_OPTIONS=print_stacktrace=1
QT_QPA_PLATFORM=offscreen ctest --test-dir "build/$1" --output-on-failure -j2 -R "$entries"
