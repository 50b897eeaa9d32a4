#!/bin/sh
# Makes the Python environment; on Debian the venv module is a package of its own.
set -eu
venv=$1
python=$(command -v python3.11 || command -v python3 || true)
if [ -z "$python" ]; then
    echo "Python 3.11 or newer is needed (Debian: apt-get install python3)." >&2
    exit 1
fi
if "$python" -m venv "$venv" 2>/dev/null; then
    exit 0
fi
rm -rf "$venv"
if [ "$(id -u)" = 0 ]; then as_root=""; elif command -v sudo >/dev/null; then as_root="sudo"; else
    echo "Python's venv module is missing. As root, run: apt-get install python3-venv" >&2
    exit 1
fi
$as_root apt-get update -qq
$as_root apt-get install -y -qq python3-venv
"$python" -m venv "$venv"
