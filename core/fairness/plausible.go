package fairness

import (
	"math"
	"slices"

	"nowthen/core/catalogue"
	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/side"
	"nowthen/core/stats"
)

// eachSide calls do for the lines that a rule touches and each of their sides that was
// measured, whether the other was or not.
func (c *check) eachSide(r *rule, do func(l *line, which int)) {
	for i := range c.lines {
		for which := range c.lines[i].runs {
			if l := &c.lines[i]; r.touches(l.Test) && len(l.runs[which]) > 0 {
				do(l, which)
			}
		}
	}
}

// on returns a value as that of a single side.
func on(which int, v Value) (says [2]Value) {
	says[which] = v
	return says
}

// isLong reports whether a drive test reads or writes one after another in MB/s.
func isLong(t *job.Test) bool {
	if t.Unit != "MB/s" {
		return false
	}
	if p := t.Params; p != nil {
		// A sweep's, a sustained or a shared rate is not what a label promises.
		return p.Pattern == drivetest.Sequential && len(p.Sweep) == 0 && !p.Fresh && p.Streams == nil
	}
	return t.What == catalogue.WhatLongRead || t.What == catalogue.WhatLongWrite
}

func writes(t *job.Test) bool {
	return t.Params != nil && t.Params.Op == drivetest.Write || t.Params == nil && t.What == catalogue.WhatLongWrite
}

// rated is the maker's figure for a long test of a setup's drive, MB/s; 0 where it is
// not known.
func (c *check) rated(l *line, which int) float64 {
	d := c.drive(which)
	switch {
	case d == nil || d.Rated == nil || !isLong(l.Test):
		return 0
	case writes(l.Test):
		return d.Rated.WriteMBs
	}
	return d.Rated.ReadMBs
}

func (c *check) drive(which int) *job.Drive {
	if c.setups[which] == nil {
		return nil
	}
	return c.Drive(c.setups[which].Drive)
}

func (c *check) link(which int) float64 {
	if c.setups[which] == nil {
		return 0
	}
	return c.setups[which].LinkMBs()
}

// atLink reports whether a rate is what a side's link carries.
func (c *check) atLink(which int, rate float64) bool {
	return AtLink(c.link(which), c.setups[which].OverUSB(), rate)
}

// AtLink reports whether a rate is what a link carries, MB/s (calculations, section 6); a link that
// is not known is 0, and carries any.
func AtLink(link float64, usb bool, rate float64) bool {
	near := nearLink
	if usb {
		near = nearUSB
	}
	return link > 0 && rate >= near*link
}

// BelowRating reports whether a rate is less than a drive of that rating should do, MB/s; rated is 0
// where it is not known.
func BelowRating(rate, rated float64) bool { return rated > 0 && rate < belowRating*rated }

func (c *check) portLimit(r *rule) {
	c.eachSide(r, func(l *line, which int) {
		mid := l.sides[which].Centre
		if !isLong(l.Test) || !c.atLink(which, mid) {
			return
		}
		link := c.link(which)
		if link < c.rated(l, which) || link < c.setups[which].CapableMBs() {
			c.add(r, l, on(which,
				Phrase{"of-link", map[string]Value{"Rate": Quantity{mid, "MB/s"}, "Link": Quantity{link, "MB/s"}}}))
		}
	})
}

func (c *check) belowRating(r *rule) {
	c.eachSide(r, func(l *line, which int) {
		mid, rated := l.sides[which].Centre, c.rated(l, which)
		if BelowRating(mid, rated) && !c.atLink(which, mid) {
			remedy := r.id
			if c.link(which) <= 0 {
				remedy = "port-unknown"
			}
			says := on(which,
				Phrase{"of-rating", map[string]Value{"Rate": Quantity{mid, "MB/s"}, "Rated": Quantity{rated, "MB/s"}}})
			c.put(Finding{Rule: r.id, Effect: r.effect, Then: says[0], With: says[1], Remedy: remedy,
				Minutes: r.minutes},
				l.ID, nil)
		}
	})
}

// rate is a run's rate in MB/s, also of one that counts requests.
func rate(t *job.Test, v float64) float64 {
	switch {
	case t.Unit == "MB/s":
		return v
	case t.Unit == "IOPS" && t.Params != nil && len(t.Params.Blocks) == 0:
		return v * float64(t.Params.BlockBytes) / 1e6
	}
	return math.NaN()
}

func (c *check) beyondLink(r *rule) {
	c.eachSide(r, func(l *line, which int) {
		link := c.link(which)
		if link <= 0 {
			return
		}
		var over []string
		top := 0.0
		for _, run := range l.runs[which] {
			if v := rate(l.Test, run.Value); v > overLink*link {
				over, top = append(over, run.ID), max(top, v)
			}
		}
		if len(over) > 0 {
			c.add(r, l, on(which,
				Phrase{"over-link", map[string]Value{"Rate": Quantity{top, "MB/s"}, "Link": Quantity{link, "MB/s"}}}),
				over...)
		}
	})
}

// beyondMechanics finds random reads faster than any disk's arm allows. With a learning cache it is a note.
func (c *check) beyondMechanics(r *rule) {
	c.eachSide(r, func(l *line, which int) {
		s, d := c.setups[which], c.drive(which)
		if s == nil || d == nil || !l.ScatteredRead() || d.Kind != job.HDD && d.Kind != job.Hybrid &&
			d.Kind != job.Cached {
			return
		}
		perSecond := l.sides[which].Centre
		if l.Unit == "MB/s" {
			perSecond *= 1e6 / 4096
		}
		if perSecond <= ArmReads {
			return
		}
		says := on(which, Phrase{"arm-reads", map[string]Value{"Reads": Quantity{math.Round(perSecond), ""}}})
		if d.Kind == job.HDD && s.CacheDrive == "" {
			c.add(r, l, says)
			return
		}
		c.put(Finding{Rule: r.id, Effect: Notes, Then: says[0], With: says[1],
			Remedy: "beyond-mechanics-cached"}, l.ID, nil)
	})
}

// heat finds runs in which the drive was at its limit or above.
func (c *check) heat(r *rule) {
	c.eachSide(r, func(l *line, which int) {
		d := c.drive(which)
		if d == nil || d.Rated == nil || d.Rated.MaxTempC <= 0 {
			return
		}
		var hot []string
		top := math.Inf(-1)
		for _, run := range l.runs[which] {
			if run.PeakTempC != nil && *run.PeakTempC >= d.Rated.MaxTempC {
				hot, top = append(hot, run.ID), max(top, *run.PeakTempC)
			}
		}
		if len(hot) > 0 {
			c.add(r, l, on(which,
				Phrase{"hot", map[string]Value{"Temp": Quantity{top, "°C"},
					"Limit": Quantity{d.Rated.MaxTempC, "°C"}}}), hot...)
		}
	})
}

// weakSupply finds sittings on mains in which the battery still discharged.
func (c *check) weakSupply(r *rule) {
	c.eachSide(r, func(l *line, which int) {
		for _, run := range l.runs[which] {
			k := c.conditions(run)
			if k.Power == job.Mains && k.BatteryFromPct != nil && k.BatteryToPct != nil &&
				*k.BatteryFromPct-*k.BatteryToPct > batterySank {
				c.add(r, l, on(which,
					Phrase{"battery-sank",
						map[string]Value{"From": Quantity{*k.BatteryFromPct, ""},
							"To": Quantity{*k.BatteryToPct, "%"}}}))
				return
			}
		}
	})
}

// engineLimited finds runs in which the measuring program itself was the limit.
func (c *check) engineLimited(r *rule) {
	c.eachSide(r, func(l *line, which int) {
		var busy []string
		core, whole := 0.0, 0.0
		for _, run := range l.runs[which] {
			if e := run.EngineCPU; e != nil && (e.Core > engineBusy || e.All > engineBusy) {
				busy, core, whole = append(busy, run.ID), max(core, e.Core), max(whole, e.All)
			}
		}
		if len(busy) > 0 {
			c.add(r, l, on(which,
				Phrase{"cores-busy", map[string]Value{"Core": Quantity{core, "%"}, "All": Quantity{whole, "%"}}}),
				busy...)
		}
	})
}

// drift finds rounds whose first test, repeated at the end, gave a different result.
func (c *check) drift(r *rule) {
	for i := range c.Runs {
		again := &c.Runs[i]
		if !again.Repeat || again.SetAside != nil || again.Value <= 0 {
			continue
		}
		sitting := c.Sitting(again.Sitting)
		which := slices.Index(c.ids[:], sitting.Setup)
		at := slices.IndexFunc(c.lines, func(l line) bool { return l.ID == again.Test })
		if which < 0 || at < 0 || !c.lines[at].sides[which].HasRatio() {
			continue
		}
		first := &c.lines[at]
		var values []float64
		for _, run := range first.runs[which] {
			if run.Sitting == again.Sitting {
				values = append(values, run.Value)
			}
		}
		if len(values) == 0 {
			continue
		}
		usual := first.sides[which].RunVariance()
		n := len(values)
		usual.Variance *= 1 + stats.MedianVariance(n)/float64(n)
		mid := stats.Median(values)
		if math.Abs(math.Log(again.Value/mid)) <= stats.Combine(usual).HalfWidth(side.Confidence) {
			continue
		}
		says := on(which, Phrase{"drifted",
			map[string]Value{"Test": Test(first.ID), "End": Quantity{again.Value, first.Unit},
				"Before": Quantity{mid, first.Unit}}})
		for _, l := range c.touched(r) {
			if slices.ContainsFunc(l.runs[which], func(run *job.Run) bool { return run.Sitting == again.Sitting }) {
				c.add(r, l, says)
			}
		}
	}
}

// loneRun finds kept runs far from the median of their side.
func (c *check) loneRun(r *rule) {
	for _, l := range c.touched(r) {
		for which, runs := range l.runs {
			mid := l.sides[which].Centre
			if mid <= 0 {
				continue
			}
			if c.learns(l, which) {
				if s := side.Slipped(l.Test, runs, side.Usual(c.Job, l.Kind)); s != nil && l.sides[which].IsSettling() {
					c.add(r, l, on(which, lone(s.Value, mid, l.Unit)), s.ID)
				}
				continue
			}
			if len(side.Before(l.Test, runs, side.Usual(c.Job, l.Kind))) > 0 {
				continue // that is a finding of its own
			}
			var alone []string
			far := mid
			for _, run := range runs {
				if run.Value > mid*loneRatio || run.Value < mid/loneRatio {
					alone, far = append(alone, run.ID), run.Value
				}
			}
			if len(alone) > 0 {
				c.add(r, l, on(which, lone(far, mid, l.Unit)), alone...)
			}
		}
	}
}

func lone(run, median float64, unit string) Value {
	return Phrase{"lone", map[string]Value{"Run": Quantity{run, unit}, "Median": Quantity{median, unit}}}
}

// learns reports whether a side counts as having a learning drive.
func (c *check) learns(l *line, which int) bool {
	s := l.sides[which]
	return s != nil && s.State != nil
}

// notSettled finds sides of drives that learn whose runs still change, or scatter.
func (c *check) notSettled(r *rule) {
	c.eachSide(r, func(l *line, which int) {
		s := l.sides[which]
		if !s.IsSettling() {
			return
		}
		key := "settling"
		if s.N >= side.MostLearning {
			key = "scatters"
			if side.StillChanging(l.Test, l.runs[which], side.Usual(c.Job, l.Kind)) {
				key = "still-changing"
			}
		}
		c.add(r, l, on(which,
			Phrase{key, map[string]Value{"First": Quantity{*s.First, l.Unit}, "Last": Quantity{*s.Last, l.Unit}}}))
	})
}

// settles finds first runs that were all slower than those that follow, of drives that don't learn.
func (c *check) settles(r *rule) {
	c.eachSide(r, func(l *line, which int) {
		if c.learns(l, which) {
			return
		}
		before := side.Before(l.Test, l.runs[which], side.Usual(c.Job, l.Kind))
		if len(before) == 0 {
			return
		}
		var ids []string
		for _, run := range before {
			ids = append(ids, run.ID)
		}
		c.add(r, l, on(which, Phrase{"slow-first", map[string]Value{"First": Quantity{before[0].Value, l.Unit},
			"Rest": Quantity{l.runs[which][len(before)].Value, l.Unit}}}), ids...)
	})
}

// simulated marks what did not come from a real computer, everywhere.
func (c *check) simulated(r *rule) {
	var says [2]Value
	c.eachSide(r, func(l *line, which int) {
		if slices.ContainsFunc(l.runs[which], func(run *job.Run) bool { return run.Simulated }) {
			says[which] = Term{"simulated", "yes"}
		}
	})
	if says == [2]Value{} {
		return
	}
	c.eachSide(r, func(l *line, _ int) { c.add(r, l, says) })
}

// firstAfterSwap finds starts that were kept although they were the first after a swap.
func (c *check) firstAfterSwap(r *rule) {
	for which, id := range c.ids {
		for _, first := range c.firstStarts(id) {
			for i := range c.lines {
				if l := &c.lines[i]; l.ID == first.Test && l.compared() && first.Kept() {
					c.add(r, l, on(which, Term{"start", "first-after-swap"}), first.ID)
				}
			}
		}
	}
}

// firstStarts are the first starts of the sittings on a setup that followed a swap, and
// the runs that say so of themselves, whether they were kept or not.
func (c *check) firstStarts(setup string) []*job.Run {
	var all []*job.Run
	for i := range c.Tests {
		if t := &c.Tests[i]; catalogue.IsStart(t) {
			runs := c.RunsOf(t.ID, setup)
			for k := range runs {
				all = append(all, &runs[k])
			}
		}
	}
	slices.SortStableFunc(all, func(a, b *job.Run) int { return a.At.Compare(b.At) })
	var first []*job.Run
	seen := map[string]bool{}
	for _, r := range all {
		own := r.Conditions != nil && r.Conditions.FirstAfterSwap != nil && *r.Conditions.FirstAfterSwap
		of := c.Sitting(r.Sitting).Conditions.FirstAfterSwap
		if own || of != nil && *of && !seen[r.Sitting] {
			first = append(first, r)
		}
		seen[r.Sitting] = true
	}
	return first
}
