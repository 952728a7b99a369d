package measuring

import (
	"context"
	"math"
	"nowthen/bench"
	"nowthen/core/drivetest"
	"nowthen/core/round"
	"slices"
	"sync"
	"time"
)

// Measuring is the current state of a round of tests.
type Measuring struct {
	Job       string `json:"job"`
	Sitting   string `json:"sitting"`
	Setup     string `json:"setup"`
	Dir       string `json:"dir"`
	Simulated bool   `json:"simulated"`
	State     string `json:"state"`
	// Probe is the probe it is measured on, "" for this computer.
	Probe string `json:"probe"`
	// Test, Run and Runs say which run of which test is under way.
	Test   string `json:"test"`
	Run    int    `json:"run"`
	Runs   int    `json:"runs"`
	Laying bool   `json:"laying"` // the test file is being laid out
	// Waiting is what the round waits for, in words; "" if it isn't waiting.
	Waiting string  `json:"waiting"`
	Done    float64 `json:"done"` // 0…1 of this run
	// Rate is the live figure in Unit: IOPS for tests that count requests, ms for
	// the response time, else MB/s.
	Rate float64 `json:"rate"`
	Unit string  `json:"unit"`
	// BlockBytes is the block size under way in a size sweep, else 0.
	BlockBytes int64 `json:"block_bytes"`
	// Points is the run so far: rate, latency and temperature over time.
	Points []LivePoint `json:"points"`
	// HalfWidthPct is the half-width of the rate's 95 % interval so far, %; nil if it isn't known yet.
	HalfWidthPct *float64 `json:"half_width_pct"`
	// Kept counts the runs that are on disk, Of those that were asked for.
	Kept  int     `json:"kept"`
	Of    int     `json:"of"`
	LeftS float64 `json:"left_s"` // about what is left, s
	// MostS is the longest remaining time, s, including laying out the file, waiting for the drive to cool and
	// waiting for one that doesn't answer.
	MostS float64 `json:"most_s"`
	Bytes int64   `json:"bytes"` // written and read so far
	// Cleared is what happened to the test files, once the round has ended.
	Cleared string         `json:"cleared"`
	Refusal *bench.Refusal `json:"refusal"`
}

// LivePoint is one moment of a running test.
type LivePoint struct {
	AtS       float64  `json:"at_s"`
	Rate      float64  `json:"rate"`
	LatencyMS float64  `json:"latency_ms"` // on average; 0 where it is not measured
	TempC     *float64 `json:"temp_c"`     // nil where the system does not tell
}

// livePoints is the number of points kept; a longer run keeps every second one, then every fourth, and so on.
const livePoints = 240

// carrier runs a round: on this computer ([here]), or through a probe ([there]).
type carrier interface {
	// stop asks the round to end, which may take a while.
	stop(ctx context.Context, ch *bench.Change, r *running) error
	// silent returns the refusal to wait any longer.
	silent() *bench.Refusal
}

// running is a running round, and afterwards its result.
type running struct {
	id    string
	by    carrier
	steps []round.Step
	ended chan struct{}

	mu     sync.Mutex
	at     int // the step that is under way
	state  Measuring
	told   time.Time
	stride int // one of so many progresses becomes a point
	since  int // progresses since the last point
	// elapsed and moved are those of the last progress of this run.
	elapsed time.Duration
	moved   int64
}

// begun returns a round that begins with one of its steps.
func begun(id string, by carrier, m Measuring, steps []round.Step, at int) *running {
	m.Points = []LivePoint{}
	if m.Of == 0 {
		for _, s := range steps {
			if !s.Repeat {
				m.Of++
			}
		}
	}
	r := &running{id: id, by: by, steps: steps, ended: make(chan struct{}), state: m, stride: 1}
	r.begin(at)
	return r
}

// end notes how the round ended, what happened to its test files, and why it failed. It reports whether that is new.
func (r *running) end(state, cleared string, why error) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	s := &r.state
	if s.State != Running {
		return false
	}
	s.Laying, s.Waiting, s.LeftS, s.MostS, s.Cleared, s.State = false, "", 0, 0, cleared, state
	if why != nil {
		s.Refusal = measuringRefusal(why, s.Kept)
	}
	return true
}

// count notes further runs that are on disk.
func (r *running) count(n int) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.state.Kept += n
}

// again clears the points for a new run.
func (r *running) anew() {
	r.state.Points, r.stride, r.since = []LivePoint{}, 1, 0
}

// point adds a point, and thins them out when there are many.
func (r *running) point(p LivePoint) {
	if r.since++; r.since < r.stride {
		return
	}
	r.since = 0
	r.state.Points = append(r.state.Points, p)
	if len(r.state.Points) < livePoints {
		return
	}
	half := r.state.Points[:0]
	for i, p := range r.state.Points {
		if i%2 == 1 {
			half = append(half, p)
		}
	}
	r.state.Points, r.stride = half, 2*r.stride
}

// runs reports whether a round is still running; nil isn't.
func (r *running) runs() bool {
	if r == nil {
		return false
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.state.State == Running
}

// under is the step that is under way.
func (r *running) under() int {
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.at
}

// waits stores what the round waits for ("" for nothing), and reports whether it waits or has waited.
func (r *running) waits(what string) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	waits := what != "" || r.state.Waiting != ""
	r.state.Waiting = what
	return waits
}

func (r *running) snapshot() *Measuring {
	r.mu.Lock()
	defer r.mu.Unlock()
	s := r.state
	s.Points = slices.Clone(s.Points)
	return &s
}

// left is about how long the round takes from a step on, s.
func (r *running) left(at int) float64 {
	left := 0.0
	for _, s := range r.steps[at:] {
		left += round.Seconds(s.Test)
	}
	return left
}

// progress stores the progress of a step's run, and reports whether to notify the listeners.
func (r *running) progress(at int, p drivetest.Progress) bool {
	t, left := r.steps[at].Test, r.left(at)
	r.mu.Lock()
	defer r.mu.Unlock()
	s := &r.state
	if p.Elapsed < r.elapsed { // laying out has ended, the test itself begins
		r.moved = 0
	}
	r.elapsed = p.Elapsed
	if s.Laying && !p.Laying {
		r.anew()
	}
	s.Laying, s.Done, s.HalfWidthPct, s.BlockBytes = p.Laying, p.Done, percent(p.HalfWidth), p.BlockBytes
	s.Rate, s.Unit = p.MBs, "MB/s"
	if t.Unit == "IOPS" && t.Params != nil && !p.Laying {
		s.Rate, s.Unit = p.MBs*1e6/float64(t.Params.BlockBytes), "IOPS"
	}
	if t.Unit == "ms" && !p.Laying && p.LatencyMS > 0 {
		s.Rate, s.Unit = p.LatencyMS, "ms"
	}
	point := LivePoint{AtS: p.Elapsed.Seconds(), Rate: s.Rate, LatencyMS: p.LatencyMS}
	if !math.IsNaN(p.TempC) {
		point.TempC = &p.TempC
	}
	r.point(point)
	s.Bytes += p.Bytes - r.moved
	r.moved = p.Bytes
	s.LeftS, s.MostS = left, round.MostLeft(r.steps, at, p).Seconds()
	switch {
	case !p.Laying:
		s.LeftS = left - p.Done*round.Seconds(t)
	case p.Done > 0:
		s.LeftS += p.Elapsed.Seconds() * (1 - p.Done) / p.Done
	}
	if time.Since(r.told) < tellEvery {
		return false
	}
	r.told = time.Now()
	return true
}

// begin stores which step begins.
func (r *running) begin(at int) {
	step := r.steps[at]
	t := step.Test
	r.mu.Lock()
	defer r.mu.Unlock()
	r.at = at
	r.state.MostS = round.MostLeft(r.steps, at, drivetest.Progress{Laying: true}).Seconds()
	r.state.Test, r.state.Unit, r.state.Run, r.state.Runs = t.ID, t.Unit, step.Run, step.Runs
	r.state.Done, r.state.Rate, r.state.BlockBytes = 0, 0, 0
	r.elapsed, r.moved = 0, 0
	r.anew()
}

// tellEvery is the shortest interval between progress events; a simulated drive is faster than the eye.
const tellEvery = 200 * time.Millisecond

func (x *Rounds) tell(r *running) {
	s := r.snapshot()
	x.jobs.Tell(bench.Event{Type: bench.MeasuringEvent, Job: s.Job, Data: s})
}

// percent converts a share to %, and NaN to nil.
func percent(share float64) *float64 {
	if math.IsNaN(share) {
		return nil
	}
	pct := share * 100
	return &pct
}
