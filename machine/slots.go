//go:build linux || windows

package machine

import (
	"errors"
	"io/fs"

	"nowthen/core/hardware"
	"nowthen/core/hardware/answers"
)

// slotsFrom notes the slots that a board's firmware tells of in its table, or why that is not known.
func slotsFrom(f *hardware.Facts, table []byte, err error) {
	if err == nil {
		f.Slots, err = answers.Slots(table)
	}
	switch {
	case err == nil:
	case errors.Is(err, fs.ErrPermission):
		f.Lacks("slots", "only with administrator rights")
	case errors.Is(err, fs.ErrNotExist):
		f.Lacks("slots", "the firmware does not tell")
	default:
		f.Lacks("slots", err.Error())
	}
}
