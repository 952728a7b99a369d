// Command nowthen-probe measures on the customer's computer: one file, no installation.
package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"os/signal"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"syscall"
	"time"

	"github.com/oklog/ulid/v2"
	"github.com/spf13/cobra"
	"golang.org/x/term"

	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/jobfile"
	"nowthen/core/plan"
	"nowthen/core/round"
	"nowthen/core/words"
	"nowthen/machine"
	"nowthen/probe"
	"nowthen/sim"
)

// Exit codes.
const (
	exitFailed  = 1
	exitRefused = 2   // wrong use, or a file was refused
	exitStopped = 130 // stopped by Ctrl-C; what was finished is kept
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	os.Exit(run(ctx, os.Args[1:], os.Stdout, os.Stderr))
}

func run(ctx context.Context, args []string, stdout, stderr io.Writer) int {
	root := &cobra.Command{Use: "nowthen-probe", Short: "Measures the drive of this computer", SilenceUsage: true,
		SilenceErrors: true}
	root.AddCommand(measureCommand(), joinCommand(), factsCommand(), conditionsCommand(), launchCommand(),
		manifestCommand(), capacityCommand(), sustainCommand(), elevateCommand())
	began := false // a command, after what it was given was understood
	root.PersistentPreRun = func(*cobra.Command, []string) { began = true }
	root.SetArgs(args)
	root.SetOut(stdout)
	root.SetErr(stderr)
	err := root.ExecuteContext(ctx)
	var refused *jobfile.Refusal
	switch {
	case err == nil:
		return 0
	case errors.Is(err, context.Canceled):
		fmt.Fprintln(stderr, "Stopped. Test files and programs are removed; finished runs are kept.")
		return exitStopped
	case errors.As(err, &refused):
		for _, line := range refused.Lines() {
			fmt.Fprintln(stderr, line)
		}
		return exitRefused
	}
	if !began {
		fmt.Fprintln(stderr, "nowthen-probe: "+err.Error()+"; nowthen-probe see --help")
		return exitRefused
	}
	fmt.Fprintln(stderr, "nowthen-probe: "+strings.ReplaceAll(err.Error(), "\n", "; "))
	return exitFailed
}

// options of measure.
type options struct {
	in, plan, out, sim, read string
	json                     bool
}

func measureCommand() *cobra.Command {
	o := &options{}
	cmd := &cobra.Command{
		Use:   "measure --in DIR",
		Short: "Measure the drive that holds a folder and write a sitting file",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return o.measure(cmd.Context(), cmd.OutOrStdout(), cmd.ErrOrStderr())
		},
	}
	cmd.Flags().StringVar(&o.in, "in", "", "folder on the drive that is measured")
	cmd.Flags().StringVar(&o.plan, "plan", plan.DefaultTemplate, "name of a template, or a job file whose plan is used")
	cmd.Flags().StringVar(&o.out, "out", "", "file to write (default: a name with the time, in this folder)")
	cmd.Flags().StringVar(&o.sim, "sim", "", "measure a simulated drive instead: "+strings.Join(sim.Names(), ", "))
	cmd.Flags().StringVar(&o.read, "read", "",
		"folder for a test that reads one, such as a game's; it is only read")
	cmd.Flags().BoolVar(&o.json, "json", false, "print the sitting file on standard output as well")
	return cmd
}

// tests returns the tests of the plan: a template's, by id or name, or a job file's.
func (o *options) tests() ([]job.Test, error) {
	for _, t := range plan.Templates() {
		if t.ID == o.plan || strings.EqualFold(t.Name, o.plan) {
			return t.Tests, nil
		}
	}
	data, err := os.ReadFile(o.plan)
	if err != nil {
		var names []string
		for _, t := range plan.Templates() {
			names = append(names, t.ID)
		}
		return nil, fmt.Errorf("--plan %s is neither a template (%s) nor a readable file", o.plan,
			strings.Join(names, ", "))
	}
	j, err := jobfile.Read(o.plan, data)
	if err != nil {
		return nil, err
	}
	return j.Tests, nil
}

func (o *options) measure(ctx context.Context, stdout, stderr io.Writer) error {
	tests, err := o.tests()
	if err != nil {
		return err
	}
	if o.read != "" {
		if o.read, err = filepath.Abs(o.read); err != nil {
			return err
		}
	} else if o.sim != "" {
		o.read = "simulated" // every simulated drive has a folder to read
	}
	outline, left, err := probe.NewOutline(tests, o.read)
	if err != nil {
		return err
	}
	f := &jobfile.SittingFile{Probe: jobfile.Probe{Engine: drivetest.EngineVersion,
		System: runtime.GOOS + "/" + runtime.GOARCH}, Tests: outline.Tests, Runs: []job.Run{}}
	place, err := o.place(ctx, f, outline.Gentle)
	if err != nil {
		return err
	}
	if err := drivetest.CheckRoom(place.Facts(), outline.Span); outline.Span > 0 && err != nil {
		return err
	}
	fmt.Fprintf(stderr, "%s: %d tests, at most %s, at most %s written in all. ", where(o, place), len(outline.Tests),
		rough(outline.Longest(place)), size(outline.Writes))
	if outline.Gentle {
		fmt.Fprintln(stderr, "Only existing files are read.")
	} else {
		fmt.Fprintf(stderr, "A test file of up to %s is made and removed.\n", size(outline.Span))
	}
	if len(left) > 0 {
		fmt.Fprintf(stderr, "Not unattended: %s.\n", strings.Join(left, ", "))
	}
	show := newDisplay(stderr)
	seed := uint64(time.Now().UnixNano())
	if o.sim != "" {
		seed = 1 // a simulated drive gives the same figures each time
	}
	limit := 0.0
	if r := f.Drive.Rated; r != nil {
		limit = r.MaxTempC
	}
	runs, cleared, failed := probe.Measure(ctx, place, outline, seed, limit,
		func() string { return ulid.Make().String() }, show.step)
	show.end()
	if !outline.Gentle {
		fmt.Fprintln(stderr, words.Cleared(cleared.Left, cleared.Trimmed, cleared.Untrimmed))
	}
	f.Runs = append(f.Runs, runs...)
	for _, r := range f.Runs {
		i := slices.IndexFunc(f.Tests, func(t job.Test) bool { return t.ID == r.Test })
		aside := ""
		switch {
		case r.SetAside != nil:
			aside = "  set aside: " + r.SetAside.Reason
		case r.Repeat:
			aside = "  the first test again, to see whether the drive has drifted"
		}
		fmt.Fprintf(stderr, "  %-24s %10.4g %s%s%s\n", f.Tests[i].Name, r.Value, f.Tests[i].Unit, sure(r), aside)
	}
	if len(f.Runs) == 0 && failed != nil {
		return failed
	}
	data, err := jobfile.WriteSitting(f)
	if err != nil {
		return errors.Join(failed, err)
	}
	out := o.out
	if out == "" {
		out = time.Now().Format("probe-20060102-150405") + ".nowthen-sitting.json"
	}
	if err := os.WriteFile(out, data, 0o600); err != nil {
		return errors.Join(failed, fmt.Errorf("writing the sitting file: %w", err))
	}
	fmt.Fprintf(stderr, "%d runs are in %s\n", len(f.Runs), out)
	if o.json {
		_, err = stdout.Write(data)
	}
	return errors.Join(failed, err)
}

// place opens the place to measure and fills in its facts. For a gentle plan not even a small trial file is
// written.
func (o *options) place(ctx context.Context, f *jobfile.SittingFile, gentle bool) (round.Place, error) {
	if o.sim != "" {
		d, err := sim.Open(o.sim, 1)
		if err != nil {
			return nil, err
		}
		spec := d.Spec()
		f.Drive, f.Attached = spec.Label, spec.Attached
		f.Conditions.FillPct, f.Conditions.DriveTempC = &spec.FillPct, &spec.TempC
		return d, nil
	}
	if o.in == "" {
		return nil, errors.New("--in must be a folder on the drive under test")
	}
	dir, err := filepath.Abs(o.in)
	if err != nil {
		return nil, err
	}
	// A killed probe may have left its test file here. Failing to look for it is no reason not to measure.
	_, _ = machine.Sweep(dir)
	f.Computer = machine.ThisComputer(ctx)
	f.Conditions = machine.ConditionsAt(ctx, dir)
	f.Facts = machine.Hardware(ctx)
	if d := f.Facts.Drive(f.Facts.DriveOf(dir)); d != nil {
		f.Drive = job.Drive{DriveLabel: job.DriveLabel{Kind: d.Kind, Maker: d.Maker, Model: d.Model,
			CapacityBytes: d.CapacityBytes, RPM: d.RPM}, DriveFound: job.DriveFound{SerialDigest: d.SerialDigest}}
		if d.Attached != nil {
			f.Attached = *d.Attached
		}
		if d.MaxTempC != nil {
			f.Drive.Rated = &job.Rated{MaxTempC: *d.MaxTempC}
		}
	}
	if gentle {
		return machine.OpenReadOnly(dir)
	}
	return machine.OpenFolder(dir)
}

func where(o *options, vol round.Place) string {
	if o.sim != "" {
		return "SIMULATED drive " + o.sim
	}
	return fmt.Sprintf("%s (%s)", o.in, vol.Facts().FileSystem)
}

func sure(r job.Run) string {
	if r.HalfWidthPct == nil || math.IsNaN(*r.HalfWidthPct) {
		return ""
	}
	return fmt.Sprintf("  ± %.2g %%", *r.HalfWidthPct)
}

// rough formats an approximate duration.
func rough(d time.Duration) string {
	if d < 90*time.Second {
		return fmt.Sprintf("%.0f s", d.Seconds())
	}
	return fmt.Sprintf("%.0f min", d.Minutes())
}

// size formats a number of bytes in powers of two.
func size(n int64) string {
	if n < 1<<30 {
		return fmt.Sprintf("%d MiB", n>>20)
	}
	return fmt.Sprintf("%.1f GiB", float64(n)/(1<<30))
}

// sold formats a capacity in powers of ten, as drives are sold.
func sold(n int64) string {
	switch {
	case n >= 1e12:
		return fmt.Sprintf("%.3g TB", float64(n)/1e12)
	case n >= 1e9:
		return fmt.Sprintf("%.4g GB", float64(n)/1e9)
	}
	return fmt.Sprintf("%d MB", n/1e6)
}

// display shows progress: on a terminal in one changing line, elsewhere in one line per run.
type display struct {
	w        io.Writer
	terminal bool
	last     string
}

func newDisplay(w io.Writer) *display {
	f, ok := w.(*os.File)
	return &display{w: w, terminal: ok && term.IsTerminal(int(f.Fd()))}
}

func (d *display) step(s probe.Step) {
	what := fmt.Sprintf("%s, run %d of %d", s.Test.Name, s.Run, s.Runs)
	if s.Laying {
		what = "Preparing: " + s.Test.Name
	}
	if d.terminal {
		line := fmt.Sprintf("\r%-40s %3.0f %%  %8.4g MB/s", what, s.Done*100, s.MBs)
		if !s.Laying && !math.IsNaN(s.HalfWidth) {
			line += fmt.Sprintf("  ± %.2g %%", s.HalfWidth*100)
		}
		fmt.Fprintf(d.w, "%-78s", line)
	} else if what != d.last {
		fmt.Fprintln(d.w, what)
	}
	d.last = what
}

func (d *display) end() {
	if d.terminal && d.last != "" {
		fmt.Fprintln(d.w)
	}
}
