#!/bin/sh
# Run a command beside a PostgreSQL of its own: it is made anew, and goes when the command ends.
# The command finds its address in FAIRLINE_TEST_POSTGRES.
set -eu
if ! ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1; then
  apt-get update -q >/dev/null && apt-get install -y -q postgresql >/dev/null
fi
programs=$(ls -d /usr/lib/postgresql/*/bin | sort -V | tail -n 1)
place=$(mktemp -d)
as=""
if [ "$(id -u)" = 0 ]; then  # it does not run as root
  chown postgres "$place"
  as="runuser -u postgres --"
fi
end() {
  $as "$programs/pg_ctl" -D "$place/data" -m immediate stop >/dev/null 2>&1 || true
  rm -rf "$place"
}
trap end EXIT
# Nothing of a test has to last: it does not wait for the disk. What is measured does (FSYNC=on).
$as "$programs/initdb" -D "$place/data" -U fairline -A trust -E UTF8 --no-locale >/dev/null
$as "$programs/pg_ctl" -D "$place/data" -w -l "$place/log" \
  -o "-k $place -c listen_addresses= -c fsync=${FSYNC:-off} -c max_connections=300" start >/dev/null
FAIRLINE_TEST_POSTGRES="postgresql://fairline@/postgres?host=$place" "$@"
