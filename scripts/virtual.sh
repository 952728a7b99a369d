#!/bin/sh
# Prepares a whole virtual computer and runs the probe's tests in it: an emulator, a kernel of Debian's, busybox. It needs no
# hardware virtualisation. Where it cannot run it says so and fails: what did not run did not pass. NOWTHEN_LEAVE_OUT=virtual
# leaves it out by name.
set -eu
cd "$(dirname "$0")/.."
case " ${NOWTHEN_LEAVE_OUT:-} " in *" virtual "*) echo "LEFT OUT: the tests in a virtual computer, as NOWTHEN_LEAVE_OUT says." >&2; exit 0 ;; esac
missing=""
command -v qemu-system-x86_64 >/dev/null 2>&1 || missing="qemu-system-x86"
[ -x /bin/busybox ] || missing="$missing busybox-static"
command -v mkfs.ext4 >/dev/null 2>&1 || [ -x /usr/sbin/mkfs.ext4 ] || missing="$missing e2fsprogs"
command -v sfdisk >/dev/null 2>&1 || [ -x /usr/sbin/sfdisk ] || missing="$missing fdisk"
kept=${NOWTHEN_VIRTUAL:-${XDG_CACHE_HOME:-$HOME/.cache}/nowthen/virtual}
if [ -n "$missing" ] || [ ! -e "$kept/ready" ]; then
	if ! command -v apt-get >/dev/null 2>&1 || { [ -n "$missing" ] && [ "$(id -u)" != 0 ]; }; then
		echo "NOT RUN: the tests in a virtual computer need Debian's packages $missing and its kernel (sudo apt-get install $missing; NOWTHEN_LEAVE_OUT=virtual leaves them out)." >&2
		exit 1
	fi
fi
if [ -n "$missing" ]; then
	echo "Installing $missing from the distribution ..."
	apt-get update -qq
	DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >/dev/null
fi
mkdir -p "$kept"
exec 9>"$kept/lock"
flock 9
if [ ! -e "$kept/ready" ]; then
	kernel=$(apt-cache depends linux-image-amd64 | sed -n 's/.*Depends: \(linux-image-[0-9].*-amd64\)$/\1/p' | head -1)
	[ -n "$kernel" ] || { apt-get update -qq; kernel=$(apt-cache depends linux-image-amd64 | sed -n 's/.*Depends: \(linux-image-[0-9].*-amd64\)$/\1/p' | head -1); }
	[ -n "$kernel" ] || { echo "NOT RUN: the distribution offers no kernel for the virtual computer." >&2; exit 1; }
	echo "Fetching $kernel for the virtual computer ..."
	rm -rf "$kept/unpacked"
	mkdir -p "$kept/unpacked"
	(cd "$kept/unpacked" && apt-get download -qq "$kernel" 2>/dev/null && dpkg-deb -x ./*.deb . && rm -f ./*.deb)
	cp "$kept/unpacked"/boot/vmlinuz-* "$kept/vmlinuz"
	rm -rf "$kept/modules"
	mkdir -p "$kept/modules"
	# Of some hundred MB only the kinds of drives, file systems and networks that it has.
	find "$kept/unpacked/lib/modules" \( -path '*/drivers/ata/*' -o -path '*/drivers/nvme/*' -o -path '*/drivers/scsi/s[dcg]*' -o -path '*/scsi/scsi_*' -o -path '*/fs/ext4/*' -o -path '*/fs/jbd2/*' \
		-o -name 'mbcache.ko' -o -name 'crc*.ko' -o -name 'libcrc*.ko' -o -name 't10-pi.ko' -o -path '*/ethernet/intel/e1000/*' \) -name '*.ko' -exec cp {} "$kept/modules/" \;
	rm -rf "$kept/unpacked"
	touch "$kept/ready"
fi
exec 9>&- # what is started below must not hold it
export NOWTHEN_VIRTUAL="$kept" PATH="$PATH:/usr/sbin:/sbin"
exec ${GO:-go} test -tags virtual -count=1 -timeout 15m "$@" ./e2e/virtual
