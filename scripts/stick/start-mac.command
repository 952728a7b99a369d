#!/bin/sh
# Starts the probe that fits this computer. Without a line from the job's page it goes on with the job it had joined.
here=$(cd "$(dirname "$0")" && pwd)
case $(uname -m) in
arm64) arch=arm64 ;;
*) arch=amd64 ;;
esac
if [ $# -eq 0 ]; then
	printf 'Address and code from the job'\''s page (or just Enter to go on with the last job): '
	read -r address code
	[ -n "$address" ] && set -- "$address" "$code"
fi
exec "$here/nowthen-probe-darwin-$arch" join --state "$here/nowthen-probe-joined" "$@"
