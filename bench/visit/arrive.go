package visit

import (
	"context"
	"strings"

	"nowthen/bench"
	"nowthen/core/hardware"
)

// OpenFor opens a job for a computer from what it says of itself: its maker and model, and its drive. The customer's name is entered later.
func (x *Visits) OpenFor(ctx context.Context, ch *bench.Change, f hardware.Facts) (*bench.View, error) {
	c := f.Computer
	unknown := func(what string) error {
		r := bench.Refuse(bench.Invalid, "The computer doesn't say %s.", what)
		r.Do = "Open a job by hand, then admit the computer on its page."
		return r
	}
	if strings.TrimSpace(c.Maker+c.Model) == "" {
		return nil, unknown("its maker or model")
	}
	d := f.MainDrive(hardware.AnyDrive)
	if d == nil || d.Kind == "" {
		return nil, unknown("what kind of drive it has")
	}
	return x.Open(ctx, ch, Intake{
		Computer: bench.Computer{Maker: c.Maker, Model: c.Model},
		// The rest of the drive is noted as the computer joins, as of every drive that is seen for the first time.
		OldDrive: bench.Drive{Kind: d.Kind},
	})
}
