#!/bin/sh
# Starts the probe that fits this computer. It announces the computer with the stick's key; without one it asks for a line
# from the job's page. Nothing is written to the stick.
here=$(cd "$(dirname "$0")" && pwd)
case $(uname -m) in
arm64) arch=arm64 ;;
*) arch=amd64 ;;
esac
if [ $# -eq 0 ] && [ -f "$here/nowthen-stick.json" ]; then
	set -- --stick "$here/nowthen-stick.json"
elif [ $# -eq 0 ]; then
	printf 'Address and code from the job'\''s page (or just Enter to go on with the last job): '
	read -r address code
	[ -n "$address" ] && set -- "$address" "$code"
fi
exec "$here/nowthen-probe-darwin-$arch" join "$@"
