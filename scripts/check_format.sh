#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Says which C++ files are not as .clang-format wants them.
set -euo pipefail
cd "$(dirname "$0")/.."
git ls-files '*.cpp' '*.h' | xargs clang-format --dry-run --Werror
