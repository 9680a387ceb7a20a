#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Says which C++ files are not as .clang-format wants them.
set -euo pipefail
cd "$(dirname "$0")/.."
find src tests bench fuzz -name '*.cpp' -print0 -o -name '*.h' -print0 | xargs -0 clang-format --dry-run --Werror
