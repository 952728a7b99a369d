// Package label makes the codes on the labels of a job's two drives while both lie on the
// bench. Before anything is written that could hit the customer's files, the technician has to
// enter the new drive's code.
package label

import (
	"errors"
	"fmt"
	"regexp"
	"strings"
)

// ErrOld means that the label is the old drive's.
var ErrOld = errors.New("that is the label of the old drive: nothing is written on it")

var codes = regexp.MustCompile(`^(?:([0-9]{1,8})[ -]?)?(OLD|NEW)$`)

// CheckNew returns why a code isn't the one of a job's new drive, or nil. number is the job's, "" where
// it is not known; a code may be
// typed without it.
func CheckNew(code, number string) error {
	code = strings.TrimSpace(code)
	m := codes.FindStringSubmatch(strings.ToUpper(code))
	if m == nil {
		return fmt.Errorf("%q is no code of a label, such as 0007 NEW", code)
	}
	if m[2] == "OLD" {
		return ErrOld
	}
	own := number[strings.LastIndexByte(number, '-')+1:]
	if own != "" && m[1] != "" && strings.TrimLeft(m[1], "0") != strings.TrimLeft(own, "0") {
		return fmt.Errorf("%q is the label of a drive of another job; this one is %s", code, number)
	}
	return nil
}
