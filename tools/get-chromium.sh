#!/bin/sh
# Debian's Chromium for the browser tests and the pictures, where it is not there yet.
set -eu
[ -x /usr/bin/chromium ] && exit 0
if [ "$(id -u)" = 0 ]; then as_root=""; elif command -v sudo >/dev/null; then as_root="sudo"; else
    echo "Chromium is missing. As root, run: apt-get install chromium" >&2
    exit 1
fi
export DEBIAN_FRONTEND=noninteractive
$as_root apt-get update -qq
$as_root apt-get install -y -qq --no-install-recommends chromium
