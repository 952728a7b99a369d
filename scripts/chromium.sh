#!/bin/sh
# Installs what the tests use the real thing of: Chromium and a PDF reader (pdftotext). With "all" also a display without
# a monitor (Xvfb) and a tool that partitions drives (sfdisk), for make test-all.
set -eu
missing=""
found=""
for name in "${CHROMIUM:-}" chromium chromium-browser google-chrome; do
	if [ -n "$name" ] && command -v "$name" >/dev/null 2>&1; then found=yes; fi
done
[ -n "$found" ] || missing="chromium"
command -v pdftotext >/dev/null 2>&1 || missing="$missing poppler-utils"
if [ "${1:-}" = all ]; then
	command -v Xvfb >/dev/null 2>&1 || missing="$missing xvfb"
	command -v sfdisk >/dev/null 2>&1 || [ -x /usr/sbin/sfdisk ] || missing="$missing fdisk"
fi
# Its build without windows does the journeys in half the time; where there is none, they go through the other.
quicker=""
if [ -z "${CHROMIUM:-}" ] && ! command -v chromium-headless-shell >/dev/null 2>&1; then quicker=chromium-headless-shell; fi
if [ -n "$quicker" ] && [ -z "$missing" ] && command -v apt-get >/dev/null 2>&1 && [ "$(id -u)" = 0 ]; then
	{ apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $quicker; } >/dev/null 2>&1 || true
fi
[ -n "$missing" ] || exit 0
if ! command -v apt-get >/dev/null 2>&1; then
	echo "The tests need$missing, and this is no Debian. Install it and run again (CHROMIUM names the browser's place)." >&2
	exit 1
fi
if [ "$(id -u)" != 0 ]; then
	echo "The tests need $missing, and installing it needs rights. Run: sudo apt-get install $missing" >&2
	exit 1
fi
echo "Installing $missing from the distribution ..."
apt-get update -qq
DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >/dev/null
[ -z "$quicker" ] || DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $quicker >/dev/null 2>&1 || true
