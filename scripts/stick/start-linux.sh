#!/bin/sh
# Starts the probe that fits this computer. Without a line from the job's page it goes on with the job it had joined.
here=$(dirname "$0")
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
if [ $# -eq 0 ]; then
	printf 'Address and code from the job'\''s page (or just Enter to go on with the last job): '
	read -r address code
	[ -n "$address" ] && set -- "$address" "$code"
fi
exec "$probe" join --state "$here/nowthen-probe-joined" "$@"
