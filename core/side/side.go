// Package side computes one side of a line, the kept runs of one test on one setup: its centre
// and the centre's uncertainty. It also computes the ratio of two sides.
//
// Runs vary within a sitting, sittings vary, and the instrument has an uncertainty of its own;
// all three are variances of ln centre (JCGM 100, the GUM). It is pure and knows nothing of
// findings, screens, HTTP, SQL or files.
package side

import (
	"cmp"
	"math"
	"slices"

	"nowthen/core/job"
	"nowthen/core/stats"
)

// usual is the default spread of a kind of test's values, if neither the job nor the shop has its own: standard
// deviations of ln value.
var usual = map[job.Kind]job.Usual{
	job.Timed:   {Within: 0.04, Between: 0.02, Weight: usualWeight},
	job.OnDrive: {Within: 0.02, Between: 0.015, Weight: usualWeight},
	job.OnFiles: {Within: 0.06, Between: 0.025, Weight: usualWeight},
	job.Control: {Within: 0.01, Between: 0.005, Weight: usualWeight},
	job.Note:    {Within: 0.05, Between: 0.03, Weight: usualWeight},
}

// usualWeight is how many degrees of freedom the table is worth.
const usualWeight = 6

// Usual returns what values of a kind of test usually show in a job.
func Usual(j *job.Job, k job.Kind) job.Usual {
	if u, ok := j.Usual[k]; ok {
		return u
	}
	return usual[k]
}

// Side is one side of a line, in the test's unit. Within, Between and Instrument are
// variances of ln centre.
type Side struct {
	N          int     `json:"n"`
	Sittings   int     `json:"sittings"`
	Centre     float64 `json:"centre"`
	Min        float64 `json:"min"`
	Max        float64 `json:"max"`
	Within     float64 `json:"within"`
	Between    float64 `json:"between"`
	Instrument float64 `json:"instrument"`
	// State is that of a side on a setup that learns ([Settling], [Settled]), else nil. First and Last are then
	// the values of its first and last kept run, and Settled the centre once it has settled.
	State   *string  `json:"state"`
	First   *float64 `json:"first"`
	Settled *float64 `json:"settled"`
	Last    *float64 `json:"last"`
	Rates   *Rates   `json:"rates"`
	// Bound means that a run of it is a bound: the centre lies below or above it.
	Bound job.Bound `json:"bound,omitzero"`

	basis spread
	ratio bool    // it has a logarithm, and is no bound
	delta float64 // by how much ln centre may still fall, of a side that has settled
	runs  []*job.Run
}

// spread is what of a side stays as it is while further runs come.
type spread struct {
	run     stats.Component // of one run within its sitting
	sitting stats.Component // of one sitting
	perRun  float64         // instrument's variance of one run
	renewed bool            // the instrument's error is new with each run
	counts  []int           // runs in each sitting, the last one last
}

// Rates are what runs that moved files carried: MB and files per second (calculations, section 8). FilesS is nil
// where nobody counted the files.
type Rates struct {
	MBs    float64  `json:"mb_s"`
	FilesS *float64 `json:"files_s"`
}

// Of works out the side of a test on a setup; nil where it has no kept run.
func Of(x *job.Index, t *job.Test, setup string) *Side {
	runs := x.Side(t.ID, setup)
	if len(runs) == 0 {
		return nil
	}
	s := &Side{ratio: true}
	for _, r := range runs {
		s.ratio = s.ratio && r.Value > 0 && r.Bound == ""
		s.Bound = cmp.Or(s.Bound, r.Bound)
	}
	if s.ratio && settles(t) && Learns(x.Job, setup) {
		runs = s.settle(t, runs, Usual(x.Job, t.Kind))
	}
	s.N, s.runs = len(runs), runs
	values := make([]float64, len(runs))
	for i, r := range runs {
		values[i] = r.Value
	}
	s.Centre, s.Min, s.Max = stats.Median(values), slices.Min(values), slices.Max(values)
	if s.Settled != nil {
		s.Centre = *s.Settled
	}
	if t.Unit == "s" {
		s.Rates = ratesOf(runs)
	}
	bySitting := bySitting(runs)
	s.Sittings = len(bySitting)
	if !s.ratio {
		return s // a note below zero, or a bound, has no logarithm and no factor
	}
	s.basis = spreadOf(t, runs, bySitting, Usual(x.Job, t.Kind))
	if s.Settled != nil {
		s.basis.counts = lastCounts(runs)
	}
	s.Within, s.Between, s.Instrument = s.basis.variances(s.basis.counts)
	return s
}

// bySitting returns the runs by sitting, the sitting of the last run last.
func bySitting(runs []*job.Run) [][]*job.Run {
	var lists [][]*job.Run
	at := map[string]int{}
	for _, r := range runs {
		i, ok := at[r.Sitting]
		if !ok {
			i = len(lists)
			at[r.Sitting] = i
			lists = append(lists, nil)
		}
		lists[i] = append(lists[i], r)
	}
	last := at[runs[len(runs)-1].Sitting]
	return append(slices.Delete(slices.Clone(lists), last, last+1), lists[last])
}

// nothingKnown is the relative uncertainty beyond which a figure is meaningless.
const nothingKnown = 1e6

func spreadOf(t *job.Test, runs []*job.Run, sittings [][]*job.Run, u job.Usual) spread {
	var s spread
	logs := make([][]float64, len(sittings))
	for i, list := range sittings {
		for _, r := range list {
			logs[i] = append(logs[i], math.Log(r.Value))
		}
		s.counts = append(s.counts, len(list))
	}
	s.run = stats.Within(logs, stats.Prior{SD: u.Within, Weight: u.Weight})
	s.sitting = stats.Between(logs, s.run.Variance, stats.Prior{SD: u.Between, Weight: u.Weight})
	relative := make([]float64, len(runs))
	s.renewed = true
	for i, r := range runs {
		relative[i] = min(Uncertainty(t, r)/r.Value, nothingKnown)
		s.renewed = s.renewed && renewed(t, r)
	}
	m := stats.Median(relative)
	s.perRun = m * m
	return s
}

// variances are those of the centre of so many runs in each sitting: the median of N
// runs is as much less efficient than their mean as [stats.MedianVariance] says.
func (s *spread) variances(counts []int) (within, between, instrument float64) {
	n, squares := 0.0, 0.0
	for _, c := range counts {
		n += float64(c)
	}
	for _, c := range counts {
		squares += float64(c) / n * float64(c) / n
	}
	within = stats.MedianVariance(int(n)) * s.run.Variance / n
	between = s.sitting.Variance * squares
	instrument = s.perRun
	if s.renewed {
		instrument /= n
	}
	return within, between, instrument
}

// WithinPart, BetweenPart and InstrumentPart are the components of ln centre.
func (s *Side) WithinPart() stats.Component {
	return stats.Component{Variance: s.Within, Freedom: s.basis.run.Freedom}
}

// BetweenPart is the component that the sittings bring.
func (s *Side) BetweenPart() stats.Component {
	return stats.Component{Variance: s.Between, Freedom: s.basis.sitting.Freedom}
}

// InstrumentPart is the component that the instrument brings.
func (s *Side) InstrumentPart() stats.Component {
	return stats.Component{Variance: s.Instrument, Freedom: math.Inf(1)}
}

// Parts are all three components of ln centre.
func (s *Side) Parts() []stats.Component {
	return []stats.Component{s.WithinPart(), s.BetweenPart(), s.InstrumentPart()}
}

// HasRatio reports whether the side has a logarithm: its values are above zero and no
// bounds.
func (s *Side) HasRatio() bool { return s != nil && s.ratio }

// Extent is between what its values lie: a bound stands for everything beyond it.
func (s *Side) Extent() (low, high float64) {
	low, high = math.Inf(1), math.Inf(-1)
	for _, r := range s.runs {
		from, to := r.Value, r.Value
		switch r.Bound {
		case job.BoundBelow:
			from = math.Inf(-1)
		case job.BoundAbove:
			to = math.Inf(1)
		}
		low, high = min(low, from), max(high, to)
	}
	return low, high
}

// Central are the runs of which its centre is the median: all of them, or the last three of a side that has settled.
func (s *Side) Central() []*job.Run {
	if s.Settled != nil {
		return s.runs[len(s.runs)-lastRuns:]
	}
	return s.runs
}

// RunVariance is the variance of ln value of one run within its sitting, with its
// degrees of freedom.
func (s *Side) RunVariance() stats.Component { return s.basis.run }

// HalfWidth is the half-width of the 95 % interval of ln centre as far as further runs
// of the same sitting can narrow it: its within and instrument parts. NaN where the side
// has no logarithm.
func (s *Side) HalfWidth() float64 {
	if !s.HasRatio() {
		return math.NaN()
	}
	return stats.Combine(s.WithinPart(), s.InstrumentPart()).HalfWidth(Confidence)
}

// Confidence is the probability of all intervals.
const Confidence = 0.95

// Further is the side as it would be with k more runs in its last sitting that change
// neither centre nor spread. The centre of a side that has settled stays that of three runs.
func (s *Side) Further(k int) *Side {
	f := *s
	f.N += k
	b := &f.basis
	if s.Settled == nil {
		b.counts = slices.Clone(b.counts)
		b.counts[len(b.counts)-1] += k
	}
	b.run.Freedom += float64(k)
	f.Within, f.Between, f.Instrument = b.variances(b.counts)
	return &f
}

// Ratio is how many times as good one side is as another, with its 95 % interval. Above
// 1 it is an improvement.
type Ratio struct {
	Factor, Low, High float64
	// P is the probability that two sides without a difference lie as far apart, and
	// Spread how ln Factor is distributed.
	P      float64
	Spread stats.Spread
}

// RatioOf sets two sides of a test against each other; ok is false where one of them is
// missing or has no logarithm.
func RatioOf(t *job.Test, then, with *Side) (r Ratio, ok bool) {
	if !then.HasRatio() || !with.HasRatio() {
		return Ratio{}, false
	}
	r.Factor = then.Centre / with.Centre
	if t.Better == job.Higher {
		r.Factor = with.Centre / then.Centre
	}
	r.Spread = stats.Combine(append(then.Parts(), with.Parts()...)...)
	r.Low, r.High = About(math.Log(r.Factor), r.Spread.HalfWidth(Confidence))
	// What has settled may become faster still, of a slow learner.
	r.Low, r.High = max(r.Low*math.Exp(-then.delta), math.SmallestNonzeroFloat64),
		min(r.High*math.Exp(with.delta), math.MaxFloat64)
	r.P = r.Spread.Exceeds(math.Log(r.Factor))
	return r, true
}

// About returns the ends of an interval about a logarithm, as ratios that a number can
// hold.
func About(ln, half float64) (low, high float64) {
	return max(math.Exp(ln-half), math.SmallestNonzeroFloat64), min(math.Exp(ln+half), math.MaxFloat64)
}

func ratesOf(runs []*job.Run) *Rates {
	var mbs, files []float64
	for _, r := range runs {
		if r.Bytes > 0 && r.Value > 0 && r.Bound == "" && (r.Files > 0 || r.ByHand()) {
			mbs = append(mbs, float64(r.Bytes)/r.Value/1e6)
			if r.Files > 0 {
				files = append(files, float64(r.Files)/r.Value)
			}
		}
	}
	if len(mbs) == 0 {
		return nil
	}
	rates := &Rates{MBs: stats.Median(mbs)}
	if len(files) > 0 {
		rates.FilesS = new(stats.Median(files))
	}
	return rates
}
