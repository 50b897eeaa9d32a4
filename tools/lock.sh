#!/bin/sh
# Write the lock files anew from pyproject.toml; what is pinned stays where it still fits.
set -eu
place=$(mktemp -d)
trap 'rm -rf "$place"' EXIT
python3 -m venv "$place"
"$place/bin/pip" install --quiet pip-tools
options="--quiet --generate-hashes --allow-unsafe --no-header --no-annotate --strip-extras
  --no-emit-index-url --no-emit-trusted-host --no-emit-find-links"
# The app itself is built without isolation, so what builds it is locked too.
"$place/bin/pip-compile" $options --build-deps-for editable -o requirements.lock pyproject.toml
"$place/bin/pip-compile" $options --extra dev -o requirements-dev.lock pyproject.toml
