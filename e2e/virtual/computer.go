//go:build virtual

// Package virtual runs a complete virtual computer: an emulator with the distribution's kernel
// and a small initial system, a drive of known speed, and a network that reaches this
// computer's loopback. The real probe runs in it.
package virtual

import (
	"bufio"
	"bytes"
	"debug/elf"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"
)

// Drive is a drive of the computer.
type Drive struct {
	Image string // a file on this computer
	NVMe  bool   // behind a port of PCIe 3.0 with four lanes; else on a SATA port
	// BytesPerS and IOPS are what it does at most.
	BytesPerS, IOPS int64
}

// wanted are the modules that the computer needs, with those that they need.
var wanted = []string{"crc32c_generic", "ext4", "ahci", "sd_mod", "nvme", "e1000"}

// modules returns the files of wanted modules in the order in which they are loaded.
func modules(dir string) ([]string, error) {
	var order []string
	var load func(name string) error
	load = func(name string) error {
		path := filepath.Join(dir, strings.ReplaceAll(name, "_", "-")+".ko")
		if _, err := os.Stat(path); err != nil {
			path = filepath.Join(dir, name+".ko")
		}
		if slices.Contains(order, path) {
			return nil
		}
		f, err := elf.Open(path)
		if err != nil {
			return fmt.Errorf("the module %s: %w", name, err)
		}
		defer f.Close()
		info, err := f.Section(".modinfo").Data()
		if err != nil {
			return err
		}
		for _, field := range bytes.Split(info, []byte{0}) {
			of, found := bytes.CutPrefix(field, []byte("depends="))
			if !found || len(of) == 0 {
				continue
			}
			for _, dep := range strings.Split(string(of), ",") {
				if err := load(dep); err != nil {
					return err
				}
			}
		}
		order = append(order, path)
		return nil
	}
	for _, m := range wanted {
		if err := load(m); err != nil {
			return nil, err
		}
	}
	return order, nil
}

// archive writes files as the kernel unpacks its initial system (cpio, "new ASCII").
type archive struct {
	w  *bufio.Writer
	at int
	n  int
}

func (a *archive) put(name string, mode uint32, data []byte) error {
	a.n++
	head := fmt.Sprintf("070701%08x%08x%08x%08x%08x%08x%08x%08x%08x%08x%08x%08x%08x", a.n, mode, 0, 0, 1, 0, len(data),
		0, 0, 0, 0, len(name)+1, 0)
	for _, part := range [][]byte{append([]byte(head+name), 0), data} {
		n, err := a.w.Write(part)
		if err != nil {
			return err
		}
		a.at += n
		for ; a.at%4 != 0; a.at++ {
			if err := a.w.WriteByte(0); err != nil {
				return err
			}
		}
	}
	return nil
}

const (
	aFolder, aFile, aProgram = 0o040755, 0o100644, 0o100755
)

// setUp is the first program of the initial system: it loads what the drives need, mounts the
// customer's drive, and starts what
// is in its start folder, or else the probe.
const setUp = `#!/bin/busybox sh
/bin/busybox --install -s /bin
export PATH=/bin
mount -t proc proc /proc; mount -t sysfs sys /sys; mount -t devtmpfs dev /dev; mount -t tmpfs tmp /tmp
while read m; do insmod /modules/$m || echo "no $m" > /dev/ttyS0; done < /modules/order
ifconfig lo 127.0.0.1; ifconfig eth0 10.0.2.15 up
n=0; while ! ls /dev/sda1 /dev/nvme0n1p1 2>/dev/null | grep -q . && [ $n -lt 200 ]; do sleep 0.1; n=$((n+1)); done
mount -t ext4 $(ls /dev/sda1 /dev/nvme0n1p1 2>/dev/null | head -1) /mnt || echo "NO DRIVE" > /dev/ttyS0
echo ::respawn:/etc/go > /etc/inittab
echo ::shutdown:/etc/down >> /etc/inittab
exec /bin/init
`

// errand is what is run on the computer beside the probe that joins: the customer's folder is
// written down while nobody has, and else
// held against what was.
const errand = `#!/bin/sh
if [ -e /mnt/before.gz ]; then
	echo CARRIED
	/mnt/nowthen-probe manifest --against /mnt/before.gz --of /mnt/customer --json
	echo CARRIED-END
else
	/mnt/nowthen-probe manifest --of /mnt/customer --out /mnt/before.gz && sync
fi
`

// goOn is run by the initial system once it is up, and again when it has ended.
const goOn = `#!/bin/sh
if [ -d /mnt/start ] && ls /mnt/start | grep -q .; then
	for f in /mnt/start/*; do echo "STARTS $f" > /dev/ttyS0; "$f" > /dev/ttyS0 2>&1; done
elif [ -e /mnt/stick ]; then
	export HOME=/mnt/home
	sh /mnt/stick/nowthen/start-linux.sh > /dev/ttyS0 2>&1
elif [ -e /mnt/join ]; then
	sh /mnt/errand > /dev/ttyS0 2>&1
	arguments=$(cat /mnt/join); rm /mnt/join; sync
	echo "JOINS" > /dev/ttyS0
	/mnt/nowthen-probe join --state /mnt/state --start-in /mnt/start $arguments > /dev/ttyS0 2>&1
else
	sh /mnt/errand > /dev/ttyS0 2>&1
	/mnt/nowthen-probe join --state /mnt/state --start-in /mnt/start > /dev/ttyS0 2>&1
fi
echo "ENDED" > /dev/ttyS0
sleep 2
`

const down = `#!/bin/sh
echo "GOES DOWN" > /dev/ttyS0
umount /mnt || mount -o remount,ro /mnt
sync
`

// initial writes the initial system to a file.
func initial(kept, to string) error {
	f, err := os.Create(to)
	if err != nil {
		return err
	}
	defer f.Close()
	a := &archive{w: bufio.NewWriter(f)}
	for _, dir := range []string{"bin", "proc", "sys", "dev", "tmp", "mnt", "etc", "modules"} {
		if err := a.put(dir, aFolder, nil); err != nil {
			return err
		}
	}
	shell, err := os.ReadFile("/bin/busybox")
	if err != nil {
		return err
	}
	list, err := modules(filepath.Join(kept, "modules"))
	if err != nil {
		return err
	}
	names := ""
	for _, path := range list {
		data, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		names += filepath.Base(path) + "\n"
		if err := a.put("modules/"+filepath.Base(path), aFile, data); err != nil {
			return err
		}
	}
	for _, p := range []struct {
		name string
		mode uint32
		data []byte
	}{
		{"bin/busybox", aProgram, shell}, {"modules/order", aFile, []byte(names)}, {"init", aProgram,
			[]byte(setUp)}, {"etc/go", aProgram, []byte(goOn)}, {"etc/down", aProgram, []byte(down)},
		{"etc/os-release", aFile, []byte("NAME=\"A small initial system\"\nVERSION_ID=\"1\"\n")}, {"TRAILER!!!", 0,
			nil},
	} {
		if err := a.put(p.name, p.mode, p.data); err != nil {
			return err
		}
	}
	return a.w.Flush()
}

// Line is what the computer said on its serial port, and when by this computer's clock.
type Line struct {
	At   time.Time
	Text string
}

// Computer is one that runs.
type Computer struct {
	cmd *exec.Cmd

	mu    sync.Mutex
	lines []Line
	ended chan struct{}
}

// freeSlot is what its board's firmware reports of a slot that nothing is in: M.2, key M, 4 lanes (DSP0134, 7.10).
var freeSlot = []byte("\x09\x0d\x00\x09\x01\x17\x0a\x03\x03\x00\x00\x0c\x01M2_1\x00\x00")

// Start starts a computer from what scripts/virtual.sh has prepared.
func Start(kept, system string, d Drive) (*Computer, error) {
	slot := d.Image + ".slot"
	if err := os.WriteFile(slot, freeSlot, 0o600); err != nil {
		return nil, err
	}
	drive := fmt.Sprintf("file=%s,if=none,id=d,format=raw,cache=writeback,throttling.bps-total=%d,throttling.iops-total=%d", d.Image, d.BytesPerS, d.IOPS)
	args := []string{"-machine", "q35", "-accel", "tcg,thread=multi", "-smp", "2", "-m", "768", "-nodefaults",
		"-nographic", "-serial", "stdio", "-no-user-config",
		"-kernel", filepath.Join(kept, "vmlinuz"), "-initrd", system, "-append", "console=ttyS0 loglevel=4 panic=1",
		"-netdev", "user,id=n", "-device", "e1000,netdev=n,romfile=", "-drive", drive,
		"-smbios", "type=1,manufacturer=Ostrand,product=Bench Model 1", "-smbios", "file=" +
			slot, "-rtc", "base=2031-03-04T05:06:07"}
	if d.NVMe {
		args = append(args, "-device", "pcie-root-port,id=rp0,x-speed=8,x-width=4", "-device",
			"nvme,drive=d,serial=halden-2,bus=rp0")
	} else {
		args = append(args, "-device",
			"ide-hd,drive=d,bus=ide.0,serial=halden-1,model=HALDEN TURNSTONE,rotation_rate=5400")
	}
	c := &Computer{cmd: exec.Command("qemu-system-x86_64", args...), ended: make(chan struct{})}
	out, err := c.cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	c.cmd.Stderr = c.cmd.Stdout
	if err := c.cmd.Start(); err != nil {
		return nil, err
	}
	go func() {
		defer close(c.ended)
		s := bufio.NewScanner(out)
		for s.Scan() {
			c.mu.Lock()
			c.lines = append(c.lines, Line{time.Now(), strings.TrimRight(s.Text(), "\r")})
			c.mu.Unlock()
		}
		_, _ = io.Copy(io.Discard, out)
	}()
	return c, nil
}

// Lines are what the computer has said so far.
func (c *Computer) Lines() []Line {
	c.mu.Lock()
	defer c.mu.Unlock()
	return slices.Clone(c.lines)
}

// Said is what it has said, as text.
func (c *Computer) Said() string {
	var b strings.Builder
	for _, l := range c.Lines() {
		fmt.Fprintf(&b, "%s %s\n", l.At.Format("15:04:05.000"), l.Text)
	}
	return b.String()
}

// Ended reports whether it runs no more.
func (c *Computer) Ended() bool {
	select {
	case <-c.ended:
		return true
	default:
		return false
	}
}

// Off pulls its plug.
func (c *Computer) Off() {
	_ = c.cmd.Process.Kill()
	<-c.ended
	_ = c.cmd.Wait()
}
