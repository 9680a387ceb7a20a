#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Runs a command beside a private sound server, as a desktop has one, without hardware.
# usage: with_sound_server.sh pipewire|pulseaudio COMMAND [ARG...]
# There: a sink "speakers" (the default) and a cable: what is played to the sink "cable" comes out of the source
# "microphone" (the default source), stereo, 48 kHz. The command can call "$SOUND_SERVER stop" and
# "$SOUND_SERVER start", "... plug" and "... unplug" (the microphone).
set -euo pipefail
wait_for() { for _ in $(seq 100); do "$@" >/dev/null 2>&1 && return; sleep 0.1; done; echo "with_sound_server: no answer: $*" >&2; cat "$XDG_RUNTIME_DIR"/*.log >&2; exit 1; }
start() { setsid "$@" >"$XDG_RUNTIME_DIR/$1.log" 2>&1 </dev/null & echo $! >>"$XDG_RUNTIME_DIR/pids"; }
plug() {
  wait_for pactl load-module module-remap-source master=cable.monitor source_name=microphone format=float32le
  wait_for sh -c 'pactl list short sources | grep -q microphone'
}
start_servers() {
  : >"$XDG_RUNTIME_DIR/pids"
  rm -rf "$PULSE_RUNTIME_PATH"
  mkdir -p -m 700 "$PULSE_RUNTIME_PATH"  # or server and first client both try to; one that looks for it may have
  case $SOUND_SERVER_KIND in
    pipewire) start pipewire; wait_for pw-cli info 0; start wireplumber; sleep 0.5; start pipewire-pulse ;;
    pulseaudio) start pulseaudio -n --daemonize=no --exit-idle-time=-1 --use-pid-file=no -L module-native-protocol-unix ;;
  esac
  wait_for pactl info
  wait_for pactl load-module module-null-sink sink_name=speakers rate=48000 format=float32le
  wait_for pactl load-module module-null-sink sink_name=cable rate=48000 format=float32le
  plug
  sleep 0.5
  pactl set-default-sink speakers
  pactl set-default-source microphone
}
stop_servers() {
  while read -r pid; do kill -9 "$pid" 2>/dev/null || true; done <"$XDG_RUNTIME_DIR/pids"
  : >"$XDG_RUNTIME_DIR/pids"
}
if [ -n "${SOUND_SERVER:-}" ]; then
  case $1 in
    start) start_servers ;;
    stop) stop_servers ;;
    plug) plug ;;
    unplug) pactl unload-module module-remap-source ;;
  esac
  exit
fi
kind=${1:?pipewire or pulseaudio}; shift
case $kind in pipewire|pulseaudio) ;; *) echo "pipewire or pulseaudio" >&2; exit 2 ;; esac
if [ -z "${SOUND_SERVER_KIND:-}" ]; then
  export SOUND_SERVER_KIND=$kind
  exec dbus-run-session -- "$0" "$kind" "$@" 2> >(grep --line-buffered -v 'Failed to set fd limit' >&2)
fi
unset PULSE_SERVER DBUS_SYSTEM_BUS_ADDRESS
XDG_RUNTIME_DIR=$(mktemp -d)
export XDG_RUNTIME_DIR PULSE_RUNTIME_PATH=$XDG_RUNTIME_DIR/pulse XDG_CONFIG_HOME=$XDG_RUNTIME_DIR/config XDG_STATE_HOME=$XDG_RUNTIME_DIR/state
chmod 700 "$XDG_RUNTIME_DIR"
trap 'stop_servers; wait 2>/dev/null || true; rm -rf "$XDG_RUNTIME_DIR"' EXIT
start_servers
export SOUND_SERVER=$(realpath "$0")
"$@"
