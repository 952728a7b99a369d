package launch

import (
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"log"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/jezek/xgb"
	"github.com/jezek/xgb/xproto"
	"github.com/shirou/gopsutil/v4/process"
)

func init() { xgb.Logger = log.New(io.Discard, "", 0) } // what goes wrong is returned as well

const (
	// frames is how deep below the screen a program's windows lie at most: a window manager
	// puts them into frames of its own.
	frames = 3
	// leastSide is how large a window is at least, px; smaller ones are helpers.
	leastSide = 2
)

func supportsWindows() error {
	if os.Getenv("DISPLAY") == "" {
		return errors.New("the sign window: there is no X11 display here (DISPLAY is not set), and others do not " +
			"tell of another program's windows; use quiet, or a video")
	}
	return nil
}

// shows looks for a window that was not there before.
type shows struct {
	title  string // a part of it; "": any
	x      *xgb.Conn
	root   xproto.Window
	before map[xproto.Window]bool
	pid    xproto.Atom // _NET_WM_PID (Extended Window Manager Hints)
	name   xproto.Atom // _NET_WM_NAME
}

func watchWindows(title string) (watcher, error) {
	x, err := xgb.NewConn()
	if err != nil {
		return nil, fmt.Errorf("the sign window: the X11 display does not answer: %w", err)
	}
	s := &shows{title: title, x: x, root: xproto.Setup(x).DefaultScreen(x).Root, before: map[xproto.Window]bool{}}
	for name, atom := range map[string]*xproto.Atom{"_NET_WM_PID": &s.pid, "_NET_WM_NAME": &s.name} {
		a, err := xproto.InternAtom(x, false, uint16(len(name)), name).Reply()
		if err != nil {
			x.Close()
			return nil, fmt.Errorf("the sign window: %w", err)
		}
		*atom = a.Atom
	}
	for _, w := range s.windows(s.root, 0) {
		s.before[w] = true
	}
	return s, nil
}

func (s *shows) every() time.Duration { return windowEvery }
func (s *shows) close()               { s.x.Close() }

func (s *shows) look(f *family) (time.Time, bool) {
	for _, w := range s.windows(s.root, 0) {
		if !s.before[w] && strings.Contains(s.titleOf(w), s.title) && s.belongs(w, f) {
			return time.Now(), true
		}
	}
	return time.Time{}, false
}

// windows are the programs' windows that can be seen below a window. Windows that go away
// in the meantime are left out.
func (s *shows) windows(below xproto.Window, depth int) []xproto.Window {
	tree, err := xproto.QueryTree(s.x, below).Reply()
	if err != nil || depth == frames {
		return nil
	}
	var list []xproto.Window
	for _, w := range tree.Children {
		a, err := xproto.GetWindowAttributes(s.x, w).Reply()
		if err != nil || a.MapState != xproto.MapStateViewable || a.Class != xproto.WindowClassInputOutput ||
			a.OverrideRedirect {
			continue
		}
		g, err := xproto.GetGeometry(s.x, xproto.Drawable(w)).Reply()
		if err != nil || g.Width < leastSide || g.Height < leastSide {
			continue
		}
		if len(s.property(w, xproto.AtomWmClass)) > 0 { // a frame has none
			list = append(list, w)
			continue
		}
		list = append(list, s.windows(w, depth+1)...)
	}
	return list
}

func (s *shows) property(w xproto.Window, of xproto.Atom) []byte {
	p, err := xproto.GetProperty(s.x, false, w, of, xproto.GetPropertyTypeAny, 0, 1024).Reply()
	if err != nil {
		return nil
	}
	return p.Value
}

func (s *shows) titleOf(w xproto.Window) string {
	if name := s.property(w, s.name); len(name) > 0 {
		return string(name)
	}
	return string(s.property(w, xproto.AtomWmName))
}

// belongs reports whether a window is the launched program's; one without an owner counts, because it is new.
func (s *shows) belongs(w xproto.Window, f *family) bool {
	pid := s.property(w, s.pid)
	if len(pid) != 4 {
		return true
	}
	n := int32(binary.LittleEndian.Uint32(pid)) // xgb speaks little-endian
	return slices.ContainsFunc(f.living(), func(p *process.Process) bool { return p.Pid == n })
}
