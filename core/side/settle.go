package side

import (
	"math"

	"nowthen/core/job"
	"nowthen/core/stats"
)

// States of a side on a setup that learns.
const (
	Settling = "settling" // its runs still change
	Settled  = "settled"  // its last runs stay alike
)

// How a block of runs is told from runs that still change (calculations, section 14).
const (
	leastBlock   = 4   // runs
	lastRuns     = 3   // that make the centre of a block
	rangeFactor  = 1.5 // times the 95 % point of the range of so many normal values
	steepest     = 0.5 // of the spread, by which the first half may exceed the second
	MostLearning = 10  // runs after which no further one is asked for
)

// ranges are the 95 % points of the range of 3, 4, … 10 standard normal values; more than ten count as ten.
var ranges = []float64{3.31, 3.63, 3.86, 4.03, 4.17, 4.29, 4.39, 4.47}

func rangePoint(m int) float64 { return ranges[min(m, 10)-3] }

// Learns reports whether a setup's drive has a cache that learns, so that its first runs differ from later ones.
func Learns(j *job.Job, setup string) bool {
	s := j.Setup(setup)
	if s == nil {
		return false
	}
	d := j.Drive(s.Drive)
	return s.CacheDrive != "" || d != nil && (d.Kind == job.Hybrid || d.Kind == job.Cached)
}

// settles reports whether a test is checked for settling.
func settles(t *job.Test) bool {
	return t.Kind == job.Timed || t.Kind == job.OnDrive || t.Kind == job.OnFiles
}

// sequence are runs of one test in the order in which they were made: ln of their values, lower is better.
type sequence struct {
	x        []float64
	relative []float64 // standard uncertainties
	renewed  []bool    // the instrument's error is new with this run
	prior    float64   // spread within a sitting
}

func sequenceOf(t *job.Test, runs []*job.Run, u job.Usual) sequence {
	q := sequence{prior: u.Within}
	for _, r := range runs {
		x := math.Log(r.Value)
		if t.Better == job.Higher {
			x = -x
		}
		q.x, q.relative = append(q.x, x), append(q.relative, min(Uncertainty(t, r)/r.Value, nothingKnown))
		q.renewed = append(q.renewed, renewed(t, r))
	}
	return q
}

// spread is s = √(s0² + u²) of the last m runs.
func (q *sequence) spread(m int) float64 {
	from := len(q.x) - m
	for _, r := range q.renewed[from:] {
		if !r {
			return q.prior
		}
	}
	return math.Hypot(q.prior, stats.Median(q.relative[from:]))
}

// fall is by how much the first half of the last m runs exceeds the second.
func (q *sequence) fall(m int) float64 {
	last := q.x[len(q.x)-m:]
	half := m / 2
	return mean(last[:half]) - mean(last[m-half:])
}

// width is the range of the last m runs.
func (q *sequence) width(m int) float64 {
	low, high := math.Inf(1), math.Inf(-1)
	for _, x := range q.x[len(q.x)-m:] {
		low, high = min(low, x), max(high, x)
	}
	return high - low
}

// block is how many of the last runs are the settled block; 0 where there is none.
func (q *sequence) block() int {
	for m := len(q.x); m >= leastBlock; m-- {
		if s := q.spread(m); q.width(m) <= rangeFactor*rangePoint(m)*s && q.fall(m) <= steepest*s {
			return m
		}
	}
	return 0
}

// steps is how many of the last runs, at least three, lie together after runs that are all slower than the
// slowest of them; 0 where there are none such (calculations, section 14, last paragraph).
func (q *sequence) steps() int {
	for m := len(q.x); m >= lastRuns; m-- {
		if q.width(m) > rangeFactor*rangePoint(m)*q.spread(m) {
			continue
		}
		before, slowest := q.x[:len(q.x)-m], math.Inf(-1)
		for _, x := range q.x[len(q.x)-m:] {
			slowest = max(slowest, x)
		}
		for _, x := range before {
			if x <= slowest {
				return 0
			}
		}
		if len(before) == 0 {
			return 0
		}
		return m
	}
	return 0
}

func mean(x []float64) float64 {
	sum := 0.0
	for _, v := range x {
		sum += v
	}
	return sum / float64(len(x))
}

// settle looks at the runs of a side on a setup that learns, and returns those that it stands for.
func (s *Side) settle(t *job.Test, runs []*job.Run, u job.Usual) []*job.Run {
	state := Settling
	s.First, s.Last = &runs[0].Value, &runs[len(runs)-1].Value
	s.State = &state
	q := sequenceOf(t, runs, u)
	m := q.block()
	if m == 0 {
		return runs
	}
	state = Settled
	if m < len(runs) {
		s.delta = max(0, q.fall(m)+q.spread(m))
	}
	block := runs[len(runs)-m:]
	values := make([]float64, m)
	for i, r := range block {
		values[i] = r.Value
	}
	centre := stats.Median(values[m-lastRuns:])
	s.Settled = &centre
	return block
}

// Before are the runs before those that lie together, of a side on a drive that doesn't learn: all slower than
// the slowest of them.
func Before(t *job.Test, runs []*job.Run, u job.Usual) []*job.Run {
	if !settles(t) || len(runs) <= lastRuns {
		return nil
	}
	for _, r := range runs {
		if r.Value <= 0 || r.Bound != "" {
			return nil
		}
	}
	q := sequenceOf(t, runs, u)
	m := q.steps()
	if m == 0 {
		return nil
	}
	return runs[:len(runs)-m]
}

// Slipped is the last run of a side that had settled before it and is slower than all of its block, or nil.
func Slipped(t *job.Test, runs []*job.Run, u job.Usual) *job.Run {
	n := len(runs) - 1
	if n < leastBlock {
		return nil
	}
	q := sequenceOf(t, runs[:n], u)
	m := q.block()
	if m == 0 {
		return nil
	}
	last := sequenceOf(t, runs[n:], u).x[0]
	for _, x := range q.x[n-m:] {
		if last <= x {
			return nil
		}
	}
	return runs[n]
}

// StillChanging tells of a side that has not settled after its most runs whether its runs still become faster;
// else they scatter.
func StillChanging(t *job.Test, runs []*job.Run, u job.Usual) bool {
	q := sequenceOf(t, runs, u)
	n := len(q.x)
	return n >= 2 && q.fall(n) > steepest*q.spread(n)
}

// Runs are those that the side stands for, in the order in which they were made.
func (s *Side) Runs() []*job.Run { return s.runs }

// IsSettling reports whether the side is on a setup that learns and has not settled.
func (s *Side) IsSettling() bool { return s != nil && s.State != nil && *s.State == Settling }

// HasSettled reports whether the side is on a setup that learns and has settled.
func (s *Side) HasSettled() bool { return s != nil && s.State != nil && *s.State == Settled }

// lastCounts are how many of the last runs each sitting has, the last one last.
func lastCounts(runs []*job.Run) []int {
	var counts []int
	for _, list := range bySitting(runs[max(0, len(runs)-lastRuns):]) {
		counts = append(counts, len(list))
	}
	return counts
}
