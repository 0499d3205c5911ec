#!/usr/bin/env bash
# Runs a command on a display of its own: Xvfb with a small window manager (focus and shortcuts need one).
# `--demo BIN` opens the window where there is a display, and otherwise runs the whole example without one.
set -eu
if [ "${1:-}" = "--demo" ]; then
  bin=$2
  if [ -n "${DISPLAY:-}${WAYLAND_DISPLAY:-}" ] && [ -z "${CI:-}" ]; then
    exec "$bin/yapa" demo
  fi
  set -- "$bin/yapa" demo --headless demo-output
fi
chosen=$(mktemp)
Xvfb -displayfd 3 -screen 0 1440x900x24 -nolisten tcp 3>"$chosen" >/dev/null 2>&1 &
server=$!
manager=""
trap 'kill $manager $server 2>/dev/null || true; rm -f "$chosen"' EXIT
for _ in $(seq 100); do [ -s "$chosen" ] && break; sleep 0.1; done
number=$(cat "$chosen")
[ -n "$number" ] || { echo "Xvfb did not start" >&2; exit 1; }
export DISPLAY=":$number" QT_QPA_PLATFORM=xcb LIBGL_ALWAYS_SOFTWARE=1
openbox >/dev/null 2>&1 &
manager=$!
sleep 0.5
# tests send X events only to a display that has this token
token=$(head -c 12 /dev/urandom | od -An -tx1 | tr -d ' \n')
export YAPA_TEST_DISPLAY=":$number $token"
for _ in $(seq 20); do
  xprop -root -f YAPA_TEST_DISPLAY 8s -set YAPA_TEST_DISPLAY "$token" 2>/dev/null && break
  sleep 0.2
done
"$@"
