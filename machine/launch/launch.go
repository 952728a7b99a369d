// Package launch times programs until they are ready: it starts a program, waits for the
// sign that it can be worked with, and ends what it started.
//
// A launch is warm, or cold if the program's own files were dropped from the system's memory before, which is
// checked. Only processes that the launch started are ended: first asked, then killed if they don't end.
package launch

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"time"

	"github.com/oklog/ulid/v2"

	"nowthen/core/job"
	"nowthen/core/stopwatch"
)

// GiveUp is the default wait for a sign.
const GiveUp = 10 * time.Minute

// Ways in which a program ended.
const (
	ByItself  = "by itself"
	WhenAsked = "when asked"
	ByForce   = "by force"
)

// Options configure launches.
type Options struct {
	Program string
	Args    []string
	Until   Sign
	// Cold drops the program's files from memory before each run. A first launch, which doesn't count, determines
	// which files those are.
	Cold bool
	// GiveUp ends the waiting for a sign; 0: [GiveUp].
	GiveUp time.Duration
}

// Run is one launch.
type Run struct {
	Value float64 `json:"value"` // from the start to the sign, s
	U     float64 `json:"u"`     // standard uncertainty of that, s
	// Warmth is warm, cold, or "" where it was to be cold and that could not be checked.
	Warmth job.Warmth `json:"warmth"`
	// ColdChecked: none of the program's own files was in memory when it was started.
	ColdChecked bool `json:"cold_checked"`
	// Ended is how the program ended: by itself, when asked or by force.
	Ended string `json:"ended"`
	// Note says what kept a launch from being cold, or "".
	Note string `json:"note,omitzero"`
}

// Launcher launches one program, as often as it is told to.
type Launcher struct {
	o     Options
	files []string // of the program, for cold launches
	learn bool
}

// New returns a launcher. It refuses what this system cannot do.
func New(o Options) (*Launcher, error) {
	if _, err := exec.LookPath(o.Program); err != nil {
		return nil, fmt.Errorf("the program cannot be started: %w", err)
	}
	if err := o.Until.supported(); err != nil {
		return nil, err
	}
	if o.Cold && !canForget {
		return nil, errors.New("cold launches: this system does not let a program's files be dropped from memory and " +
			"checked; restart the computer and launch without --cold")
	}
	if o.GiveUp == 0 {
		o.GiveUp = GiveUp
	}
	return &Launcher{o: o, learn: o.Cold}, nil
}

// Run launches the program once and ends it again, also where its sign does not come or
// ctx is done.
func (l *Launcher) Run(ctx context.Context) (*Run, error) {
	if l.learn { // which files the program uses is seen while it runs
		if _, err := l.once(ctx, nil); err != nil {
			return nil, err
		}
		l.learn = false
	}
	r := &Run{Warmth: job.Warm}
	if l.o.Cold {
		r.ColdChecked, r.Note = forget(l.files)
		r.Warmth = ""
		if r.ColdChecked {
			r.Warmth = job.Cold
		}
	}
	return l.once(ctx, r)
}

// once launches the program once into r; nil: only its files are learnt.
func (l *Launcher) once(ctx context.Context, r *Run) (_ *Run, err error) {
	ctx, cancel := context.WithTimeoutCause(ctx, l.o.GiveUp,
		fmt.Errorf("%s did not come within %v", l.o.Until, l.o.GiveUp))
	defer cancel()
	out, in, err := os.Pipe()
	if err != nil {
		return nil, err
	}
	defer out.Close()
	cmd := exec.Command(l.o.Program, l.o.Args...)
	mark := mark + ulid.Make().String()
	cmd.Env = append(os.Environ(), mark)
	cmd.Stdout, cmd.Stderr = in, in
	apart(cmd)
	watch, err := l.o.Until.watch()
	if err != nil {
		in.Close()
		return nil, err
	}
	defer watch.close()
	began := time.Now()
	if err := cmd.Start(); err != nil {
		in.Close()
		return nil, fmt.Errorf("the program cannot be started: %w", err)
	}
	in.Close()
	fam := newFamily(cmd.Process.Pid, mark)
	exited := make(chan exit, 1)
	go func() {
		err := cmd.Wait()
		exited <- exit{time.Now(), err}
	}()
	heard := make(chan time.Time, 1)
	go listen(out, l.o.Until.lineOf(), heard)

	seen, gone, err := l.await(ctx, watch, fam, exited, heard, r == nil)
	how := fam.end(gone)
	if !gone {
		select {
		case <-exited:
		case <-time.After(forceable): // what hangs in the system cannot be ended by anyone
		}
	}
	if err != nil {
		return nil, fmt.Errorf("%w; the program was ended (%s)", err, how)
	}
	if r != nil {
		r.Value, r.U, r.Ended = seen.Sub(began).Seconds(), stopwatch.Automatic(l.o.Until.resolution().Seconds()), how
	}
	return r, nil
}

// exit is when and how the program itself ended.
type exit struct {
	at  time.Time
	err error
}

// await waits for the sign and returns when it was, and whether the program itself was
// gone by then.
func (l *Launcher) await(ctx context.Context, w watcher, fam *family, exited chan exit, heard chan time.Time,
	learn bool) (at time.Time, gone bool, err error) {
	look := time.NewTicker(w.every())
	defer look.Stop()
	relatives := time.NewTicker(lookForRelatives)
	defer relatives.Stop()
	var files <-chan time.Time
	if learn {
		t := time.NewTicker(lookForFiles)
		defer t.Stop()
		files = t.C
		defer func() { l.files = fam.learnt() }()
		fam.learn()
	}
	status := "" // of a program that failed
	for {
		select {
		case <-ctx.Done():
			return at, gone, context.Cause(ctx)
		case at = <-heard:
			if learn {
				fam.learn()
			}
			return at, gone, nil
		case e := <-exited:
			gone, exited = true, nil
			if e.err != nil {
				status = fmt.Sprintf(" (%v)", e.err)
			}
			if l.o.Until.kind == signExit {
				if e.err != nil {
					return at, gone, fmt.Errorf("the program failed: %w", e.err)
				}
				return e.at, gone, nil
			}
			// Some programs start others and leave; what is left may still give the sign.
		case <-files:
			fam.learn()
		case <-relatives.C: // who started whom can be told only while both live
			fam.living()
		case <-look.C:
			at, ok := w.look(fam)
			if ok {
				if learn {
					fam.learn()
				}
				return at, gone, nil
			}
			if gone && fam.empty() {
				select { // what it said last may not have been read yet
				case at = <-heard:
					return at, gone, nil
				case <-time.After(lastWords):
				}
				return at, gone, fmt.Errorf("the program ended before %s came%s", l.o.Until, status)
			}
		}
	}
}

const (
	lookForFiles     = 20 * time.Millisecond
	lookForRelatives = 100 * time.Millisecond
	// lastWords is how long to wait for the output of a program that has ended.
	lastWords = 200 * time.Millisecond
	// longestLine bounds what is kept of a line of output.
	longestLine = 64 << 10
)

// listen reads the output to its end, which keeps the program from blocking, and signals a line that contains
// the text; "" waits for none.
func listen(out io.Reader, text string, heard chan<- time.Time) {
	buf := make([]byte, 32<<10)
	var line []byte
	for {
		n, err := out.Read(buf)
		if n > 0 && text != "" {
			now := time.Now()
			for _, b := range buf[:n] {
				if b == '\n' {
					line = line[:0]
					continue
				}
				if len(line) == longestLine { // a line without an end: its last part is kept
					line = append(line[:0], line[longestLine/2:]...)
				}
				if line = append(line, b); endsWith(line, text) {
					heard <- now
					text, line = "", nil
					break
				}
			}
		}
		if err != nil {
			return
		}
	}
}

func endsWith(line []byte, text string) bool {
	return len(line) >= len(text) && string(line[len(line)-len(text):]) == text
}
