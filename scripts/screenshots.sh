#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Makes every picture of docs/screenshots from the demo session.
set -euo pipefail
cd "$(dirname "$0")/.."
scripts/setup.sh
[ -f build/release/CMakeCache.txt ] || cmake --preset release
cmake --build --preset release --target yewdrift-screenshots yewdrift-demo-session yewdrift-tool
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
export QT_QPA_PLATFORM=offscreen
build/release/bin/yewdrift-demo-session "$work/The Lantern Ferry"
build/release/bin/yewdrift-screenshots "$work/The Lantern Ferry" docs/screenshots
tests/with_sound_server.sh pipewire build/release/bin/yewdrift-screenshots "$work/The Lantern Ferry" docs/screenshots device
build/release/bin/yewdrift-tool new "$work/Empty"
build/release/bin/yewdrift-screenshots "$work/Empty" docs/screenshots empty
XDG_CONFIG_HOME=$work/config build/release/bin/yewdrift-screenshots "$work/The Lantern Ferry" docs/screenshots start "$work/Empty" "$work/Gone"
