#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Installs what is missing, builds, makes the demo session where it is not there yet, and opens it.
set -euo pipefail
cd "$(dirname "$0")/.."
scripts/setup.sh
# Where nothing is built yet only what the demo needs is made, a folder at a time, which is half the work.
[ -f build/release/CMakeCache.txt ] ||
  cmake --preset release -DYEWDRIFT_UNITY=ON -DYEWDRIFT_BUILD_TESTS=OFF -DYEWDRIFT_BUILD_BENCH=OFF
cmake --build --preset release --target yewdrift yewdrift-tool yewdrift-demo-session
session="${1:-${XDG_DATA_HOME:-$HOME/.local/share}/yewdrift/The Lantern Ferry}"
if [ ! -f "$session/session.json" ]; then
  mkdir -p "$(dirname "$session")"
  # Made aside and moved into place, so that a demo that was cut off is never opened.
  rm -rf "$session.making"
  build/release/bin/yewdrift-demo-session "$session.making"
  rm -rf "$session"
  mv "$session.making" "$session"
fi
exec build/release/bin/yewdrift "$session"
