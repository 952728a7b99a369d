package forecast

import (
	"math"
	"slices"

	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/side"
	"nowthen/core/value"
)

// Format and Version are at the head of a forecast.
const (
	Format  = "nowthen-forecast"
	Version = 1
)

// Forecast is what to expect of each candidate. Unknown members are nil.
type Forecast struct {
	Format     string      `json:"format"`
	Version    int         `json:"version"`
	Candidates []Candidate `json:"candidates"`
	// OtherCause are signs that the drive is not what the computer waits for: processor-busy, memory-full,
	// drive-share-small.
	OtherCause []string  `json:"other_cause"`
	Record     Record    `json:"record"`
	Refused    []Refused `json:"refused"`
}

// Candidate is a kind of drive, or a drive of the shop's price list.
type Candidate struct {
	New        string        `json:"new"`
	Kind       job.DriveKind `json:"kind"`
	Capacity   int64         `json:"capacity_bytes"` // 0: not known
	Price      *job.Price    `json:"price"`
	PricePerTB *float64      `json:"price_per_tb"`
	// PaybackWeeks is after how many weeks the time saved has earned the price, at the customer's own hourly worth.
	PaybackWeeks *Ends  `json:"payback_weeks"`
	Waits        []Wait `json:"waits"`
	// HoursPerYear is what it saves at this customer's use (calculations, section 4).
	HoursPerYear *Ends `json:"hours_per_year"`
	// HardlyFelt are tests whose difference would hardly be felt at either end of the range.
	HardlyFelt []string `json:"hardly_felt"`
}

// Ends of a range.
type Ends struct {
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// Wait is a wait to expect, s: an 80 % range for this computer, from how many jobs of which class.
type Wait struct {
	Test      string   `json:"test"`
	Then      *float64 `json:"then"` // nil: not measured yet
	NowLow    float64  `json:"now_low"`
	NowMiddle float64  `json:"now_middle"`
	NowHigh   float64  `json:"now_high"`
	Jobs      int      `json:"jobs"`
	Class     string   `json:"class"`
	// Floor is below which no drive can bring it, where a trial of this job told; else nil.
	Floor *float64 `json:"floor"`
}

// Refused is a test without a forecast, and why.
type Refused struct {
	Test string `json:"test"`
	Why  string `json:"why"`
}

// Drive is what a candidate is: a kind, and what it costs where it is one of a price list.
type Drive struct {
	Name          string // as it was asked for
	Kind          job.DriveKind
	Price         *job.Price
	CapacityBytes int64
}

// Signs of another cause.
const (
	ProcessorBusy   = "processor-busy"
	MemoryFull      = "memory-full"
	DriveShareSmall = "drive-share-small"
)

// busyCPU is from which processor load on, percent, the processor is what is waited for rather than the drive.
const busyCPU = 60

// fullMemory is from which share of the memory in use on, percent, a computer moves data to its drive and back.
const fullMemory = 90

// smallShare is up to which share of a wait the drive hardly matters.
const smallShare = 0.3

// weeksPerYear as savings count them (calculations, section 4).
const weeksPerYear = 52

// For forecasts a job's waits for each candidate, from other jobs alone: what the job itself measured afterwards says
// nothing of how it could have been foretold. The drive in it is Then's; ok is false where it has none.
func (s *Shop) For(j *job.Job, drives []Drive, o compare.Options) (f *Forecast, ok bool) {
	then := j.SetupAs(job.Then)
	if then == nil {
		return nil, false
	}
	old := kindOf(j, then)
	ix := j.Indexed()
	f = &Forecast{Format: Format, Version: Version, Candidates: []Candidate{}, OtherCause: otherCauses(ix, then),
		Record: RecordOf(s.Past()), Refused: []Refused{}}
	own := slices.IndexFunc(s.jobs, func(p Past) bool { return p.Job != "" && p.Job == j.Head.Number })
	floors := floorsOf(ix, then, o, f)
	refused := map[string]bool{}
	for _, d := range drives {
		c := Candidate{New: d.Name, Kind: d.Kind, Capacity: d.CapacityBytes, Price: d.Price, Waits: []Wait{},
			HardlyFelt: []string{}}
		var saved savings
		for i := range j.Tests {
			t := &j.Tests[i]
			if t.Retired || t.Unit != "s" || t.Kind != job.Timed && t.Kind != job.OnFiles {
				continue
			}
			w, why := s.wait(ix, t, then.ID, old, d.Kind, own)
			if why != "" {
				if !refused[t.ID] {
					refused[t.ID] = true
					f.Refused = append(f.Refused, Refused{t.ID, why})
				}
				continue
			}
			if floor, ok := floors[t.ID]; ok {
				w.Floor = &floor
				w.NowLow, w.NowMiddle, w.NowHigh = max(w.NowLow, floor), max(w.NowMiddle, floor), max(w.NowHigh, floor)
			}
			c.Waits = append(c.Waits, w)
			if w.Then != nil && !felt(*w.Then, w.NowLow, o) && !felt(*w.Then, w.NowHigh, o) {
				c.HardlyFelt = append(c.HardlyFelt, t.ID)
			}
			saved.add(j, t, w)
		}
		c.HoursPerYear = saved.hours()
		d.costs(&c, j)
		f.Candidates = append(f.Candidates, c)
	}
	return f, true
}

// wait is what to expect of a test, without the past job of that index; why says why nothing can be said.
func (s *Shop) wait(ix *job.Index, t *job.Test, then string, old, new job.DriveKind, without int) (w Wait, why string) {
	group := catalogue.EffortOf(t).Group
	before := side.Of(ix, t, then)
	if before == nil || !before.HasRatio() {
		r, ok := s.after(t.What, old, new, without)
		if !ok {
			return w, "not measured on this computer, and fewer than five finished jobs tell how long it takes " +
				"afterwards"
		}
		return Wait{Test: t.ID, NowLow: math.Exp(r.Low), NowMiddle: math.Exp(r.Middle()), NowHigh: math.Exp(r.High),
			Jobs: r.Jobs, Class: r.Class}, ""
	}
	r, ok := s.factor(t.What, group, old, new, without)
	if !ok {
		return w, "fewer than five finished jobs tell what such a drive brings"
	}
	measured := before.Centre
	return Wait{Test: t.ID, Then: &measured, NowLow: measured / math.Exp(r.High),
		NowMiddle: measured / math.Exp(r.Middle()),
		NowHigh:   measured / math.Exp(r.Low), Jobs: r.Jobs, Class: r.Class}, ""
}

// felt reports whether a difference between two waits is felt.
func felt(then, now float64, o compare.Options) bool {
	return math.Abs(then-now) >= o.FeltSeconds && math.Abs(then-now)/then >= o.FeltShare
}

// floorsOf are the floors of section 5 that the job's own trials tell, by test.
func floorsOf(ix *job.Index, then *job.Setup, o compare.Options, f *Forecast) map[string]float64 {
	floors := map[string]float64{}
	small, known := true, false
	for i := range ix.Setups {
		trial := &ix.Setups[i]
		if trial.Role != job.Trial {
			continue
		}
		l := compare.Indexed(ix, then.ID, trial.ID, o)
		for k := range l.Lines {
			ln := &l.Lines[k]
			if ln.Floor == nil {
				continue
			}
			if was, ok := floors[ln.Test]; !ok || *ln.Floor < was {
				floors[ln.Test] = *ln.Floor
			}
			known = true
			small = small && *ln.DriveShareHigh < smallShare
		}
	}
	if known && small {
		f.OtherCause = append(f.OtherCause, DriveShareSmall)
	}
	return floors
}

// otherCauses are signs in the conditions under which Then was measured.
func otherCauses(ix *job.Index, then *job.Setup) []string {
	list := []string{}
	seen := func(sign string, of func(*job.Conditions) *float64, from float64) {
		for _, s := range ix.SittingsOn(then.ID) {
			if v := of(&s.Conditions); s.For() == job.ForVisit && v != nil && *v >= from {
				list = append(list, sign)
				return
			}
		}
	}
	seen(ProcessorBusy, func(c *job.Conditions) *float64 { return c.CPUPct }, busyCPU)
	seen(MemoryFull, func(c *job.Conditions) *float64 { return c.MemoryPct }, fullMemory)
	return list
}

// savings add up what a week saves, each occasion once, at both ends.
type savings struct{ by map[string][2]float64 }

func (s *savings) add(j *job.Job, t *job.Test, w Wait) {
	if w.Then == nil || t.PerWeek <= 0 {
		return
	}
	occasion := t.Occasion
	if occasion == "" {
		occasion = "test " + t.ID
	}
	if s.by == nil {
		s.by = map[string][2]float64{}
	}
	if _, counted := s.by[occasion]; counted && t.ID != compare.PlannedHeadline(j) {
		return
	}
	s.by[occasion] = [2]float64{t.PerWeek * (*w.Then - w.NowHigh), t.PerWeek * (*w.Then - w.NowLow)}
}

// hours are those of a year; nil where no test counts.
func (s *savings) hours() *Ends {
	if len(s.by) == 0 {
		return nil
	}
	e := &Ends{}
	for _, v := range s.by {
		e.Low += v[0] * weeksPerYear / 3600
		e.High += v[1] * weeksPerYear / 3600
	}
	return e
}

// costs compares a candidate's price with what it saves.
func (d Drive) costs(c *Candidate, j *job.Job) {
	if d.Price == nil {
		return
	}
	cents, err := value.Cents(d.Price.Amount)
	if err != nil || cents <= 0 {
		return
	}
	amount := float64(cents) / 100
	if d.CapacityBytes > 0 {
		per := amount / (float64(d.CapacityBytes) / 1e12)
		c.PricePerTB = &per
	}
	b := j.Head.Bill
	if b == nil || b.HourWorth == nil || b.HourWorth.Currency != d.Price.Currency || c.HoursPerYear == nil ||
		c.HoursPerYear.Low <= 0 {
		return // it doesn't pay by time for certain, or nobody said what an hour is worth
	}
	hour, err := value.Cents(b.HourWorth.Amount)
	if err != nil || hour <= 0 {
		return
	}
	weeks := func(hoursAYear float64) float64 { return amount / (float64(hour) / 100 * hoursAYear / weeksPerYear) }
	c.PaybackWeeks = &Ends{Low: weeks(c.HoursPerYear.High), High: weeks(c.HoursPerYear.Low)}
}
