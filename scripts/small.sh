#!/bin/sh
# Builds the probe for the system that GOOS and GOARCH name, as it is handed out, and looks that it stays small: it goes onto
# old computers over slow sticks.
set -eu
cd "$(dirname "$0")/.."
most=12000000
file=$(mktemp)
trap 'rm -f "$file"' EXIT
${GO:-go} build -ldflags "-s -w" -o "$file" ./cmd/nowthen-probe
bytes=$(wc -c <"$file")
[ "$bytes" -lt "$most" ] || {
	echo "The probe for $GOOS/$GOARCH has $bytes bytes; it is to have less than $most." >&2
	exit 1
}
