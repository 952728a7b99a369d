package launch

import (
	"errors"
	"fmt"
	"net"
	"os"
	"strconv"
	"strings"
	"time"
)

// Kinds of signs.
const (
	signExit   = "exit"
	signLine   = "line"
	signFile   = "file"
	signPort   = "port"
	signWindow = "window"
	signQuiet  = "quiet"
)

// Signs reports how signs are written.
const Signs = "exit, line:TEXT, file:PATH, port:NUMBER, window[:TITLE] or quiet"

// Sign reports when a program is ready.
type Sign struct {
	kind, of string
}

// ParseSign reads a sign: exit (the program ends), line:TEXT (a line of its output holds the
// text), file:PATH (the file appears or is written again), port:NUMBER (something listens
// there), window (its first window) or window:TITLE, quiet (its reading, writing and use of
// the processor have been low for two seconds, which are taken off).
func ParseSign(s string) (Sign, error) {
	kind, of, given := strings.Cut(s, ":")
	switch kind {
	case signExit, signQuiet:
		if given {
			return Sign{}, fmt.Errorf("the sign %s takes nothing behind it", kind)
		}
	case signLine, signFile:
		if of == "" || kind == signLine && strings.Contains(of, "\n") {
			return Sign{}, fmt.Errorf("the sign %s wants one text behind it, as in %s:ready", kind, kind)
		}
	case signPort:
		n, err := strconv.ParseUint(of, 10, 16)
		if err != nil || n == 0 {
			return Sign{}, fmt.Errorf("the sign port wants a number from 1 to 65535 behind it, not %q", of)
		}
		of = strconv.FormatUint(n, 10)
	case signWindow:
		if given && of == "" {
			return Sign{}, errors.New("the sign window: wants a part of the title behind it")
		}
	default:
		return Sign{}, fmt.Errorf("%q is no sign: say %s", s, Signs)
	}
	return Sign{kind, of}, nil
}

// String returns the sign as part of a sentence.
func (s Sign) String() string {
	switch s.kind {
	case signExit:
		return "the program's end"
	case signLine:
		return fmt.Sprintf("a line with %q", s.of)
	case signFile:
		return "the file " + s.of
	case signPort:
		return "an answer at port " + s.of
	case signWindow:
		if s.of != "" {
			return fmt.Sprintf("a window with %q in its title", s.of)
		}
		return "a window"
	}
	return "quiet"
}

// supported returns why the sign cannot be seen on this system, or nil.
func (s Sign) supported() error {
	switch s.kind {
	case signWindow:
		return supportsWindows()
	case signQuiet:
		if !seesIO {
			return errors.New("the sign quiet: this system does not tell what a program reads and writes; use a video")
		}
	}
	return nil
}

func (s Sign) lineOf() string {
	if s.kind == signLine {
		return s.of
	}
	return ""
}

// How often is looked for a sign that does not come by itself.
const (
	lookEvery   = 2 * time.Millisecond
	windowEvery = 10 * time.Millisecond
	quietEvery  = 100 * time.Millisecond
	// wakes is how late a waiting process is woken at most, as a rule.
	wakes = time.Millisecond
)

// resolution is how far apart a sign and its being seen lie at most.
func (s Sign) resolution() time.Duration {
	switch s.kind {
	case signFile, signPort:
		return lookEvery + wakes
	case signWindow:
		return windowEvery + wakes
	case signQuiet:
		return quietEvery
	}
	return wakes
}

// watcher looks for a sign.
type watcher interface {
	every() time.Duration
	// look returns when the sign came, if it has.
	look(*family) (time.Time, bool)
	close()
}

// watch begins to look for the sign, before the program is started.
func (s Sign) watch() (watcher, error) {
	switch s.kind {
	case signFile:
		before, err := os.Stat(s.of)
		if err != nil && !errors.Is(err, os.ErrNotExist) {
			return nil, fmt.Errorf("%s cannot be seen: %w", s, err)
		}
		return &appears{path: s.of, before: before}, nil
	case signPort:
		p := &opens{s.of}
		if _, open := p.look(nil); open {
			return nil, fmt.Errorf("something listens at port %s already: end it first, or the launch cannot be told "+
				"from it", s.of)
		}
		return p, nil
	case signWindow:
		return watchWindows(s.of)
	case signQuiet:
		return &settles{}, nil
	}
	return tells{}, nil
}

// tells is for signs that arrive on their own; it only checks whether the program is still running.
type tells struct{}

func (tells) every() time.Duration                 { return 50 * time.Millisecond }
func (tells) look(*family) (at time.Time, ok bool) { return }
func (tells) close()                               {}

// appears looks for a file that was not there, or was another.
type appears struct {
	path   string
	before os.FileInfo // nil: not there
}

func (a *appears) every() time.Duration { return lookEvery }
func (a *appears) close()               {}
func (a *appears) look(*family) (time.Time, bool) {
	info, err := os.Stat(a.path)
	if err != nil {
		return time.Time{}, false
	}
	b := a.before
	return time.Now(), b == nil || !os.SameFile(b, info) || b.Size() != info.Size() ||
		!b.ModTime().Equal(info.ModTime())
}

// opens looks for something that listens at a port of this computer.
type opens struct{ port string }

func (o *opens) every() time.Duration { return lookEvery }
func (o *opens) close()               {}
func (o *opens) look(*family) (time.Time, bool) {
	for _, host := range []string{"127.0.0.1", "::1"} {
		if c, err := net.DialTimeout("tcp", net.JoinHostPort(host, o.port), 100*time.Millisecond); err == nil {
			c.Close()
			return time.Now(), true
		}
	}
	return time.Time{}, false
}

// A program is quiet while all its processes together stay under this.
const (
	quietFor   = 2 * time.Second
	quietCPU   = 0.10    // of one core
	quietBytes = 1 << 20 // read and written, bytes a second
)

// settles looks for the beginning of two quiet seconds.
type settles struct {
	before use
	busy   time.Time // the end of the last stretch in which it was not quiet
}

func (s *settles) every() time.Duration { return quietEvery }
func (s *settles) close()               {}
func (s *settles) look(f *family) (time.Time, bool) {
	now := f.use()
	if s.before.at.IsZero() {
		s.before, s.busy = now, now.at
		return time.Time{}, false
	}
	d := now.at.Sub(s.before.at).Seconds()
	if d <= 0 {
		return time.Time{}, false
	}
	if now.processes != s.before.processes || (now.cpu-s.before.cpu)/d > quietCPU ||
		float64(now.bytes-s.before.bytes)/d > quietBytes {
		s.busy = now.at
	}
	s.before = now
	return s.busy, now.processes > 0 && now.at.Sub(s.busy) >= quietFor
}
