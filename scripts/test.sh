#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Installs what is missing, builds, and runs all tests. Nothing is skipped silently.
set -euo pipefail
cd "$(dirname "$0")/.."
scripts/setup.sh
scripts/check_format.sh
scripts/check_share.sh
# Where nothing is built yet a folder is compiled at a time, which is half the work.
[ -f build/release/CMakeCache.txt ] || export YEWDRIFT_UNITY=ON
# scripts/demo.sh may have been here before, and leaves both out.
cmake --preset release -DYEWDRIFT_BUILD_TESTS=ON -DYEWDRIFT_BUILD_BENCH=ON
cmake --build --preset release
# Tests save thousands of times, and wait for the disk each time. In what order that is done they read from the system's
# calls, so a disk that is slow, or shared, need not hold them up where memory has room for their files.
roomy() { [ "$(df --output=avail -BM "$1" | tail -n 1 | tr -dc 0-9)" -ge 6144 ] && [ "$(awk '/^MemAvailable/ { print int($2 / 1024) }' /proc/meminfo)" -ge 8192 ]; }
scratch=
if [ -z "${TMPDIR:-}" ] && [ -w /dev/shm ] && roomy /dev/shm; then
  scratch=$(mktemp -d /dev/shm/yewdrift.XXXXXX)
  chmod 1777 "$scratch"  # some tests are another user
  export TMPDIR=$scratch
fi
sanitized=
trap '[ -z "$sanitized" ] || kill "$sanitized" 2>/dev/null; rm -rf "${scratch:-/nonexistent}"' EXIT
# Sound and window tests keep their own time, so they run side by side and not on one heap.
QT_QPA_PLATFORM=offscreen ctest --test-dir build/release --no-tests=error --output-on-failure -j2 -LE sound_server
# Sound servers mostly wait for their clocks. What the sanitizers watch is built and run meanwhile, by what they leave over.
idle=(nice -n 19)
if chrt --idle 0 true 2>/dev/null; then idle=(chrt --idle 0 nice -n 19); fi
export YEWDRIFT_TEST_OBJECTS=$PWD/build/release
"${idle[@]}" scripts/test_sanitized.sh asan >build/asan.log 2>&1 &
sanitized=$!
# A shared virtual machine can be taken away from a real sound server for longer than it buffers. What fails is tried
# again with nothing beside it; and where the machine itself was held up all the while, that is said in its place.
servers=0
QT_QPA_PLATFORM=offscreen ctest --test-dir build/release --no-tests=error --output-on-failure -j2 -L sound_server || servers=$?
wait "$sanitized" || { sanitized=; cat build/asan.log; exit 1; }
sanitized=
if [ "$servers" != 0 ]; then
  YEWDRIFT_UNLESS_HELD_UP=1 QT_QPA_PLATFORM=offscreen ctest --test-dir build/release --output-on-failure --rerun-failed --repeat until-pass:2 | tee build/servers.log
fi
tail -n 200 build/asan.log
# The last words name what did not run, so that nobody has to search for that.
if [ "$servers" != 0 ] && grep -q '(Skipped)' build/servers.log; then
  echo "NOT TESTED HERE, as the host kept this machine from running in time:" >&2
  grep '(Skipped)' build/servers.log >&2
  grep '^NOT TESTED' build/release/Testing/Temporary/LastTest.log >&2
fi
