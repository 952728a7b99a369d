package compare

import (
	"math"
	"slices"
	"strings"

	"nowthen/core/fairness"
	"nowthen/core/job"
	"nowthen/core/side"
	"nowthen/core/stats"
)

const (
	// asGoodAsEqual is the ratio within which a difference doesn't matter.
	asGoodAsEqual = 1.1
	// Level is the share of ledgers without any difference in which one may be claimed.
	Level = 0.05
)

func newLine(x *job.Index, t *job.Test, sides fairness.Sides, findings []fairness.Finding, o Options) Line {
	ln := Line{Test: t.ID, Findings: []string{}, Then: sides.Then, With: sides.With, test: t}
	ln.KeepsUp = keepsUp(x, t, ln.Then, ln.With)
	ln.Phases = phases(t, ln.Then, ln.With)
	blocked := false
	for _, f := range findings {
		if slices.Contains(f.Lines, t.ID) {
			if !slices.Contains(ln.Findings, f.Rule) { // one rule can find something on each side
				ln.Findings = append(ln.Findings, f.Rule)
			}
			blocked = blocked || f.Effect == fairness.Blocks
		}
	}
	if ln.Then == nil || ln.With == nil {
		ln.Verdict = NotMeasured
		return ln
	}
	if blocked {
		ln.Verdict = NotComparable
		return ln
	}
	ln.Indicative = ln.Then.N == 1 || ln.With.N == 1
	if ln.Then.Bound != "" || ln.With.Bound != "" {
		if ln.Verdict = direction(t, ln.Then, ln.With); ln.Verdict == NotComparable {
			ln.Indicative = false
		} else {
			ln.Felt = felt(t, apart(ln.Then, ln.With), ln.Then.Centre, o)
		}
		return ln
	}
	ln.Verdict = TooClose
	a, b := ln.Then.Centre, ln.With.Centre
	if t.Unit == "s" && t.Better == job.Lower {
		ln.Saves = new(a - b)
	}
	r, ok := side.RatioOf(t, ln.Then, ln.With)
	if !ok {
		return ln
	}
	ln.ratio, ln.decided = r, true
	switch {
	case r.Low > 1:
		ln.Verdict = Faster
	case r.High < 1:
		ln.Verdict = Slower
	default:
		ln.Equal = equal(r)
	}
	if !difference(t) {
		ln.Factor, ln.Low, ln.High, ln.P = &r.Factor, &r.Low, &r.High, &r.P
		if !math.IsInf(r.Spread.Freedom, 1) {
			ln.Freedom = &r.Spread.Freedom
		}
	}
	ln.Felt = ln.Verdict != TooClose && felt(t, math.Abs(a-b), a, o)
	return ln
}

// felt reports whether a difference between waits, from one of so many seconds on, is felt.
func felt(t *job.Test, difference, from float64, o Options) bool {
	return t.Kind == job.Timed && difference >= o.FeltSeconds && difference/from >= o.FeltShare
}

// apart is by how much two sides differ at least, whichever values their bounds stand for.
func apart(then, with *side.Side) float64 {
	thenLow, thenHigh := then.Extent()
	withLow, withHigh := with.Extent()
	return max(0, thenLow-withHigh, withLow-thenHigh)
}

// direction is the verdict on a line of which a side has a bound: faster or slower where every run lies beyond
// every run of the other side, whichever value the bound stands for.
func direction(t *job.Test, then, with *side.Side) Verdict {
	thenLow, thenHigh := then.Extent()
	withLow, withHigh := with.Extent()
	switch lower := t.Better != job.Higher; {
	case withHigh < thenLow && lower, withLow > thenHigh && !lower:
		return Faster
	case withLow > thenHigh && lower, withHigh < thenLow && !lower:
		return Slower
	}
	return NotComparable
}

// equal reports whether a whole interval is so close to 1 that the difference doesn't matter.
func equal(r side.Ratio) bool { return r.Low >= 1/asGoodAsEqual && r.High <= asGoodAsEqual }

// difference reports whether readings have a zero that means nothing, or a logarithm
// already, so that only their difference says something: °C, dB and the like.
func difference(t *job.Test) bool {
	return strings.HasPrefix(t.Unit, "°") || strings.HasPrefix(t.Unit, "dB")
}

// counts reports whether a line takes part in what is claimed after all lines are
// considered.
func (ln *Line) counts() bool {
	return ln.decided && (ln.test.Kind == job.OnDrive || waiting(ln.test))
}

// afterAll reports which differences hold after all lines are considered, and what further
// runs would decide.
func (l *Ledger) afterAll() {
	var lines []*Line
	var p []float64
	for i := range l.Lines {
		if ln := &l.Lines[i]; ln.counts() {
			lines, p = append(lines, ln), append(p, ln.ratio.P)
		}
	}
	rejected, divisors := stats.Holm(p, Level)
	for i, ln := range lines {
		ln.HoldsAfterAll, ln.divisor = rejected[i] && (ln.ratio.Low > 1 || ln.ratio.High < 1), divisors[i]
		ln.further()
	}
}

// mostFurther is the most further runs of one side that are considered.
const mostFurther = 10

// The sides that further runs can be on.
const (
	OnThen = "then"
	OnWith = "with"
)

// further computes how many further runs, all on the same side, would decide the line if they came out like the
// existing ones.
func (ln *Line) further() {
	if ln.HoldsAfterAll || ln.Equal {
		ln.FurtherRuns = new(0)
		return
	}
	for k := 1; k <= mostFurther; k++ {
		for _, on := range []string{OnThen, OnWith} {
			then, with := ln.Then, ln.With
			if on == OnThen {
				then = then.Further(k)
			} else {
				with = with.Further(k)
			}
			if r, ok := side.RatioOf(ln.test, then, with); ok &&
				(r.P <= Level/float64(ln.divisor) && (r.Low > 1 || r.High < 1) || equal(r)) {
				ln.FurtherRuns, ln.FurtherRunsOn = &k, &on
				return
			}
		}
	}
}

// keepsUp reports how both sides keep up, of a test of recordings side by side: by the
// slowest second of any of a side's kept runs (calculations, section 10).
func keepsUp(x *job.Index, t *job.Test, then, with *side.Side) *KeepsUp {
	if t.Params == nil || t.Params.Streams == nil || then == nil && with == nil {
		return nil
	}
	say := func(s *side.Side) string {
		if s == nil {
			return ""
		}
		_, verdict := t.Params.Streams.KeepUp(s.Min)
		return verdict
	}
	return &KeepsUp{say(then), say(with)}
}
