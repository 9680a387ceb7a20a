#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Builds the fuzzers and runs each of them for so many seconds (120 where nothing is said) over its corpus in
# fuzz/corpus. What makes one fail is left in build/fuzz and named.
set -euo pipefail
cd "$(dirname "$0")/.."
seconds=${1:-120}
scripts/setup.sh
cmake --preset fuzz
cmake --build --preset fuzz
# What the documents' keys and words are called, so that broken documents are tried and not only broken text.
grep -oh '"[A-Za-z-]\{2,\}"' src/core/store/*.cpp | sort -u | sed 's/"\(.*\)"/"\\"\1\\""/' >build/fuzz/words
for corpus in fuzz/corpus/*; do
  name=$(basename "$corpus")
  found=build/fuzz/found/$name
  mkdir -p "$found"
  leaks=1
  timeout=1  # what a session holds is read in a second and a gigabyte, whatever it is
  if [ "$name" = import ]; then
    leaks=0
    timeout=10  # a small file of silence holds hours
  fi
  echo "== $name"
  # The codecs that read foreign audio leak a little on broken files; that is not ours to mend.
  ASAN_OPTIONS=detect_leaks=$leaks "build/fuzz/bin/fuzz_$name" -max_total_time="$seconds" -timeout="$timeout" -rss_limit_mb=1024 -max_len=65536 -dict=build/fuzz/words \
    -artifact_prefix="build/fuzz/$name-" -print_final_stats=1 "$found" "$corpus" 2>&1 | tail -n 12
done
