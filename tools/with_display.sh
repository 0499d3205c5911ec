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
number=$((100 + $$ % 800))  # two that start at once look at different numbers
while [ -e "/tmp/.X11-unix/X$number" ] || [ -e "/tmp/.X$number-lock" ]; do number=$((number + 1)); done
Xvfb ":$number" -screen 0 1440x900x24 -nolisten tcp >/dev/null 2>&1 &
server=$!
manager=""
trap 'kill $manager $server 2>/dev/null || true' EXIT
export DISPLAY=":$number" QT_QPA_PLATFORM=xcb LIBGL_ALWAYS_SOFTWARE=1
for _ in $(seq 100); do [ -e "/tmp/.X11-unix/X$number" ] && break; sleep 0.1; done
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
