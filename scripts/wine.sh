#!/bin/sh
# Runs the tests of the Windows build under Wine: core, simulated drives and the
# volume without buffering. Where Wine is missing and this is no Debian with
# rights to install it, it says so and fails: what did not run did not pass. The Wine
# prefix is kept between runs; NOWTHEN_WINE names another place for it. With "bench" it
# runs the engine beside a bare loop of the same calls instead: that shows the cost of our
# calls there, and says nothing of Windows or a drive.
set -eu
cd "$(dirname "$0")/.."
missing=""
command -v wine >/dev/null 2>&1 || missing="wine wine64"
command -v x86_64-w64-mingw32-gcc >/dev/null 2>&1 || missing="$missing gcc-mingw-w64-x86-64"
if [ -n "$missing" ]; then
	if ! command -v apt-get >/dev/null 2>&1 || [ "$(id -u)" != 0 ]; then
		echo "NOT RUN: the tests of the Windows build need $missing (sudo apt-get install $missing)." >&2
		exit 1
	fi
	echo "Installing $missing from the distribution ..."
	apt-get update -qq
	DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >/dev/null
fi
work=$(mktemp -d)
kept=${NOWTHEN_WINE:-${XDG_CACHE_HOME:-$HOME/.cache}/nowthen/wine}
mkdir -p "$kept"
exec 9>"$kept/lock"
flock 9 # two runs at once share the prefix one after the other
WINEPREFIX="$kept/prefix" WINEDEBUG=-all WINEARCH=win64 DISPLAY=
export WINEPREFIX WINEDEBUG WINEARCH DISPLAY
trap 'wineserver -k 2>/dev/null || true; rm -rf "$work"' EXIT
if [ ! -e "$kept/ready-windows" ]; then
	rm -rf "$WINEPREFIX"
	wineboot -i >/dev/null 2>&1
	# Windows without a screen: they are there for who asks, and drawn nowhere.
	wine reg add 'HKCU\Software\Wine\Drivers' /v Graphics /d null /f >/dev/null 2>&1
fi
# Go's runtime loads bcryptprimitives.dll, which Wine 8 lacks; the same random
# bytes come from advapi32.
cat > "$work/random.c" <<'C'
#include <windows.h>
BOOLEAN NTAPI SystemFunction036(PVOID buffer, ULONG bytes);
__declspec(dllexport) BOOL WINAPI ProcessPrng(PBYTE buffer, SIZE_T bytes) { return SystemFunction036(buffer, (ULONG)bytes); }
C
x86_64-w64-mingw32-gcc -shared -O2 -o "$WINEPREFIX/drive_c/windows/system32/bcryptprimitives.dll" "$work/random.c" -ladvapi32
touch "$kept/ready-windows"
if [ "${1:-}" = bench ]; then
	GOOS=windows GOARCH=amd64 CGO_ENABLED=0 ${GO:-go} test -c -o "$work/test.exe" ./machine
	cd machine && wine "$work/test.exe" -test.run '^$' -test.bench CloseToTheMetal -test.benchtime 9x
	exit
fi
for package in core/drivetest core/filetest sim machine machine/launch; do
	[ -n "$(find "$package" -maxdepth 1 -name '*_test.go')" ] || {
		echo "$package has no tests: the list in this script is out of date." >&2
		exit 1
	}
	GOOS=windows GOARCH=amd64 CGO_ENABLED=0 ${GO:-go} test -c -o "$work/test.exe" "./$package"
	echo "windows: $package"
	(cd "$package" && wine "$work/test.exe" -test.short)
done
echo "windows: the bench"
GOOS=windows GOARCH=amd64 CGO_ENABLED=0 ${GO:-go} build -o "$work/nowthen.exe" ./cmd/nowthen
GOOS=windows GOARCH=amd64 CGO_ENABLED=0 ${GO:-go} build -o "$work/nowthen-probe.exe" ./cmd/nowthen-probe
NOWTHEN_EXE="$work/nowthen.exe" NOWTHEN_PROBE_EXE="$work/nowthen-probe.exe" ${GO:-go} test -tags windowsbench -count=1 ./e2e/windows
