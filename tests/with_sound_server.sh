#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Runs a command beside a private sound server, as a desktop has one, without hardware.
# usage: with_sound_server.sh pipewire|pulseaudio COMMAND [ARG...]
# There: a sink "speakers" (the default) and a cable: what is played to the sink "cable" comes out of the source
# "microphone" (the default source), stereo, 48 kHz. $SOUND_SERVER_PIDS holds the servers' process ids, so that a
# test can end them.
set -euo pipefail
kind=${1:?pipewire or pulseaudio}; shift
if [ -z "${YEWDRIFT_SOUND_SERVER:-}" ]; then
  export YEWDRIFT_SOUND_SERVER=1
  exec dbus-run-session -- "$0" "$kind" "$@" 2> >(grep -v 'Failed to set fd limit' >&2)
fi
unset PULSE_SERVER DBUS_SYSTEM_BUS_ADDRESS
XDG_RUNTIME_DIR=$(mktemp -d)
export XDG_RUNTIME_DIR PULSE_RUNTIME_PATH=$XDG_RUNTIME_DIR/pulse XDG_CONFIG_HOME=$XDG_RUNTIME_DIR/config XDG_STATE_HOME=$XDG_RUNTIME_DIR/state
chmod 700 "$XDG_RUNTIME_DIR"
pids=()
finish() {
  for pid in "${pids[@]}"; do kill "$pid" 2>/dev/null || true; done
  wait 2>/dev/null || true
  rm -rf "$XDG_RUNTIME_DIR"
}
trap finish EXIT
start() { "$@" >"$XDG_RUNTIME_DIR/$1.log" 2>&1 & pids+=($!); }
wait_for() { for _ in $(seq 100); do "$@" >/dev/null 2>&1 && return; sleep 0.1; done; echo "with_sound_server: no answer: $*" >&2; cat "$XDG_RUNTIME_DIR"/*.log >&2; exit 1; }
case $kind in
  pipewire) start pipewire; wait_for test -S "$XDG_RUNTIME_DIR/pipewire-0"; start wireplumber; sleep 0.5; start pipewire-pulse ;;
  pulseaudio) start pulseaudio -n --daemonize=no --exit-idle-time=-1 --use-pid-file=no -L module-native-protocol-unix ;;
  *) echo "pipewire or pulseaudio" >&2; exit 2 ;;
esac
wait_for pactl info
pactl load-module module-null-sink sink_name=speakers rate=48000 >/dev/null
pactl load-module module-null-sink sink_name=cable rate=48000 >/dev/null
wait_for pactl load-module module-remap-source master=cable.monitor source_name=microphone
sleep 0.5
pactl set-default-sink speakers
pactl set-default-source microphone
export SOUND_SERVER_PIDS="${pids[*]}"
"$@"
