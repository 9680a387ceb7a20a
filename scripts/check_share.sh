#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Prints which share of all lines of C++ (not blank) are tests, and fails where it is too large: tests are a quarter to a
# third of the code.
set -euo pipefail
cd "$(dirname "$0")/.."
limit=33
files() { if git rev-parse 2>/dev/null; then git ls-files -z -- "$1"; else find "$1" -path ./build -prune -o -type f -print0; fi; }
lines() { files "$1" | grep -zE '\.(cpp|cc|h|hpp)$' | xargs -0 cat -- | grep -c '[^[:space:]]'; }
tests=$(lines tests) all=$(lines .)
awk -v t="$tests" -v a="$all" -v limit="$limit" 'BEGIN {
  printf "tests: %d of %d lines, %.1f %%\n", t, a, 100 * t / a
  if (100 * t / a > limit) { printf "That is more than %s %%: leave out what a model or a lower layer holds.\n", limit; exit 1 }
}'
