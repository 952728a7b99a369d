package probe

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"nowthen/core/drivetest"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/manifest"
	"nowthen/core/order"
	"nowthen/core/round"
	"nowthen/machine"
	"nowthen/machine/contents"
	"nowthen/machine/launch"
	"nowthen/machine/startup"
)

// Computer is what a joined probe measures: this computer ([This]), or a simulated one.
type Computer interface {
	// Identity identifies it: a digest, "" if it can't be identified.
	Identity() string
	// Simulated names the simulated computer that it is, "" for a real one.
	Simulated() string
	Facts(ctx context.Context) *hardware.Facts
	// Conditions are the test conditions for a folder, with the programs that use the drive or the processor most,
	// in words.
	Conditions(ctx context.Context, dir string) (job.Conditions, []string, error)
	// Weigh returns the size of a folder and its largest subfolders.
	Weigh(ctx context.Context, dir string) (order.Weighed, error)
	// List lists the files of an order's folder, or of the users' own where it names none, in the file out, without the
	// folder skip. It returns which folder that was.
	List(ctx context.Context, o *order.Order, out, skip string, tell func(drivetest.Progress)) (folder string,
		sum manifest.Listed, err error)
	// Open opens a folder on a drive as a place of a round; gentle writes nothing.
	Open(ctx context.Context, dir string, gentle bool) (round.Place, error)
	// Launcher launches a test's program each time that it is called, and says how long it
	// took until its sign. The run has no id, sitting or time yet.
	Launcher(t *job.Test, seed uint64) (func(ctx context.Context) (*job.Run, error), error)
	// Do performs a technician's action on a simulated computer; see order.Doings.
	Do(what string) error
}

// This is the computer that the probe runs on.
type This struct {
	// StartIn is a folder whose programs its system starts, where that is one of its own; else "".
	StartIn string
}

// Identity is a digest of the board and its network ports.
func (This) Identity() string { return machine.Identity() }

// Simulated is "": it is real.
func (This) Simulated() string { return "" }

// Facts are what its system reports.
func (This) Facts(ctx context.Context) *hardware.Facts { return machine.Hardware(ctx) }

// Conditions looks for about two seconds.
func (This) Conditions(ctx context.Context, dir string) (job.Conditions, []string, error) {
	if dir != "" {
		if _, err := os.Stat(dir); err != nil {
			return job.Conditions{}, nil, fmt.Errorf("there is no folder %s", dir)
		}
	}
	w, err := machine.Watch(ctx, dir)
	if err != nil {
		return job.Conditions{}, nil, err
	}
	causes := []string{}
	for _, c := range w.Causes {
		causes = append(causes, fmt.Sprintf("%s: %.3g MB/s, processor %.3g %%", c.Program, c.MBs, c.CPUPct))
	}
	return w.Conditions, causes, nil
}

// Weigh reads a folder, three levels deep.
func (This) Weigh(ctx context.Context, dir string) (order.Weighed, error) {
	if dir == "" {
		return order.Weighed{}, errors.New("give a folder on the drive")
	}
	const deep = 3 // as far as a folder's name still says whose it is
	whole, largest, err := contents.Sizes(ctx, dir, deep, order.MostFolders)
	w := order.Weighed{Dir: dir, Files: whole.Files, Bytes: whole.Bytes}
	for _, s := range largest {
		w.Largest = append(w.Largest, order.Folder(s))
	}
	return w, err
}

// Open opens a folder, or where nothing can be written there, one of the user's own on the
// same drive.
func (This) Open(_ context.Context, dir string, gentle bool) (round.Place, error) {
	if dir == "" {
		return nil, errors.New("give a folder on the drive")
	}
	if gentle {
		return machine.OpenReadOnly(dir)
	}
	// A killed probe may have left its test file here. Failing to look for it is no reason not to measure.
	if machine.SystemFolder(dir) && !machine.SystemTop(dir) {
		return nil, fmt.Errorf("%s belongs to the system; the probe doesn't write there", dir)
	}
	errs := []error{fmt.Errorf("the drive of %s has no folder for a test file; name one", dir)}
	for _, d := range writable(dir) {
		if machine.SystemFolder(d) {
			continue // the top of the system's volume stands for its drive
		}
		_, _ = machine.Sweep(d)
		place, err := machine.OpenFolder(d)
		if err == nil {
			return place, nil
		}
		errs = append(errs, err)
	}
	return nil, errs[len(errs)-1]
}

// Launcher starts the program on this computer.
func (This) Launcher(t *job.Test, _ uint64) (func(ctx context.Context) (*job.Run, error), error) {
	if t.Launch == nil {
		return nil, errors.New("the test doesn't say which program to launch")
	}
	until, err := launch.ParseSign(t.Launch.Until)
	if err != nil {
		return nil, err
	}
	l, err := launch.New(launch.Options{Program: t.Launch.Program, Args: t.Launch.Args, Until: until,
		Cold: t.Launch.Cold})
	if err != nil {
		return nil, err
	}
	return func(ctx context.Context) (*job.Run, error) {
		r, err := l.Run(ctx)
		if err != nil {
			return nil, err
		}
		return &job.Run{Test: t.ID, Value: r.Value, U: &r.U, Method: job.Automatic, Warmth: r.Warmth, Note: r.Note}, nil
	}, nil
}

// Boot identifies the current start of its system.
func (This) Boot() (string, error) { return machine.Boot() }

// Watch is what its system's start reads.
func (t This) Watch(command []string) (startup.Entry, error) {
	return startup.Here(t.StartIn).Entry(command)
}

// Restart asks its system to restart.
func (This) Restart(ctx context.Context) error { return startup.Restart(ctx) }

// Do is refused: it is real.
func (This) Do(string) error { return errors.New("this is a real computer") }

// writable are a folder and, after it, the user's own folders on the same file system: the
// place where a drive is mounted often takes files from its administrator alone.
func writable(dir string) []string {
	list := []string{dir}
	var own []string
	if home, err := os.UserHomeDir(); err == nil {
		own = append(own, home)
	}
	for _, d := range append(own, os.TempDir()) {
		if whole, err := filepath.Abs(d); err == nil && machine.SameVolume(dir, whole) {
			list = append(list, whole)
		}
	}
	return list
}
