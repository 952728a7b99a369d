package machine

import (
	"errors"
	"nowthen/core/hardware/answers"
)

// errNoLog means that a drive has no accessible log: a card, a stick, a virtual machine's disk.
var errNoLog = errors.New("it keeps no log that the system reaches")

// Commands to an ATA drive (ATA Command Set 4, 7).
const (
	ataIdentify     = 0xEC
	ataSmart        = 0xB0
	smartReadData   = 0xD0
	smartReadLimits = 0xD1
	smartSignature  = 0xC24F
	ataReadLogExt   = 0x2F
	logOfStatistics = 0x04
)

// ataReader has an ATA drive send one block by a command.
type ataReader func(command, feature byte, lba uint64) ([]byte, error)

// ataLogBy reads an ATA drive's attributes and, where it keeps them, its statistics.
func ataLogBy(read ataReader, logicalBytes int64) (answers.Log, error) {
	data, err := read(ataSmart, smartReadData, smartSignature<<8)
	if err != nil {
		return answers.Log{}, err
	}
	limits, err := read(ataSmart, smartReadLimits, smartSignature<<8)
	if err != nil {
		limits = nil
	}
	l, err := answers.ATAAttributes(data, limits)
	if err != nil {
		return answers.Log{}, err
	}
	for _, page := range []uint64{answers.GeneralStatistics, answers.RotatingStatistics,
		answers.TemperatureStatistics, answers.SolidStateStatistics} {
		if statistics, err := read(ataReadLogExt, 0, logOfStatistics|page<<8); err == nil {
			_ = l.ATAStatistics(statistics, logicalBytes) // a page that the drive does not keep adds nothing
		}
	}
	return l, nil
}
