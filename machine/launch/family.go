package launch

import (
	"maps"
	"slices"
	"time"

	"github.com/shirou/gopsutil/v4/process"
)

// mark begins the environment variable of a launched program by which its descendants are recognised, even if
// they left their parent.
const mark = "NOWTHEN_LAUNCH="

// family is the set of processes that a launch started.
type family struct {
	mark  string
	known map[int32]int64 // pid: when it was started, so that a number that was given anew is no member
	// strangers were seen to be no members; they do not become any.
	strangers map[int32]bool
	files     map[string]bool
}

func newFamily(pid int, mark string) *family {
	f := &family{mark: mark, known: map[int32]int64{}, files: map[string]bool{}}
	if p, err := process.NewProcess(int32(pid)); err == nil {
		f.add(p)
	}
	return f
}

func (f *family) add(p *process.Process) bool {
	at, err := p.CreateTime()
	if err != nil {
		return false
	}
	if known, ok := f.known[p.Pid]; ok {
		return known == at
	}
	f.known[p.Pid] = at
	return true
}

// living returns the running members, after looking for new ones.
func (f *family) living() []*process.Process {
	all, err := process.Processes()
	if err != nil {
		return nil
	}
	slices.SortFunc(all, func(a, b *process.Process) int { return int(a.Pid) - int(b.Pid) })
	var list []*process.Process
	strangers := map[int32]bool{}
	for _, p := range all {
		if f.strangers[p.Pid] {
			strangers[p.Pid] = true
			continue
		}
		_, member := f.known[p.Pid]
		if !member {
			if parent, err := p.Ppid(); err == nil {
				_, member = f.known[parent]
			}
		}
		if !member {
			env, err := p.Environ()
			member = err == nil && slices.Contains(env, f.mark)
		}
		switch {
		case !member:
			strangers[p.Pid] = true
		case f.add(p) && !ended(p):
			list = append(list, p)
		}
	}
	f.strangers = strangers // of those that are gone the numbers may be given anew
	return list
}

// ended reports whether a process is over and only its parent has not asked for it yet.
func ended(p *process.Process) bool {
	s, err := p.Status()
	return err == nil && slices.Contains(s, process.Zombie)
}

func (f *family) empty() bool { return len(f.living()) == 0 }

// use is a family's resource usage so far.
type use struct {
	at time.Time
	// s of one core, used or waited for, also by children that have ended: a program that gets none is not quiet
	cpu       float64
	bytes     uint64 // read and written
	processes int
}

func (f *family) use() use {
	u := use{at: time.Now()}
	for _, p := range f.living() {
		u.processes++
		if t, err := p.Times(); err == nil {
			u.cpu += t.User + t.System + queued(p.Pid) + reaped(p.Pid)
		}
		if io, err := p.IOCounters(); err == nil {
			u.bytes += io.ReadBytes + io.WriteBytes
		}
	}
	return u
}

// How long a program has to end when asked, and when it is ended by force.
const (
	patience  = 3 * time.Second
	forceable = 2 * time.Second
)

// end ends the remaining members of the family and returns how. gone: the program itself has ended.
func (f *family) end(gone bool) string {
	living := f.living()
	if len(living) == 0 && gone {
		return ByItself
	}
	asked := map[int32]bool{}
	if f.over(patience, func(p *process.Process) {
		if !asked[p.Pid] { // also those that were just being started
			asked[p.Pid] = true
			_ = ask(p) // one that cannot be asked is ended by force
		}
	}) {
		return WhenAsked
	}
	f.over(forceable, func(p *process.Process) { _ = p.Kill() })
	return ByForce
}

// over waits until none of the family lives, doing something to each that does, time and
// again.
func (f *family) over(most time.Duration, do func(*process.Process)) bool {
	for until := time.Now().Add(most); ; time.Sleep(20 * time.Millisecond) {
		living := f.living()
		if len(living) == 0 {
			return true
		}
		if time.Now().After(until) {
			return false
		}
		for _, p := range living {
			do(p)
		}
	}
}

// learn notes which files the family has open or runs from.
func (f *family) learn() {
	for _, p := range f.living() {
		for _, path := range filesOf(p.Pid) {
			f.files[path] = true
		}
	}
}

func (f *family) learnt() []string { return slices.Sorted(maps.Keys(f.files)) }
