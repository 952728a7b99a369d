package measuring

import (
	"context"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/machine"
)

// ConditionsHere measures the conditions of measuring on this computer, in a
// folder where one is given.
func (x *Rounds) ConditionsHere(ctx context.Context, dir string) (job.Conditions, error) {
	if err := machine.CheckPath(dir); dir != "" && err != nil {
		return job.Conditions{}, bench.Because(bench.Invalid, err)
	}
	return machine.ConditionsAt(ctx, dir), nil
}

// Computer returns what the operating system reports of this computer.
func (x *Rounds) Computer(ctx context.Context) job.Computer { return machine.ThisComputer(ctx) }

// Folders lists the folders in a folder of this computer.
func (x *Rounds) Folders(path string) (*machine.Listing, error) {
	l, err := machine.Folders(path)
	if err != nil {
		r := bench.Because(bench.Invalid, err)
		r.Do = "Pick another folder."
		return nil, r
	}
	return l, nil
}
