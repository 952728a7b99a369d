package compare

import (
	"math"
	"slices"

	"nowthen/core/job"
	"nowthen/core/side"
	"nowthen/core/stats"
)

// Groups holds the two group factors, which are never mixed.
type Groups struct {
	Drive   Group `json:"drive"`
	Waiting Group `json:"waiting"`
}

// Group is the geometric mean of the factors of its lines.
type Group struct {
	Factor *float64 `json:"factor"`
	Low    *float64 `json:"low"`
	High   *float64 `json:"high"`
	Lines  int      `json:"lines"`
}

// Savings is the waiting time that the customer saves in a week.
type Savings struct {
	SecondsPerWeek float64 `json:"seconds_per_week"`
	Low            float64 `json:"low"`
	High           float64 `json:"high"`
	// Clear: the interval excludes no saving at all.
	Clear        bool    `json:"clear"`
	HoursPerYear float64 `json:"hours_per_year"`
	// LeftOut are tests that are used but cannot be compared; SameOccasion those whose
	// occasion another test counts.
	LeftOut      []string `json:"left_out"`
	SameOccasion []string `json:"same_occasion"`
}

const weeksPerYear = 52

// group is the geometric mean of the factors of the measured, comparable lines of those
// kinds. The lines' within and instrument parts are independent; the between parts are
// shared, because the lines were measured in the same sittings.
func (l *Ledger) group(kinds ...job.Kind) Group {
	g, _ := l.over(func(ln *Line) bool { return ln.decided && slices.Contains(kinds, ln.test.Kind) })
	return g
}

// over is the geometric mean of the factors of some lines, with the probability that lines without a difference lie as
// far apart; 1 where there is none.
func (l *Ledger) over(is func(*Line) bool) (g Group, p float64) {
	var lines []*Line
	for i := range l.Lines {
		if ln := &l.Lines[i]; ln.decided && is(ln) {
			lines = append(lines, ln)
		}
	}
	g = Group{Lines: len(lines)}
	switch g.Lines {
	case 0:
		return g, 1
	case 1: // nothing is shared: a group of one line is that line
		g.Factor, g.Low, g.High = &lines[0].ratio.Factor, &lines[0].ratio.Low, &lines[0].ratio.High
		return g, lines[0].ratio.P
	}
	m := float64(len(lines))
	mean, between := 0.0, 0.0
	var parts []stats.Component
	for _, ln := range lines {
		mean += math.Log(ln.ratio.Factor) / m
		between += math.Sqrt(ln.Then.Between+ln.With.Between) / m
		for _, s := range []*side.Side{ln.Then, ln.With} {
			parts = append(parts, s.WithinPart().Times(1/m), s.InstrumentPart().Times(1/m))
		}
	}
	parts = append(parts, stats.Component{Variance: between * between, Freedom: leastBetween(lines)})
	spread := stats.Combine(parts...)
	low, high := side.About(mean, spread.HalfWidth(side.Confidence))
	g.Factor, g.Low, g.High = new(math.Exp(mean)), &low, &high
	return g, spread.Exceeds(mean)
}

// leastBetween is the smallest number of degrees of freedom with which the lines'
// sittings are known.
func leastBetween(lines []*Line) float64 {
	least := math.Inf(1)
	for _, ln := range lines {
		least = min(least, ln.Then.BetweenPart().Freedom, ln.With.BetweenPart().Freedom)
	}
	return least
}

// savings adds up uses per week × seconds saved over the waiting lines, each occasion
// once; nil where no line counts. Lines that are too close to call are in it: to leave
// them out would be to choose the lucky ones.
func (l *Ledger) savings(j *job.Job) *Savings {
	s := &Savings{LeftOut: []string{}, SameOccasion: []string{}}
	var used []*Line
	for i := range l.Lines {
		ln := &l.Lines[i]
		t := ln.test
		switch {
		case !waiting(t) || t.Unit != "s" || t.PerWeek <= 0:
		case ln.Verdict == NotComparable:
			s.LeftOut = append(s.LeftOut, t.ID)
		case ln.decided:
			used = append(used, ln)
		}
	}
	counted := map[string]*Line{}
	for _, ln := range used {
		if o := ln.test.Occasion; o != "" && (counted[o] == nil || ln.Test == PlannedHeadline(j)) {
			counted[o] = ln
		}
	}
	var lines []*Line
	for _, ln := range used {
		if by := counted[ln.test.Occasion]; by != nil && by != ln {
			s.SameOccasion = append(s.SameOccasion, ln.Test)
			continue
		}
		lines = append(lines, ln)
	}
	if len(lines) == 0 {
		return nil
	}
	var parts []stats.Component
	betweenThen, betweenWith := 0.0, 0.0
	for _, ln := range lines {
		then, with := ln.test.PerWeek*ln.Then.Centre, ln.test.PerWeek*ln.With.Centre
		s.SecondsPerWeek += then - with
		parts = append(parts, ln.Then.WithinPart().Times(then), ln.Then.InstrumentPart().Times(then),
			ln.With.WithinPart().Times(with), ln.With.InstrumentPart().Times(with))
		betweenThen += then * math.Sqrt(ln.Then.Between)
		betweenWith += with * math.Sqrt(ln.With.Between)
	}
	least := leastBetween(lines)
	parts = append(parts, stats.Component{Variance: betweenThen * betweenThen, Freedom: least},
		stats.Component{Variance: betweenWith * betweenWith, Freedom: least})
	h := stats.Combine(parts...).HalfWidth(side.Confidence)
	s.Low, s.High = s.SecondsPerWeek-h, s.SecondsPerWeek+h
	s.Clear = s.Low > 0 || s.High < 0
	s.HoursPerYear = s.SecondsPerWeek * weeksPerYear / 3600
	return s
}
