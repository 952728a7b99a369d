#!/bin/sh
# Makes sure that a Chromium is there for the browser tests.
set -eu
if [ -n "${CHROMIUM:-}" ] && [ -x "$CHROMIUM" ]; then exit 0; fi
for name in chromium chromium-browser google-chrome; do
	if command -v "$name" >/dev/null 2>&1; then exit 0; fi
done
if ! command -v apt-get >/dev/null 2>&1; then
	echo "The browser tests need Chromium, and this is no Debian. Install it and run again, or name it in CHROMIUM." >&2
	exit 1
fi
if [ "$(id -u)" != 0 ]; then
	echo "The browser tests need Chromium, and installing it needs rights. Run: sudo apt-get install chromium" >&2
	exit 1
fi
echo "Installing Chromium from the distribution ..."
apt-get update -qq
DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends chromium >/dev/null
