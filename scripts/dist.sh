#!/bin/sh
# Builds the bench and the probe for all their systems into dist/, with checksums and, for a stick, a start file for each
# system. The bench offers the probes that lie beside it.
set -eu
GO=${GO:-go}
out=${1:-dist}
what=${2:-all}
most=$((12 * 1024 * 1024)) # of a probe, bytes
rm -rf "$out/probes"
mkdir -p "$out/probes"
for target in linux/amd64 linux/arm64 linux/386 windows/amd64 windows/arm64 windows/386 darwin/amd64 darwin/arm64; do
	os=${target%/*} arch=${target#*/} ending=""
	[ "$os" = windows ] && ending=.exe
	file="$out/probes/nowthen-probe-$os-$arch$ending"
	echo "$file"
	GOOS=$os GOARCH=$arch CGO_ENABLED=0 $GO build -trimpath -ldflags "-s -w" -o "$file" ./cmd/nowthen-probe
	size=$(wc -c <"$file")
	[ "$size" -lt "$most" ] || { echo "$file has $size bytes; a probe has less than $most" >&2; exit 1; }
done
cp scripts/stick/start-linux.sh scripts/stick/start-mac.command scripts/stick/start-windows.cmd "$out/probes/"
chmod +x "$out/probes/start-linux.sh" "$out/probes/start-mac.command"
(cd "$out/probes" && sha256sum nowthen-probe-* start-* >SHA256SUMS)
[ "$what" = all ] || exit 0
for target in linux/amd64 linux/arm64 windows/amd64 darwin/amd64 darwin/arm64; do
	os=${target%/*} arch=${target#*/} ending=""
	[ "$os" = windows ] && ending=.exe
	file="$out/nowthen-$os-$arch$ending"
	echo "$file"
	GOOS=$os GOARCH=$arch CGO_ENABLED=0 $GO build -trimpath -ldflags "-s -w" -o "$file" ./cmd/nowthen
done
(cd "$out" && sha256sum nowthen-* >SHA256SUMS)
