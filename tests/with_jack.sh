#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Runs a command while a JACK server with its dummy driver is up: real device code, no hardware.
set -euo pipefail
export JACK_DEFAULT_SERVER="yewdrift-test-$$" JACK_NO_AUDIO_RESERVATION=1
log=$(mktemp)
jackd --no-realtime --name "$JACK_DEFAULT_SERVER" -d dummy --rate 48000 --period 256 >"$log" 2>&1 &
server=$!
trap 'kill "$server" 2>/dev/null; wait "$server" 2>/dev/null || true; rm -f "$log"' EXIT
jack_wait -s "$JACK_DEFAULT_SERVER" -w -t 15 >/dev/null 2>&1 || { for _ in $(seq 50); do grep -q "running" "$log" && break; sleep 0.1; done; }
"$@" || { status=$?; echo "--- jackd said:"; cat "$log"; exit "$status"; }
