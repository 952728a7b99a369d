package order

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"nowthen/core/round"
)

// Bounds of one order, whoever gives it: another program may answer at the bench's address.
const (
	maxID      = 64
	maxTests   = 60
	maxWanted  = 20  // runs of one test
	maxSteps   = 200 // runs of all tests
	maxHours   = 24.0
	maxArgs    = 64
	maxSustain = 30 * 60.0 // s
	maxTempC   = 150.0
)

// kinds are all that exist.
var kinds = []Kind{Measure, Launch, Restart, Look, Weigh, Capacity, Sustain, List, Compare, Leave, Greet, Stop, Simulate}

// Begun reports whether an order of a kind takes a while and its end is reported.
func Begun(k Kind) bool {
	return slices.Contains([]Kind{Measure, Launch, Restart, Capacity, Sustain, List, Compare}, k)
}

// Allowed returns why a probe refuses an order, or nil: by its counts, sizes and time. The probe itself checks
// the folders.
func (o *Order) Allowed() error {
	switch {
	case o.ID == "" || len(o.ID) > maxID:
		return errors.New("its id is missing or too long")
	case !slices.Contains(kinds, o.Kind):
		return fmt.Errorf("this probe knows no order %q", o.Kind)
	case len(o.Sitting) > maxText || len(o.Do) > maxText:
		return errors.New("a text in it is too long")
	case len(o.Dir) > maxPath || len(o.Folder) > maxPath:
		return errors.New("a path in it is too long")
	case !(o.MaxTempC >= 0 && o.MaxTempC <= maxTempC):
		return fmt.Errorf("%g °C is no temperature limit", o.MaxTempC)
	}
	if err := o.countsAllowed(); err != nil {
		return err
	}
	switch o.Kind {
	case Measure:
		return o.measuringAllowed()
	case Launch:
		return o.launchAllowed()
	case Restart:
		if len(o.Tests) != 1 {
			return errors.New("restarts are of one test")
		}
	case Capacity, Sustain:
		return o.checkAllowed()
	case Simulate:
		if !slices.Contains(Doings, o.Do) {
			return fmt.Errorf("nobody can do %q to a simulated computer", o.Do)
		}
	case List, Compare:
		if o.Dir == "" {
			return errors.New("it doesn't say on which drive")
		}
	case Look, Weigh, Leave, Greet, Stop: // they change nothing
	}
	return nil
}

// countsAllowed looks at how many tests and runs are wanted.
func (o *Order) countsAllowed() error {
	if len(o.Tests) > maxTests {
		return fmt.Errorf("it has %d tests; %d are the most", len(o.Tests), maxTests)
	}
	if len(o.Wanted) != len(o.Tests) {
		return fmt.Errorf("it has %d tests and %d counts of runs", len(o.Tests), len(o.Wanted))
	}
	steps := 0
	for i, n := range o.Wanted {
		if n < 0 || n > maxWanted {
			return fmt.Errorf("it wants %d runs of a test; %d are the most", n, maxWanted)
		}
		if len(o.Tests[i].ID) > maxText || len(o.Tests[i].Name) > maxPath {
			return errors.New("a test's name is too long")
		}
		steps += n
	}
	if steps > maxSteps {
		return fmt.Errorf("it wants %d runs; %d are the most", steps, maxSteps)
	}
	if o.Skip < 0 || o.Skip > steps+1 {
		return fmt.Errorf("it skips %d of %d runs", o.Skip, steps)
	}
	return nil
}

// measuringAllowed looks at what the tests do and how long that takes.
func (o *Order) measuringAllowed() error {
	if err := round.Check(o.Tests, o.Folder); err != nil {
		return err
	}
	hours := 0.0
	for i := range o.Tests {
		hours += float64(o.Wanted[i]) * round.Seconds(&o.Tests[i]) / 3600
	}
	if !(hours <= maxHours) {
		return fmt.Errorf("it would take %.0f hours; %.0f are the most", hours, maxHours)
	}
	return nil
}

// launchAllowed looks at the shape of a launch; whether the program may be launched, the person before the
// computer says.
func (o *Order) launchAllowed() error {
	if len(o.Tests) != 1 || o.Tests[0].Launch == nil || o.Tests[0].Launch.Program == "" {
		return errors.New("it does not say which one program is launched")
	}
	l := o.Tests[0].Launch
	if len(l.Program) > maxPath || len(l.Until) > maxPath || len(l.Args) > maxArgs {
		return errors.New("its command line is too long")
	}
	for _, a := range l.Args {
		if len(a) > maxPath {
			return errors.New("its command line is too long")
		}
	}
	return nil
}

// checkAllowed looks at how a new drive is checked.
func (o *Order) checkAllowed() error {
	c := o.Check
	switch {
	case c == nil:
		return errors.New("the bench didn't say how to check the drive")
	case len(c.Label) > maxText || len(c.Job) > maxText:
		return errors.New("a text in it is too long")
	case !(c.Seconds >= 0 && c.Seconds <= maxSustain):
		return fmt.Errorf("%g seconds of writing are not 0 to %g", c.Seconds, maxSustain)
	case c.MostBytes < 0 || c.MostBytes > math.MaxInt64/4:
		return fmt.Errorf("%d bytes cannot be written", c.MostBytes)
	}
	return nil
}
