package checks

import (
	"fmt"
	"slices"
	"strings"

	"nowthen/core/hardware/match"

	"nowthen/core/catalogue"
	"nowthen/core/drivetest"
	"nowthen/core/fairness"
	"nowthen/core/hardware"
	"nowthen/core/job"
)

// Noted are checks based on earlier results and measurements, not on the probe's current facts; now are its
// latest facts, or nil.
func Noted(j *job.Job, setup *job.Setup, now *hardware.Facts) []Check {
	d := j.Drive(setup.Drive)
	if d == nil {
		return nil
	}
	return bear(slices.Concat(holds(d), steady(j, d), underLoad(d), heat(j, setup, d, now)))
}

// heat is how warm the drive became while it worked, and how far that is from its limit.
func heat(j *job.Job, setup *job.Setup, d *job.Drive, now *hardware.Facts) []Check {
	var hottest *job.Run
	var coolest, room *float64
	for i := range j.Runs {
		r := &j.Runs[i]
		s := j.Sitting(r.Sitting)
		if s == nil || s.Setup != setup.ID || s.Job != "" || r.PeakTempC == nil {
			continue
		}
		if hottest == nil || *r.PeakTempC > *hottest.PeakTempC {
			hottest, room = r, s.Conditions.RoomTempC
		}
		if r.StartTempC != nil && (coolest == nil || *r.StartTempC < *coolest) {
			coolest = r.StartTempC
		}
	}
	if hottest == nil {
		return nil
	}
	c := Check{ID: "heat", Title: "It stays cool while it works", Found: fmt.Sprintf("%.0f °C", *hottest.PeakTempC)}
	if t := j.Test(hottest.Test); t != nil {
		c.Found += " during " + catalogue.InSentence(t.Name)
	}
	if coolest != nil {
		c.Found += fmt.Sprintf(", %.0f °C before", *coolest)
	}
	if room != nil {
		c.Found += fmt.Sprintf(", in a room of %.0f °C", *room)
	}
	limit := 0.0
	if d.Rated != nil {
		limit = d.Rated.MaxTempC
	}
	if now != nil && limit == 0 {
		if at := match.UnderTest(now, j, setup); at != nil && at.MaxTempC != nil {
			limit = *at.MaxTempC
		}
	}
	switch {
	case limit == 0:
		c.State = Unknown
		c.Found += "; its limit is not known"
	case *hottest.PeakTempC < limit-nearLimit:
		c.State = Fine
		c.Found += fmt.Sprintf("; %.0f °C below its limit", limit-*hottest.PeakTempC)
	default:
		c.State, c.Should, c.Do = Wrong, fmt.Sprintf("well below %.0f °C", limit),
			"Give it a heat sink or air, and write for a while again: near its limit a drive slows itself down."
	}
	return []Check{c}
}

// holds checks whether the drive has the capacity it reports.
func holds(d *job.Drive) []Check {
	if d.Held == nil {
		return nil
	}
	h := d.Held
	c := Check{ID: "holds", Title: "True capacity matches the label", State: Fine}
	switch {
	case h.Wrong > 0:
		c.State, c.Found, c.Do = Wrong, fmt.Sprintf("%d of %d blocks came back different", h.Wrong, h.Blocks),
			"Put nothing on it, and send it back."
		if h.First != nil {
			c.Found += ", the first at " + gb(*h.First)
		}
	case h.Missed > missable:
		c.State, c.Found = Unknown,
			fmt.Sprintf("%s over %s came back; a false drive would be missed with a chance of %.0f %%", gb(h.Written),
				gb(h.FileBytes), h.Missed*100)
	case h.Whole:
		c.Found = "all " + gb(h.Written) + " came back as they were written"
	default:
		c.Found = fmt.Sprintf("%s, spread over %s, came back as they were written", gb(h.Written), gb(h.FileBytes))
	}
	c.Found = marked(c.Found, h.Simulated)
	return []Check{c}
}

// steady checks whether the drive kept its writing speed, by its last sustained writing.
func steady(j *job.Job, d *job.Drive) []Check {
	s, p := last(d, false)
	if p == nil {
		return nil
	}
	c := Check{ID: "steady", Title: "It writes steadily", State: Fine,
		Found: fmt.Sprintf("%.4g MB/s over %.3g s", p.MBs, p.Seconds)}
	rate := p.MBs
	if p.Cliff != nil {
		rate = p.Cliff.BeforeMBs
		c.Found = fmt.Sprintf("%.4g MB/s, and after %s %.4g MB/s", rate, gb(p.Cliff.AfterBytes), p.Cliff.AfterMBs)
	}
	rated, link, usb := 0.0, 0.0, false
	if d.Rated != nil {
		rated = d.Rated.WriteMBs
	}
	if s.Attached != nil {
		link, usb = s.Attached.LinkMBs, s.Attached.Port == job.PortUSB
	}
	before := 0.0 // what the drive that it replaces writes, by its label
	if then := j.SetupAs(job.Then); then != nil && j.Drive(then.Drive).Rated != nil {
		before = j.Drive(then.Drive).Rated.WriteMBs
	}
	switch {
	case p.Stopped == drivetest.StoppedByError:
		c.State, c.Do = Wrong,
			"It failed while it was written to: try another port or cable; if it fails again, send it back."
		c.Found += ", and then it failed"
	case p.Stopped == drivetest.StoppedByHeat:
		c.State, c.Do = Wrong, "Give it a heat sink or air, and write again: at its limit a drive slows itself down."
		c.Found += ", and then it had reached its temperature limit"
	case p.Cliff != nil && p.Cliff.Cause == drivetest.HeatCause:
		c.State, c.Should, c.Do = Wrong, "as it began",
			"It slowed itself down for its heat: give it a heat sink or air, and write again."
	case p.Cliff != nil && p.Cliff.AfterMBs < before:
		c.State, c.Should, c.Do = Wrong,
			fmt.Sprintf("no slower than the %.4g MB/s of the drive that it replaces",
				before), "Send it back before anything is put on it: once its write cache is full it is slower than the "+
				"old one."
	case !fairness.BelowRating(rate, rated) && rated > 0:
		c.Found += fmt.Sprintf("; rated %.4g MB/s", rated)
		if p.Seconds < shortest {
			c.State = Unknown
			c.Found += ", and too short to tell whether it stays so"
		}
	case rated == 0:
		c.State = Unknown
		c.Found += "; what it is rated is not known"
	case link == 0:
		c.State = Unknown
		c.Found += fmt.Sprintf("; rated %.4g MB/s, and what its link carried is not known", rated)
	case fairness.AtLink(link, usb, rate):
		c.State = Unknown
		c.Found += fmt.Sprintf("; that is what its link carried (%.4g MB/s)", link)
	default:
		c.State, c.Should, c.Do = Wrong, fmt.Sprintf("about the %.4g MB/s that it is rated", rated),
			"Write again on another port; if it stays so, send it back before anything is put on it."
	}
	c.Found = marked(c.Found, s.Simulated)
	return []Check{c}
}

// underLoad checks how warm the drive became while it was written to under processor load, by its last such part.
func underLoad(d *job.Drive) []Check {
	s, loaded := last(d, true)
	if loaded == nil || loaded.PeakC == nil {
		return nil
	}
	c := Check{ID: "under-load", Title: "It stays cool under load"}
	var found []string
	for i := range s.Parts {
		if p := &s.Parts[i]; !p.Loaded && p.PeakC != nil {
			if p.StartC != nil {
				found = append(found, fmt.Sprintf("%.0f °C before", *p.StartC))
			}
			found = append(found, fmt.Sprintf("%.0f °C while it was written to", *p.PeakC))
		}
	}
	with := "the processor"
	if s.Graphics != nil && *s.Graphics {
		with += " and the graphics"
	}
	found = append(found, fmt.Sprintf("%.0f °C with %s loaded", *loaded.PeakC, with))
	if s.HeatSink != nil {
		found = append(found, sink(*s.HeatSink))
	}
	if s.RoomC != nil {
		found = append(found, fmt.Sprintf("in a room of %.0f °C", *s.RoomC))
	}
	c.Found = strings.Join(found, ", ")
	peak, limit := *loaded.PeakC, s.LimitC
	if limit == nil && d.Rated != nil && d.Rated.MaxTempC > 0 {
		limit = &d.Rated.MaxTempC
	}
	switch {
	case limit == nil:
		c.State = Unknown
		c.Found += "; its limit is not known"
	case peak < *limit-nearLimit:
		c.State = Fine
		c.Found += fmt.Sprintf("; %.0f °C below its limit", *limit-peak)
	default:
		c.State, c.Should, c.Do = Wrong, fmt.Sprintf("well below %.0f °C", *limit),
			"Give it a heat sink or air, and write again: near its limit a drive slows itself down."
	}
	if other := otherwise(d, s); other != nil {
		c.Found += fmt.Sprintf("; %s it was %.0f °C", sink(*other.HeatSink), *loadedPart(other).PeakC)
	}
	c.Found = marked(c.Found, s.Simulated)
	return []Check{c}
}

// marked marks a result as simulated if a simulated computer found it.
func marked(found string, simulated bool) string {
	if simulated {
		found += " (simulated)"
	}
	return found
}

func sink(with bool) string {
	if with {
		return "with a heat sink"
	}
	return "without a heat sink"
}

// last is the newest result with a part written alone, or under processor load, and that part; nil if there is
// none.
func last(d *job.Drive, loaded bool) (*job.Sustained, *job.SustainedPart) {
	for i := range slices.Backward(d.Sustained) {
		s := &d.Sustained[i]
		for k := range s.Parts {
			if s.Parts[k].Loaded == loaded {
				return s, &s.Parts[k]
			}
		}
	}
	return nil, nil
}

// loadedPart is a result's part under processor load, nil if it has none.
func loadedPart(s *job.Sustained) *job.SustainedPart {
	for i := range s.Parts {
		if s.Parts[i].Loaded {
			return &s.Parts[i]
		}
	}
	return nil
}

// otherwise is the newest result with a heat sink if s was without one, or the other way round; nil if there is
// none.
func otherwise(d *job.Drive, s *job.Sustained) *job.Sustained {
	if s.HeatSink == nil {
		return nil
	}
	for i := range slices.Backward(d.Sustained) {
		o := &d.Sustained[i]
		if p := loadedPart(o); o.HeatSink != nil && *o.HeatSink != *s.HeatSink && p != nil && p.PeakC != nil {
			return o
		}
	}
	return nil
}
