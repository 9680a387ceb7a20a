#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Records 48 minutes of stereo at 192 kHz from the simulated interface, more than 4 GiB in one file, and has sox and
# ffprobe read it: the file became RF64 while it grew (EBU Tech 3306), and what was played at its end is there, bit
# for bit. Takes a minute and a half and 4.5 GB of the temporary folder; not part of the tests.
set -euo pipefail
cd "$(dirname "$0")/.."
tool=$PWD/build/release/bin/yewdrift-tool
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work"
sox -n -r 192000 -b 32 -e floating-point -c 2 played.wav synth 10 sine 300 sine 431 vol 0.5
"$tool" new s --rate 192000 --format float
"$tool" record s --track Long --performance played.wav --performance-at 2890s --from 0s --to 2900s --block 4096
"$tool" check s
file=$(echo s/audio/*.wav)
[ "$(head -c 4 "$file")" = RF64 ]
[ "$(head -c 16 "$file" | tail -c 4)" = ds64 ]
# Sizes of ds64, little endian: the file but for 8 bytes, the data, the frames.
read -r riff data frames < <(od -An -t u8 -j 20 -N 24 "$file" | tr -s ' \n' ' '; echo)
[ "$riff" = "$(($(stat -c %s "$file") - 8))" ]
[ "$data" = "$((frames * 8))" ]
ffprobe -v error -show_entries stream=codec_name,sample_rate,channels,duration_ts "$file"
sox -m -v 1 played.wav -v -1 "|sox $file -p trim 2890 10" -n stat 2>&1 | grep 'M.*imum amplitude: *0.000000' | wc -l | grep -qx 2
echo "RF64 of $(stat -c %s "$file") bytes: sizes right, read by sox and ffprobe, nulls against what was played."
