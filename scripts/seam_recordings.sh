#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Fetches recordings out of Debian's packages for yewdrift-seam-bench, without installing them. Usage:
#   scripts/seam_recordings.sh build/recordings && build/release/bin/yewdrift-seam-bench --recordings build/recordings
set -euo pipefail
folder=${1:?where to put them}
mkdir -p "$folder"
cd "$folder"
for package in klettres-data; do
  apt-get download "$package"
  dpkg -x "$package"_*.deb .
  rm -f "$package"_*.deb
done
