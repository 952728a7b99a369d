package launch

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os/exec"
	"slices"
	"strings"
	"sync"
	"time"
)

// shown is a window that can be seen, as a teller names it.
type shown struct {
	number int64
	owner  int32 // its process
	wide   float64
	high   float64
	title  string
	titled bool // the system told the title
}

// teller is a program of the system's own that goes on telling which windows are in sight: a line for each look, an array of
// windows, each [number, process, width, height, title or null].
type teller struct {
	cmd   *exec.Cmd
	out   io.Closer
	title string
	known map[int64]bool // windows that were there before

	mu    sync.Mutex
	looks []look
	ended error
}

// look is what was in sight at a time.
type look struct {
	at   time.Time
	list []shown
}

// firstTold is how long the first look is waited for.
const firstTold = 15 * time.Second

// mostLooks bounds how many looks wait to be read; the oldest give way.
const mostLooks = 64

// tellerOf starts a teller, and returns once it has told what is in sight now.
func tellerOf(cmd *exec.Cmd, title string) (*teller, error) {
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := cmd.Start(); err != nil {
		return nil, fmt.Errorf("the sign window: the system does not tell of windows: %w", err)
	}
	t := &teller{cmd: cmd, out: out, title: title, known: map[int64]bool{}}
	first := make(chan error, 1)
	go t.listen(out, first)
	select {
	case err = <-first:
	case <-time.After(firstTold):
		err = errors.New("it said nothing")
	}
	if err != nil {
		t.close()
		return nil, fmt.Errorf("the sign window: the system does not tell of windows: %w", err)
	}
	return t, nil
}

// listen reads looks until the teller ends.
func (t *teller) listen(out io.Reader, first chan<- error) {
	lines := bufio.NewScanner(out)
	lines.Buffer(nil, 4<<20)
	told := false
	for lines.Scan() {
		at := time.Now()
		list, err := windowsIn(lines.Bytes())
		if err != nil {
			t.end(err)
			break
		}
		if !told {
			for _, w := range list {
				t.known[w.number] = true
			}
			told = true
			first <- nil
			continue
		}
		t.mu.Lock()
		if t.looks = append(t.looks, look{at, list}); len(t.looks) > mostLooks {
			t.looks = slices.Delete(t.looks, 0, 1)
		}
		t.mu.Unlock()
	}
	t.end(errors.Join(lines.Err(), errors.New("it ended")))
	if !told {
		first <- t.ended
	}
}

func (t *teller) end(err error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.ended == nil {
		t.ended = err
	}
}

func (t *teller) every() time.Duration { return windowEvery }

// look looks for a window of the family that was not there before. The time is when it was told.
func (t *teller) look(f *family) (time.Time, bool) {
	t.mu.Lock()
	looks := t.looks
	t.looks = nil
	t.mu.Unlock()
	if len(looks) == 0 {
		return time.Time{}, false
	}
	living := map[int32]bool{}
	for _, p := range f.living() {
		living[p.Pid] = true
	}
	for _, l := range looks {
		for _, w := range l.list {
			if !t.known[w.number] && living[w.owner] && w.wide >= leastSide && w.high >= leastSide && (t.title == "" || w.titled && strings.Contains(w.title, t.title)) {
				return l.at, true
			}
		}
	}
	return time.Time{}, false
}

// close ends the teller.
func (t *teller) close() {
	_ = t.cmd.Process.Kill()
	_ = t.out.Close()
	_ = t.cmd.Wait() // ended by us
}

// windowsIn reads a line of a teller.
func windowsIn(line []byte) ([]shown, error) {
	var rows [][]json.RawMessage
	if err := json.Unmarshal(line, &rows); err != nil {
		return nil, fmt.Errorf("what it says of windows cannot be read: %w", err)
	}
	list := make([]shown, 0, len(rows))
	for i, row := range rows {
		var w shown
		var title *string
		to := []any{&w.number, &w.owner, &w.wide, &w.high, &title}
		if len(row) != len(to) {
			return nil, fmt.Errorf("what it says of window %d has %d parts instead of %d", i+1, len(row), len(to))
		}
		for k, v := range row {
			if err := json.Unmarshal(v, to[k]); err != nil {
				return nil, fmt.Errorf("what it says of window %d cannot be read: %w", i+1, err)
			}
		}
		if title != nil {
			w.title, w.titled = *title, true
		}
		list = append(list, w)
	}
	return list, nil
}
