package side

import (
	"math"
	"strconv"

	"nowthen/core/figures"
	"nowthen/core/job"
	"nowthen/core/stopwatch"
)

// Resolutions where none is stated, s.
const (
	usualResolution = 0.01     // of a time that a program takes
	usualFrame      = 1.0 / 30 // of a clip
	engineClock     = 0.001    // of the drive tests' clock
)

// Uncertainty is a run's own standard uncertainty in its test's unit, or where it
// states none that of its method (JCGM 100, 4.3).
func Uncertainty(t *job.Test, r *job.Run) float64 {
	if r.U != nil {
		return *r.U
	}
	switch r.Method {
	case job.Stopwatch:
		return stopwatch.ByHand(0, presses(t, r))
	case job.FinishLine:
		return stopwatch.ByFinishLine(0, presses(t, r), 0)
	case job.Video:
		frames := make([]float64, presses(t, r))
		for i := range frames {
			frames[i] = usualFrame
		}
		return stopwatch.ByVideo(frames...)
	case job.Typed:
		if g := r.Range; g != nil {
			return (g[1] - g[0]) / math.Sqrt(12)
		}
		return stopwatch.ByTyping(lastDigit(t, r), t.Unit == "s")
	case job.Automatic, job.RestartWatch, job.SystemRecord:
	}
	switch {
	case t.Unit == "s":
		return stopwatch.Automatic(usualResolution)
	case t.Kind == job.OnDrive:
		return withinRun(r)
	}
	return 0
}

// withinRun is the uncertainty of a drive test's rate: the standard error of the rate
// within the run, which is its half-width ÷ 1.96, and the clock's.
func withinRun(r *job.Run) float64 {
	relative := 0.0
	if r.HalfWidthPct != nil {
		relative = *r.HalfWidthPct / 100 / normal95
	}
	if r.Seconds > 0 {
		relative = math.Hypot(relative, stopwatch.Automatic(engineClock)/r.Seconds)
	}
	return relative * r.Value
}

// normal95 is the quantile of the normal distribution by which a half-width of 95 % is
// a standard error.
const normal95 = 1.96

// presses is how many presses, or frames, entered a run's value, as far as it tells.
func presses(t *job.Test, r *job.Run) int {
	holds := 0
	if r.Held > 0 {
		holds = 1
	}
	if len(r.Phases) == 0 {
		return stopwatch.Presses([]bool{true}, holds)
	}
	var counts []bool
	for _, p := range t.Phases {
		if _, ok := r.Phases[p.ID]; ok {
			counts = append(counts, p.Counted())
		}
	}
	return stopwatch.Presses(counts, holds)
}

// lastDigit is what the last digit of a typed figure is worth in the test's unit: as it
// was given, in the unit in which it was given, where that is known.
func lastDigit(t *job.Test, r *job.Run) float64 {
	if q, err := figures.Read(r.Given, t.Unit); err == nil {
		if step, err := figures.Convert(q.Step, q.Unit, t.Unit); err == nil {
			return step
		}
	}
	q, err := figures.Read(strconv.FormatFloat(math.Abs(r.Value), 'f', -1, 64), t.Unit)
	if err != nil {
		return 1
	}
	return q.Step
}

// renewed reports whether the error of a run's method is new with each run, so that more
// runs lessen it.
func renewed(t *job.Test, r *job.Run) bool {
	return r.Method == job.Stopwatch || r.Method == job.FinishLine || r.Method == job.Video || t.Kind == job.OnDrive
}
