#!/usr/bin/env bash
# Real recordings that nobody here made, out of packages, for tests: tests/fetch_recordings.sh DIR
# Debian alsa-utils: spoken names of sides. npm wav: a man on the left, a woman on the right, in many encodings.
set -euo pipefail
mkdir -p "$1"
cd "$1"
if ! compgen -G 'Front_*.wav' >/dev/null; then
  room=$(mktemp -d)
  chmod 755 "$room"
  (cd "$room" && { apt-get download -q alsa-utils || { $( [ "$(id -u)" = 0 ] || echo sudo ) apt-get update -q && apt-get download -q alsa-utils; }; })
  dpkg -x "$room"/alsa-utils_*.deb "$room/out"
  cp "$room"/out/usr/share/sounds/alsa/*.wav .
  rm -rf "$room"
fi
if ! compgen -G 'M1F1-*.wav' >/dev/null; then
  room=$(mktemp -d)
  (cd "$room" && npm pack --silent wav@1.0.2 && tar xzf wav-*.tgz)
  find "$room" -name 'M1F1-*' -exec cp {} . \;
  rm -rf "$room"
fi
