#!/bin/sh
# Starts the demonstration on a free port, takes the pictures, ends it.
set -eu
log=$(mktemp)
./bin/nowthen demo --listen 127.0.0.1:0 >"$log" &
demo=$!
trap 'kill $demo; rm -f "$log"' EXIT
for _ in $(seq 100); do
	base=$(grep -o 'http://[0-9.:]*' "$log" || true)
	[ -n "$base" ] && break
	sleep 0.1
done
go run ./e2e/screenshots -base "$base" "$@"
