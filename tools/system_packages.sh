#!/usr/bin/env bash
# Debian packages the window needs: Qt's X11 libraries, a virtual display and a small window manager.
set -eu
packages=(xvfb openbox xdotool x11-utils libxcb-cursor0 libxkbcommon-x11-0 libegl1 libgl1 libopengl0 libxcb-icccm4 libxcb-image0
  libxcb-keysyms1 libxcb-randr0 libxcb-render-util0 libxcb-shape0 libxcb-xinerama0 libx11-xcb1 libdbus-1-3
  libfontconfig1 libxrender1 libglib2.0-0 fontconfig fonts-dejavu-core)
missing=()
for package in "${packages[@]}"; do
  dpkg -s "$package" 2>/dev/null | grep -q '^Status: install ok installed' || missing+=("$package")
done
[ ${#missing[@]} -eq 0 ] && exit 0
if [ "$(id -u)" -ne 0 ]; then
  echo "Some system packages are missing. Run this line, then try again:" >&2
  echo "  sudo apt-get update && sudo apt-get install -y --no-install-recommends ${missing[*]}" >&2
  exit 1
fi
echo "installing system packages: ${missing[*]}"
export DEBIAN_FRONTEND=noninteractive
apt-get update -qq
apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
