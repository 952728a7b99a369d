// Package fitting decides whether a drive fits into a model of computer: form factor, key and
// height, the slot's interfaces, which ports it disables, and whether the computer can start
// from it.
//
// It is pure, and uses what the shop recorded about the model and the drive. What was not
// recorded is unknown, never fine.
package fitting

import (
	"fmt"
	"slices"
	"strings"

	"nowthen/core/checks"
	"nowthen/core/hardware"
	"nowthen/core/job"
)

// Interfaces of a place.
const (
	SATA = "sata"
	NVMe = "nvme"
)

// Attached is the check whether anything is attached to a port that a slot disables; somebody has to look.
const Attached = "switched-off"

// Place is where a drive can go in a model of computer. Name identifies it, as the board names it.
type Place struct {
	Name string   `json:"name,omitzero"`
	Form job.Form `json:"form"`
	// HeightMM is how high a drive may be, LengthsMM which lengths can be held; not known where 0 or none.
	HeightMM  float64   `json:"height_mm,omitzero"`
	LengthsMM []float64 `json:"lengths_mm,omitempty"`
	Key       string    `json:"key,omitzero"`
	// Speaks is the slot's actual interface, whatever its shape suggests; empty: not known.
	Speaks []string `json:"speaks,omitempty"`
	// SwitchesOff are the ports it disables while in use; nil: not known, empty: none.
	SwitchesOff []string `json:"switches_off,omitzero"`
	// HeatSink reports whether there is space for one; Power whether the right plug exists.
	HeatSink *bool `json:"heat_sink,omitzero"`
	Power    *bool `json:"power,omitzero"`
}

// Model is what the shop knows about a computer model.
type Model struct {
	Place Place `json:"place"`
	// More are its further places for drives.
	More []Place `json:"more,omitempty"`
	// StartsNVMe reports whether its firmware starts from an NVMe drive.
	StartsNVMe *bool `json:"starts_nvme,omitzero"`
	// Screws, Tools and Pitfalls are notes for the next visit, Minutes how long opening and closing takes.
	Screws   string  `json:"screws,omitzero"`
	Tools    string  `json:"tools,omitzero"`
	Pitfalls string  `json:"pitfalls,omitzero"`
	Minutes  float64 `json:"minutes,omitzero"`
	// Fixes are what fixed a check, by its id, the latest last.
	Fixes map[string][]string `json:"fixes,omitempty"`
	// Photos show where what is; from earlier jobs.
	Photos []Photo `json:"photos,omitempty"`
}

// Photo is one of a job, with what it shows.
type Photo struct {
	Job   string `json:"job"`
	ID    string `json:"id"`
	Words string `json:"words"`
}

// keys are those of drives that go into a place of a key: the notch of the drive has to meet it.
var keys = map[string][]string{"M": {"M", "B+M"}, "B": {"B", "B+M"}}

// Slot is a slot of a model, with whether the drive fits: fine, wrong or unknown.
type Slot struct {
	Name  string         `json:"name"`
	State job.CheckState `json:"state"`
}

// Of reports whether a drive goes into the best of a model's places, as far as both are known, and
// which places there are,
// that one first. facts are what the probe told of the computer, and old the
// drive in it that is replaced; nil where they are not known. attached is what somebody saw who
// checked whether anything
// is attached to a port that is switched off: fine, wrong, or "".
// What the shop noted goes before what the board reports.
func Of(m *Model, d *job.Drive, facts *hardware.Facts, old *hardware.Drive,
	attached job.CheckState) ([]checks.Check, []Slot) {
	type tried struct {
		slot Slot
		of   []checks.Check
		bad  int
	}
	var all []tried
	for _, p := range append([]Place{m.Place}, m.More...) {
		one := *m
		one.Place = p
		t := tried{slot: Slot{Name: p.Name, State: checks.Fine}, of: into(&one, d, facts, old, attached)}
		for _, c := range t.of {
			switch c.State {
			case checks.Wrong:
				t.bad += 100
				t.slot.State = checks.Wrong
			case checks.Unknown:
				t.bad++
				if t.slot.State == checks.Fine {
					t.slot.State = checks.Unknown
				}
			case checks.Fine:
			}
		}
		all = append(all, t)
	}
	slices.SortStableFunc(all, func(a, b tried) int { return a.bad - b.bad })
	slots := make([]Slot, len(all))
	for i, t := range all {
		slots[i] = t.slot
	}
	return all[0].of, slots
}

// into reports whether a drive goes into a model's place.
func into(m *Model, d *job.Drive, facts *hardware.Facts, old *hardware.Drive, attached job.CheckState) []checks.Check {
	s := job.Shape{}
	if d.Shape != nil {
		s = *d.Shape
	}
	t := tell(m, d, s, facts, old)
	l := &list{told: t.told}
	p := t.Place
	m = &t.Model
	speaks := map[job.DriveKind]string{job.NVMe: NVMe, job.SataSSD: SATA, job.HDD: SATA, job.Hybrid: SATA}[d.Kind]

	l.known("form", "The form factor fits", p.Form != "" && s.Form != "", p.Form == s.Form, or(s.Form), or(p.Form),
		"Take a drive of that form, or an adapter that the place has room for.")
	if s.Form == job.Form25 || p.Form == job.Form25 || s.HeightMM > 0 && p.HeightMM > 0 {
		l.known("height", "The height fits", p.HeightMM > 0 && s.HeightMM > 0, s.HeightMM <= p.HeightMM,
			mm(s.HeightMM), "at most "+mm(p.HeightMM), "Take a lower one; do not press it in.")
	}
	if s.Form == job.FormM2 || p.Form == job.FormM2 {
		lengths := make([]string, len(p.LengthsMM))
		for i, v := range p.LengthsMM {
			lengths[i] = mm(v)
		}
		l.known("length", "There is a standoff for its length", len(p.LengthsMM) > 0 && s.LengthMM > 0,
			slices.Contains(p.LengthsMM,
				s.LengthMM), mm(s.LengthMM), or(strings.Join(lengths, ", ")),
			"Take one of such a length, or a holder that lengthens a shorter one.")
		l.known("key", "Its key fits the slot", p.Key != "" && s.Key != "",
			p.Key == s.Key || slices.Contains(keys[p.Key],
				s.Key), or(s.Key), or(p.Key), "Take one with the right notch: this one cannot be plugged in.")
	}
	l.known("speaks", "The slot supports its interface", len(p.Speaks) > 0 && speaks != "",
		slices.Contains(p.Speaks,
			speaks), say(speaks), or(strings.Join(each(p.Speaks, say), ", ")),
		"It would fit, but the computer would not recognise it. Take one with an interface that the slot supports.")
	l.switchedOff(p.SwitchesOff, attached)
	l.known("power", "A power connector is available", p.Power != nil, p.Power != nil && *p.Power, yes(p.Power), "",
		"Order the cable or the adapter with the drive.")
	if d.Kind == job.NVMe {
		l.known("heat-sink", "There is room for a heat sink", p.HeatSink != nil, p.HeatSink != nil && *p.HeatSink,
			yes(p.HeatSink), "", "Take one that does without, or a flat one; tell the customer that long writing "+
				"will be slower.")
		l.known("starts", "The firmware can start from it", m.StartsNVMe != nil, m.StartsNVMe != nil && *m.StartsNVMe,
			yes(m.StartsNVMe), "", "Update the firmware, or take a SATA drive: the computer would not start from "+
				"this one.")
	}
	if d.Kind != job.HDD && d.Kind != "" {
		trim := trims(facts)
		l.known("trim", "The system uses TRIM", trim != nil, trim != nil && *trim, yes(trim), "",
			"Switch it on after the swap; a very old system cannot, and slows the drive down in time.")
	}
	return l.of
}

// switchedOff adds whether anything is attached to ports that a place disables; nil are ports that are not known.
func (l *list) switchedOff(ports []string, attached job.CheckState) {
	const title = "It disables no port in use"
	names := strings.Join(ports, ", ")
	switch {
	case ports == nil:
		l.add(Attached, title, checks.Unknown, "not known; look into the board’s manual", "", "")
	case len(ports) == 0:
		l.add(Attached, title, checks.Fine, "none", "", "")
	default:
		found := map[job.CheckState]string{checks.Fine: "nothing is attached to " + names,
			checks.Wrong: "something is attached to " + names + ", which the slot disables"}[attached]
		state := attached
		if found == "" {
			state, found = checks.Unknown, "the slot disables "+names+"; is anything attached there?"
		}
		l.add(Attached, title, state, found, "", "Move what is attached there to another port first.")
		l.of[len(l.of)-1].ByHand = true
	}
}

// trims reports whether the system trims a drive that it has now; nil where it has none of flash, or does not report it.
func trims(f *hardware.Facts) *bool {
	if f == nil {
		return nil
	}
	for _, d := range f.Drives {
		if d.Kind != job.HDD && d.Trim != nil {
			return d.Trim
		}
	}
	return nil
}

type list struct {
	of   []checks.Check
	told map[string]string // by check, what the computer itself tells
}

func (l *list) add(id, title string, state job.CheckState, found, should, do string) {
	if says := l.told[id]; says != "" {
		if found == or("") {
			found = says
		} else {
			found += "; " + says
		}
	}
	if state != checks.Wrong {
		do = ""
	}
	l.of = append(l.of, checks.Check{ID: id, Title: title, State: state, Found: found, Should: should, Do: do})
}

// known adds a check that is unknown unless both sides of it are.
func (l *list) known(id, title string, known, fine bool, found, should, do string) {
	state := checks.Unknown
	if known {
		state = checks.Wrong
		if fine {
			state = checks.Fine
		}
	}
	l.add(id, title, state, found, should, do)
}

func or[T ~string](s T) string {
	if s == "" {
		return "not known"
	}
	return string(s)
}

func mm(v float64) string {
	if v == 0 {
		return "not known"
	}
	return fmt.Sprintf("%.4g mm", v)
}

func say(speaks string) string {
	switch speaks {
	case SATA:
		return "SATA"
	case NVMe:
		return "NVMe"
	}
	return "not known"
}

func each(list []string, f func(string) string) []string {
	out := make([]string, len(list))
	for i, s := range list {
		out[i] = f(s)
	}
	return out
}

func yes(b *bool) string {
	switch {
	case b == nil:
		return "not known"
	case *b:
		return "yes"
	}
	return "no"
}
