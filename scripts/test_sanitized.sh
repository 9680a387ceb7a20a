#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Builds with sanitizers and runs the tests under them: "asan" for addresses and undefined behaviour (core, engine and
# tool), "tsan" for threads (core, engine and window). With "build" behind it only builds. Where YEWDRIFT_TEST_OBJECTS
# names a build of this very state, its compiled tests are taken, and only what they test is compiled for asan.
set -euo pipefail
cd "$(dirname "$0")/.."
case "${1:-}" in
  asan) targets=(core_tests engine_tests tool_tests); entries='^(core|engine|tool)\.' ;;
  tsan) targets=(core_tests engine_tests ui_tests desk_tests); entries='^(core|engine|ui|desk)\.' ;;
  *) echo "Usage: scripts/test_sanitized.sh asan|tsan [build]" >&2; exit 2 ;;
esac
scripts/setup.sh
objects=
[ "$1" != asan ] || objects=${YEWDRIFT_TEST_OBJECTS:-}
cmake --preset "$1" -DYEWDRIFT_TEST_OBJECTS="$objects"
cmake --build --preset "$1" --target "${targets[@]}"
[ "${2:-}" != build ] || exit 0
export UBSAN_OPTIONS=print_stacktrace=1
export LSAN_OPTIONS="suppressions=$PWD/tests/lsan_suppressions.txt print_suppressions=0"
# What lies inside Qt is not ours to mend.
export TSAN_OPTIONS="suppressions=$PWD/tests/tsan_suppressions.txt second_deadlock_stack=1"
# Slower by so much that a thousand sequences would take an hour.
[ "$1" != tsan ] || export YEWDRIFT_RANDOM_DESK=${YEWDRIFT_RANDOM_DESK:-60}
QT_QPA_PLATFORM=offscreen ctest --test-dir "build/$1" --output-on-failure -j2 -R "$entries" -LE sound_server
