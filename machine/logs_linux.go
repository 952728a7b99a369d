package machine

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"runtime"
	"unsafe"

	"golang.org/x/sys/unix"

	"nowthen/core/hardware"
	"nowthen/core/hardware/answers"
	"nowthen/core/job"
)

// driveLog reads a drive's own log, without writing anything to it.
func driveLog(d *hardware.Drive) (answers.Log, error) {
	switch d.Kind {
	case job.NVMe:
		return nvmeLog("/dev/" + controllerOf(d.ID))
	case job.HDD, job.SataSSD:
		return ataLog("/dev/"+d.ID, d.LogicalBytes)
	case job.EMMC, job.Hybrid, job.Cached, job.USBFlash: // they keep none
	}
	return answers.Log{}, errNoLog
}

var controller = regexp.MustCompile(`^nvme\d+`)

// controllerOf is the controller of a name space: nvme0 of nvme0n1.
func controllerOf(name string) string { return controller.FindString(name) }

// why explains why a drive was not asked.
func why(err error) error {
	switch {
	case errors.Is(err, unix.EACCES), errors.Is(err, unix.EPERM):
		return errors.New("that needs administrator rights")
	case errors.Is(err, unix.ENOENT):
		return errors.New("the system shows no device to ask it by")
	case errors.Is(err, unix.ENOTTY), errors.Is(err, unix.EINVAL), errors.Is(err, unix.EOPNOTSUPP):
		return errNoLog
	}
	return err
}

const logTimeoutMS = 3000

// nvmePassthrough is the kernel's nvme_passthru_cmd (linux/nvme_ioctl.h).
type nvmePassthrough struct {
	opcode, flags                 uint8
	_                             uint16
	namespace                     uint32
	_, _                          uint32
	metadata, addr                uint64
	metadataLen, dataLen          uint32
	dw10, dw11, dw12, dw13        uint32
	dw14, dw15, timeoutMS, result uint32
}

// Commands to a controller (NVM Express Base Specification 2.0, 5).
const (
	nvmeAdmin     = 0xC0484E41 // NVME_IOCTL_ADMIN_CMD
	getLogPage    = 0x02
	identify      = 0x06
	healthPage    = 0x02
	wholeDevice   = 0xFFFFFFFF
	ofController  = 1
	bytesPerDword = 4
)

func nvmeLog(device string) (answers.Log, error) {
	f, err := os.Open(device)
	if err != nil {
		return answers.Log{}, why(err)
	}
	defer f.Close()
	page := make([]byte, answers.NVMeHealthPage)
	err = nvmeAsk(f, nvmePassthrough{opcode: getLogPage, namespace: wholeDevice,
		dw10: healthPage | (answers.NVMeHealthPage/bytesPerDword-1)<<16}, page)
	if err != nil {
		return answers.Log{}, why(err)
	}
	itself := make([]byte, answers.NVMeIdentifyPage)
	if nvmeAsk(f, nvmePassthrough{opcode: identify, dw10: ofController}, itself) != nil {
		itself = nil // its limit is not known then
	}
	return answers.NVMeLog(page, itself)
}

func nvmeAsk(f *os.File, c nvmePassthrough, into []byte) error {
	var still runtime.Pinner // the kernel is given where it lies as a number
	still.Pin(&into[0])
	defer still.Unpin()
	c.addr, c.dataLen, c.timeoutMS = uint64(uintptr(unsafe.Pointer(&into[0]))), uint32(len(into)), logTimeoutMS
	status, _, errno := unix.Syscall(unix.SYS_IOCTL, f.Fd(), nvmeAdmin, uintptr(unsafe.Pointer(&c)))
	switch {
	case errno != 0:
		return errno
	case status != 0:
		return fmt.Errorf("the drive answers with status %#x", status)
	}
	return nil
}

// sgHeader is the kernel's sg_io_hdr (scsi/sg.h).
type sgHeader struct {
	interfaceID              int32
	direction                int32
	commandLen, senseMax     uint8
	_                        uint16
	dataLen                  uint32
	data, command, sense     unsafe.Pointer
	timeoutMS, flags         uint32
	_                        int32
	_                        unsafe.Pointer
	status, _, _, senseLen   uint8
	hostStatus, driverStatus uint16
	residual                 int32
	durationMS, info         uint32
}

const (
	sgIO       = 0x2285
	fromDevice = -3
)

// How a command is passed on (SCSI / ATA Translation 4, 12.2.2.3).
const (
	passThrough16    = 0x85
	pioIn            = 4 << 1
	extended         = 1
	lengthInBlocks   = 0x0E // the length stands in the count, in blocks, and the data comes from the device
	allowedWithoutIO = unix.O_RDONLY | unix.O_NONBLOCK
)

func ataLog(device string, logicalBytes int64) (answers.Log, error) {
	f, err := os.OpenFile(device, allowedWithoutIO, 0)
	if err != nil {
		return answers.Log{}, why(err)
	}
	defer f.Close()
	return ataLogBy(func(command, feature byte, lba uint64) ([]byte, error) {
		page, err := ataRead(f, command, feature, lba)
		if err != nil {
			return nil, why(err)
		}
		return page, nil
	}, logicalBytes)
}

// ataRead has an ATA drive send one block, whether it is attached to its own port or behind a bridge that passes commands on.
func ataRead(f *os.File, command, feature byte, lba uint64) ([]byte, error) {
	protocol := byte(pioIn)
	if command == ataReadLogExt {
		protocol |= extended
	}
	cdb := [16]byte{passThrough16, protocol, lengthInBlocks, 0, feature, 0, 1, byte(lba >> 24), byte(lba),
		byte(lba >> 32), byte(lba >> 8), byte(lba >> 40), byte(lba >> 16), 0, command}
	into, sense := make([]byte, answers.ATAPage), make([]byte, 32)
	h := sgHeader{interfaceID: 'S', direction: fromDevice, commandLen: uint8(len(cdb)), senseMax: uint8(len(sense)),
		dataLen: uint32(len(into)),
		data:    unsafe.Pointer(&into[0]), command: unsafe.Pointer(&cdb[0]), sense: unsafe.Pointer(&sense[0]), timeoutMS: logTimeoutMS}
	_, _, errno := unix.Syscall(unix.SYS_IOCTL, f.Fd(), sgIO, uintptr(unsafe.Pointer(&h)))
	runtime.KeepAlive(&cdb)
	runtime.KeepAlive(into)
	runtime.KeepAlive(sense)
	switch {
	case errno != 0:
		return nil, errno
	case h.hostStatus != 0 || h.status != 0:
		return nil, fmt.Errorf("%s refuses command %#x", filepath.Base(f.Name()), command)
	}
	return into, nil
}
