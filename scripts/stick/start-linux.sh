#!/bin/sh
# Starts the probe that fits this computer. It announces the computer with the stick's key; without one it asks for a line
# from the job's page. Nothing is written to the stick.
here=$(cd "$(dirname "$0")" && pwd)
case $(uname -m) in
x86_64) arch=amd64 ;;
aarch64) arch=arm64 ;;
i?86) arch=386 ;;
*) echo "There is no probe for this processor ($(uname -m)). Time it with the finish line, by video or by hand." >&2; exit 1 ;;
esac
probe="$here/nowthen-probe-linux-$arch"
if [ ! -x "$probe" ]; then # a stick that lets nothing run
	copy=$(mktemp -d) || exit 1
	cp "$probe" "$copy/nowthen-probe" && chmod +x "$copy/nowthen-probe" || exit 1
	probe="$copy/nowthen-probe"
fi
[ "$(id -u)" = 0 ] || echo "Without administrator rights the drive's health stays unknown. To see it: sudo sh $0"
if [ $# -eq 0 ] && [ -f "$here/nowthen-stick.json" ]; then
	set -- --stick "$here/nowthen-stick.json"
elif [ $# -eq 0 ]; then
	printf 'Address and code from the job'\''s page (or just Enter to go on with the last job): '
	read -r address code
	[ -n "$address" ] && set -- "$address" "$code"
fi
exec "$probe" join "$@"
