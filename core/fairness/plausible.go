package fairness

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"nowthen/core/job"
	"nowthen/core/stats"
)

// Limits of what can be so (calculations of link and mechanism).
const (
	nearLink     = 0.85 // share of the link from which on the link is the limit
	overLink     = 1.02 // share of the link that no drive can pass
	belowRating  = 0.70 // share of the rated figure
	armReads     = 250  // scattered reads per second that no arm can do
	movedControl = 0.05 // relative change of a control
)

// sideOf says which text of a finding speaks of a setup.
func (c *check) sideOf(setup, text string) (then, with string) {
	if setup == c.then {
		return text, ""
	}
	return "", text
}

// one adds a finding about one side only.
func (c *check) one(setup, rule string, effect Effect, text, remedy string, minutes float64, test string) {
	f := Finding{Rule: rule, Effect: effect, Remedy: remedy, Minutes: minutes}
	f.Then, f.With = c.sideOf(setup, text)
	c.add(f, test)
}

// isLong tells whether a drive test reads or writes one after another in MB/s.
func isLong(t *job.Test) bool {
	if t.Unit != "MB/s" {
		return false
	}
	if p := t.Params; p != nil {
		// A sweep's, a sustained or a shared rate is not what a label promises.
		return p.Pattern == "sequential" && len(p.Sweep) == 0 && !p.Fresh && p.Streams == nil
	}
	return t.What == "long-read" || t.What == "long-write"
}

func writes(t *job.Test) bool {
	return t.Params != nil && t.Params.Op == "write" || t.Params == nil && t.What == "long-write"
}

// plausible sets the drive figures of each side against what its link and its
// mechanism allow.
func (c *check) plausible() {
	for _, id := range []string{c.then, c.with} {
		s := c.j.Setup(id)
		if s == nil {
			continue
		}
		d := c.j.Drive(s.Drive)
		for i := range c.j.Tests {
			t := &c.j.Tests[i]
			runs := c.j.Kept(t.ID, id)
			if t.Kind != job.OnDrive || len(runs) == 0 || d == nil {
				continue
			}
			values := make([]float64, len(runs))
			for i, r := range runs {
				values[i] = r.Value
			}
			slices.Sort(values)
			mid := (values[(len(values)-1)/2] + values[len(values)/2]) / 2
			c.againstLink(s, d, t, mid, values[len(values)-1])
			c.againstArm(s, d, t, mid)
			c.heat(s, d, t, runs)
		}
	}
}

func (c *check) againstLink(s *job.Setup, d *job.Drive, t *job.Test, mid, top float64) {
	link := s.Attached.LinkMBs
	if t.Unit == "MB/s" && link > 0 && top > overLink*link {
		c.one(s.ID, "beyond-link", Blocks, fmt.Sprintf("%.4g MB/s over a link of %.4g MB/s", top, link),
			"Measure again with a larger test file: this figure came out of a cache, not from the drive.", 5, t.ID)
		return
	}
	if !isLong(t) {
		return
	}
	rated := 0.0
	if d.Rated != nil {
		rated = d.Rated.ReadMBs
		if writes(t) {
			rated = d.Rated.WriteMBs
		}
	}
	atLink := link > 0 && mid >= nearLink*link
	switch {
	case atLink && (link < rated || link < s.Attached.CapableMBs):
		c.one(s.ID, "port-limit", Notes, fmt.Sprintf("%.4g MB/s of the %.4g MB/s that the link carries", mid, link),
			"Look at the port, its cable and its firmware setting: drive and port could do more than the link they agreed on.", 10, t.ID)
	case rated > 0 && mid < belowRating*rated && !atLink:
		c.one(s.ID, "below-rating", Notes, fmt.Sprintf("%.4g MB/s against a rated %.4g MB/s", mid, rated),
			"Look at the port, the temperature, the fill level and what else is running; ask the maker if it stays so.", 10, t.ID)
	}
}

func (c *check) againstArm(s *job.Setup, d *job.Drive, t *job.Test, mid float64) {
	perSecond := mid
	if t.Unit == "MB/s" {
		perSecond = mid * 1e6 / 4096
	}
	moving := d.Kind == job.HDD || d.Kind == job.Hybrid || d.Kind == job.Cached
	if !moving || !t.ScatteredRead() || perSecond <= armReads {
		return
	}
	effect, remedy := Blocks, "Measure again with a larger test file: memory or a caching drive answered, not the disk."
	if d.Kind != job.HDD || s.CacheDrive != "" {
		effect, remedy = Notes, "Say so to the customer: its cache answered, and does so only for what it has learnt."
	}
	c.one(s.ID, "beyond-mechanics", effect, fmt.Sprintf("%.0f scattered reads per second on a turning disk", perSecond), remedy, 5, t.ID)
}

// heat finds runs in which the drive was at its limit or above.
func (c *check) heat(s *job.Setup, d *job.Drive, t *job.Test, runs []*job.Run) {
	if d.Rated == nil || d.Rated.MaxTempC <= 0 {
		return
	}
	for _, r := range runs {
		if r.PeakTempC != nil && *r.PeakTempC >= d.Rated.MaxTempC {
			c.one(s.ID, "heat", Qualifies, fmt.Sprintf("%.0f °C at a limit of %.0f °C", *r.PeakTempC, d.Rated.MaxTempC),
				"Let the drive cool, look at its cooling, and measure again.", 10, t.ID)
			return
		}
	}
}

// attachment finds an internal drive that hung on USB on one side only.
func (c *check) attachment() {
	how := func(id string) string {
		s := c.j.Setup(id)
		if s == nil || s.Attached.Port == "" {
			return ""
		}
		d := c.j.Drive(s.Drive)
		if s.Attached.Port == "usb" && d != nil && d.Kind != job.USBFlash {
			return "over USB"
		}
		return "where it belongs (" + s.Attached.Port + ")"
	}
	a, b := how(c.then), how(c.with)
	if a != "" && b != "" && (a == "over USB") != (b == "over USB") {
		c.addAll(Finding{Rule: "attachment", Effect: Qualifies, Then: a, With: b, Minutes: 15,
			Remedy: "Fit the drive inside, on the port it is for, and measure again."}, measured...)
	}
}

// otherWork finds work on the computer between the two sides that changes
// waiting as well.
func (c *check) otherWork() {
	for _, t := range c.compared(job.Timed, job.OnFiles) {
		first, _ := c.span(t.ID, c.then)
		_, last := c.span(t.ID, c.with)
		var what []string
		for _, w := range c.j.Head.Work {
			switch w.What {
			case "cleaning", "cooling", "firmware", "drivers", "tidying":
			default:
				continue
			}
			before := !first.IsZero() && w.At.Before(first)
			after := !last.IsZero() && w.At.After(last)
			if !before && !after && !slices.Contains(what, w.What) {
				what = append(what, w.What)
			}
		}
		if len(what) > 0 {
			c.add(Finding{Rule: "other-work", Effect: Qualifies, Then: "before: " + strings.Join(what, ", "), With: "after it",
				Remedy: "Say so to the customer: that work can shorten waiting as well."}, t.ID)
		}
	}
}

// span returns when the first and the last kept run of a test on a setup were
// made; zero where that is not known.
func (c *check) span(test, setup string) (first, last time.Time) {
	for _, r := range c.j.Kept(test, setup) {
		at := r.At
		if at.IsZero() {
			at = c.j.Sitting(r.Sitting).Started
		}
		if at.IsZero() {
			return time.Time{}, time.Time{}
		}
		if first.IsZero() || at.Before(first) {
			first = at
		}
		if at.After(last) {
			last = at
		}
	}
	return first, last
}

// controls finds a control that moved: something else than the drive changed.
func (c *check) controls() {
	for _, t := range c.compared(job.Control) {
		a, b := c.median(t.ID, c.then), c.median(t.ID, c.with)
		if math.Abs(b/a-1) > movedControl {
			c.addAll(Finding{Rule: "control-moved", Effect: Qualifies, Then: fmt.Sprintf("%s %.4g %s", t.Name, a, t.Unit), With: fmt.Sprintf("%.4g %s", b, t.Unit),
				Remedy: "Find out what else changed (power, heat, other work), then measure again.", Minutes: 10}, job.Timed, job.OnFiles)
		}
	}
}

// median of the kept runs of a test on a setup, which has some.
func (c *check) median(test, setup string) float64 {
	var values []float64
	for _, r := range c.j.Kept(test, setup) {
		values = append(values, r.Value)
	}
	return stats.Median(values)
}
