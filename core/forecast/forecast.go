// Package forecast estimates what a new drive would bring, from the shop's earlier jobs
// (calculations, section 17): ranges that contain the next job's result in 80 % of cases, and
// how often such ranges were right.
//
// It is pure and knows nothing of screens, HTTP, SQL or files. With too few jobs there is no
// forecast.
package forecast

import (
	"cmp"
	"maps"
	"math"
	"slices"
	"sync"

	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/stats"
)

// Past is what one finished job contributes: its usable lines, in its plan's order.
type Past struct {
	Job       string        `json:"job"` // its number
	Simulated bool          `json:"simulated"`
	Old       job.DriveKind `json:"old"` // kind of drive
	New       job.DriveKind `json:"new"`
	Lines     []Line        `json:"lines"`
}

// Line is a line of an earlier job that can be used: ln of its factor, and of a wait ln of how long it took after, s.
type Line struct {
	Test     string  `json:"test"` // by what
	Group    string  `json:"group"`
	LnFactor float64 `json:"ln_factor"`
	Wait     bool    `json:"wait"`
	LnAfter  float64 `json:"ln_after"`
}

// groups are those of section 16: controls and readings tell nothing of a drive.
var groups = []string{"starts", "programs", "games", "files", "drive"}

// kindOf is the kind of a setup's drive; one with a cache drive counts as cached.
func kindOf(j *job.Job, s *job.Setup) job.DriveKind {
	if s.CacheDrive != "" {
		return job.Cached
	}
	if d := j.Drive(s.Drive); d != nil {
		return d.Kind
	}
	return ""
}

// From takes the usable lines from a finished upgrade's ledger: lines that are comparable, not indicative, and without
// a finding that something else helped. ok is false where there is none, or the drives are not known.
func From(j *job.Job, l *compare.Ledger) (p Past, ok bool) {
	then, with := j.Setup(l.Then), j.Setup(l.With)
	if j.Kind() != job.KindUpgrade || then == nil || with == nil {
		return p, false
	}
	p = Past{Job: j.Head.Number, Simulated: j.Simulated(), Old: kindOf(j, then), New: kindOf(j, with)}
	for i := range l.Lines {
		ln := &l.Lines[i]
		t := j.Test(ln.Test)
		group := catalogue.EffortOf(t).Group
		if ln.Factor == nil || ln.Indicative || ln.Helped() || !slices.Contains(groups, group) ||
			ln.Verdict == compare.NotComparable || ln.Verdict == compare.NotMeasured {
			continue
		}
		own := Line{Test: t.What, Group: group, LnFactor: math.Log(*ln.Factor)}
		if t.Unit == "s" {
			own.Wait, own.LnAfter = true, math.Log(ln.With.Centre)
		}
		p.Lines = append(p.Lines, own)
	}
	return p, p.Old != "" && p.New != "" && len(p.Lines) > 0
}

// Classes, the narrowest first.
const (
	ByTest  = "test"  // test, old kind, new kind
	ByGroup = "group" // group, old kind, new kind
	ByAny   = "any"   // group, disk or flash, new kind
)

// least is how many jobs a class needs.
const least = 5

// orderly is from how many jobs on a range lies between order statistics.
const orderly = 9

// covers is the share of next jobs that a range is to hold.
const covers = 0.8

// family is what old kinds are taken together as in the widest class.
func family(kind job.DriveKind) string {
	if kind == job.HDD || kind == job.Hybrid || kind == job.Cached {
		return "disk"
	}
	return "flash"
}

// Range is an 80 % range on the ln scale, with the class and the number of jobs that it rests on.
type Range struct {
	Low, High float64
	Jobs      int
	Class     string
}

// Middle is the middle of the range.
func (r Range) Middle() float64 { return (r.Low + r.High) / 2 }

// pool are the values of a class, sorted, with the place of each job's own.
type pool struct {
	sorted []float64
	at     map[int]int // by job
}

// poolOf sorts values by job.
func poolOf(values map[int]float64) *pool {
	p := &pool{at: make(map[int]int, len(values))}
	jobs := slices.SortedFunc(maps.Keys(values), func(a, b int) int {
		return cmp.Or(cmp.Compare(values[a], values[b]), cmp.Compare(a, b))
	})
	for i, of := range jobs {
		p.sorted, p.at[of] = append(p.sorted, values[of]), i
	}
	return p
}

// next returns the range of the next value from those of earlier jobs, without the job given (-1: none); ok is false
// where fewer than five are left. With fewer than nine it is that of a normal distribution whose spread is estimated,
// mean ± t·s·√(1 + 1/n) (Hahn and Meeker 1991); from nine on it lies between order statistics (Wilks 1941).
func (p *pool) next(without int) (low, high float64, n int, ok bool) {
	if p == nil {
		return 0, 0, 0, false
	}
	n, gap := len(p.sorted), len(p.sorted)
	if i, in := p.at[without]; in {
		n, gap = n-1, i
	}
	if n < least {
		return 0, 0, n, false
	}
	value := func(i int) float64 {
		if i >= gap {
			i++
		}
		return p.sorted[i]
	}
	if n < orderly {
		mean, ss, of := 0.0, 0.0, float64(n)
		for i := range n {
			mean += value(i) / of
		}
		for i := range n {
			ss += (value(i) - mean) * (value(i) - mean)
		}
		h := stats.Student((1+covers)/2, of-1) * math.Sqrt(ss/(of-1)) * math.Sqrt(1+1/of)
		return mean - h, mean + h, n, true
	}
	rank := (1 - covers) / 2 * float64(n+1)
	return ranked(value, n, rank), ranked(value, n, float64(n+1)-rank), n, true
}

// ranked is the order statistic of a rank from 1, linear between neighbours; a rank beyond the ends is the end.
func ranked(value func(int) float64, n int, rank float64) float64 {
	rank = min(max(rank, 1), float64(n))
	i := int(math.Floor(rank))
	if i == n {
		return value(n - 1)
	}
	return value(i-1) + (rank-float64(i))*(value(i)-value(i-1))
}

// Shop evaluates a shop's earlier jobs. It is safe for concurrent use.
type Shop struct {
	jobs    []Past
	factors map[class]*pool // of ln factors, one a job
	afters  map[class]*pool // of ln waits after, s

	once sync.Once
	past []Left
}

type class struct {
	name, what, old string
	new             job.DriveKind
}

// Of takes the earlier jobs that a forecast may rest on: all real, or all simulated.
func Of(jobs []Past) *Shop {
	factors, afters := map[class]map[int]float64{}, map[class]map[int]float64{}
	put := func(to map[class]map[int]float64, c class, job int, v float64) {
		if to[c] == nil {
			to[c] = map[int]float64{}
		}
		if _, has := to[c][job]; !has { // one a job: the first such line of its plan
			to[c][job] = v
		}
	}
	for i := range jobs {
		p := &jobs[i]
		for _, l := range p.Lines {
			for _, c := range classes(l.Test, l.Group, p.Old, p.New) {
				if c.what != "" {
					put(factors, c, i, l.LnFactor)
				}
			}
			if l.Wait && l.Test != "" {
				put(afters, class{ByTest, l.Test, string(p.Old), p.New}, i, l.LnAfter)
			}
		}
	}
	s := &Shop{jobs: jobs, factors: map[class]*pool{}, afters: map[class]*pool{}}
	for c, values := range factors {
		s.factors[c] = poolOf(values)
	}
	for c, values := range afters {
		s.afters[c] = poolOf(values)
	}
	return s
}

func classes(test, group string, old, new job.DriveKind) [3]class {
	return [3]class{{ByTest, test, string(old), new}, {ByGroup, group, string(old), new},
		{ByAny, group, family(old), new}}
}

// Kinds are the new kinds that earlier jobs went to.
func (s *Shop) Kinds() []job.DriveKind {
	var kinds []job.DriveKind
	for i := range s.jobs {
		if !slices.Contains(kinds, s.jobs[i].New) {
			kinds = append(kinds, s.jobs[i].New)
		}
	}
	slices.Sort(kinds)
	return kinds
}

// Factor is the range of ln factor of a test from one kind of drive to another; ok is false where too few jobs tell.
func (s *Shop) Factor(test, group string, old, new job.DriveKind) (r Range, ok bool) {
	return s.factor(test, group, old, new, -1)
}

// factor is Factor without the job of that index.
func (s *Shop) factor(test, group string, old, new job.DriveKind, without int) (r Range, ok bool) {
	for _, c := range classes(test, group, old, new) {
		if r.Low, r.High, r.Jobs, ok = s.factors[c].next(without); ok {
			r.Class = c.name
			return r, true
		}
	}
	return Range{}, false
}

// after is the range of ln of a test's wait after, s, of the narrowest class alone, without the job
// of that index: for a
// computer that was not measured yet.
func (s *Shop) after(test string, old, new job.DriveKind, without int) (r Range, ok bool) {
	r.Class = ByTest
	r.Low, r.High, r.Jobs, ok = s.afters[class{ByTest, test, string(old), new}].next(without)
	return r, ok
}

// Left is a forecast of one past job's line from the others, and what was measured; factors.
type Left struct {
	Job      string  `json:"job"`
	Test     string  `json:"test"`
	Class    string  `json:"class"`
	Low      float64 `json:"low"`
	High     float64 `json:"high"`
	Measured float64 `json:"measured"`

	old string
	new job.DriveKind
}

// Inside reports whether the measured factor lay in the range.
func (l Left) Inside() bool { return l.Low <= l.Measured && l.Measured <= l.High }

// Past leaves out each past job once and forecasts it from the others: one entry for each job and test, the first such
// line of its plan, where the others are enough.
func (s *Shop) Past() []Left {
	s.once.Do(func() { s.past = s.leftOut() })
	return s.past
}

func (s *Shop) leftOut() []Left {
	list := []Left{}
	for i := range s.jobs {
		p := &s.jobs[i]
		seen := map[string]bool{}
		for _, l := range p.Lines {
			if seen[l.Test] && l.Test != "" {
				continue
			}
			seen[l.Test] = true
			r, ok := s.factor(l.Test, l.Group, p.Old, p.New, i)
			if !ok {
				continue
			}
			list = append(list, Left{p.Job, l.Test, r.Class, math.Exp(r.Low), math.Exp(r.High), math.Exp(l.LnFactor),
				string(p.Old), p.New})
		}
	}
	return list
}

// shown is the number of forecasts from which a record is shown.
const shown = 20

// Record is how often ranges were right.
type Record struct {
	Forecasts int `json:"forecasts"`
	Held      int `json:"held"`
	// Share is Held ÷ Forecasts; nil below 20 forecasts: not known yet.
	Share   *float64      `json:"share"`
	Classes []ClassRecord `json:"classes"`
}

// ClassRecord is that of one class of forecasts.
type ClassRecord struct {
	Class     string        `json:"class"`
	Test      string        `json:"test"`
	Old       string        `json:"old"`
	New       job.DriveKind `json:"new"`
	Forecasts int           `json:"forecasts"`
	Held      int           `json:"held"`
}

// RecordOf counts how often the ranges of past jobs held, in all and by class.
func RecordOf(past []Left) Record {
	r := Record{Classes: []ClassRecord{}}
	for _, l := range past {
		at := slices.IndexFunc(r.Classes, func(c ClassRecord) bool {
			return c.Class == l.Class && c.Test == l.Test && c.Old == l.old && c.New == l.new
		})
		if at < 0 {
			at = len(r.Classes)
			r.Classes = append(r.Classes, ClassRecord{Class: l.Class, Test: l.Test, Old: l.old, New: l.new})
		}
		r.Forecasts++
		r.Classes[at].Forecasts++
		if l.Inside() {
			r.Held++
			r.Classes[at].Held++
		}
	}
	slices.SortFunc(r.Classes, func(a, b ClassRecord) int {
		return cmp.Or(cmp.Compare(a.Test, b.Test), cmp.Compare(a.Old, b.Old), cmp.Compare(a.New, b.New),
			cmp.Compare(a.Class, b.Class))
	})
	if r.Forecasts >= shown {
		share := float64(r.Held) / float64(r.Forecasts)
		r.Share = &share
	}
	return r
}
